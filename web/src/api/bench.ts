import { api, ask, type Bench } from './client'

/** The analysis of a clip with all that was said of it, judged by what stands now. */
export async function benchOf(id: string): Promise<Bench> {
  const params = { path: { id } }
  const told = await ask(api.GET('/api/clips/{id}/bench', { params }))
  return told.outdated ? ask(api.POST('/api/clips/{id}/bench', { params })) : told
}
