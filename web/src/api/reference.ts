import { api, ask, type Schemas } from './client'

const LOOK_MS = 300

/** A lift of a clip as the made-up lifter does it; the server makes it on being asked for it. */
export async function referenceOf(id: string, lift: number): Promise<Schemas['Reference']> {
  for (;;) {
    const told = await ask(api.GET('/api/clips/{id}/reference/{lift}', { params: { path: { id, lift } } }))
    if (told) return told
    await new Promise((done) => setTimeout(done, LOOK_MS))
  }
}
