/**
 * A server for tests: `vi.mock('@/api/client', async () => (await import('@/testing/server')).client)` puts it in the place of the real
 * one. It answers a path with what is laid under it, or does as the function there says, and writes down what it was asked.
 */
interface Options {
  params?: { path?: Record<string, unknown>; query?: Record<string, unknown> }
  body?: unknown
}
export interface Asked {
  method: string
  path: string
  body?: unknown
}

/** By method and path, or by path alone for what is only read. */
export const answers = new Map<string, unknown>()
export const asked: Asked[] = []
/** What was asked of the server to change something. */
export const changes = () => asked.filter((one) => one.method !== 'GET')

const call =
  (method: string) =>
  (template: string, { params = {}, body }: Options = {}): Asked => {
    const path = template.replace(/\{(\w+)\}/g, (_, name: string) => String(params.path?.[name]))
    const query = Object.entries(params.query ?? {}).map(([name, value]) => `${name}=${String(value)}`)
    return { method, path: query.length ? `${path}?${query.join('&')}` : path, ...(body === undefined ? {} : { body }) }
  }

async function ask(one: Asked): Promise<unknown> {
  asked.push(one)
  // What is only read needs no method before its path, and any query of it may have the same answer.
  const known = [`${one.method} ${one.path}`, ...(one.method === 'GET' ? [one.path, one.path.split('?')[0]!] : [])]
  const answer = known.map((path) => answers.get(path)).find((laid) => laid !== undefined)
  if (answer === undefined) throw new Error(`Nothing answers ${one.method} ${one.path}.`)
  if (answer instanceof Error) throw answer
  return typeof answer === 'function' ? (answer as (body: unknown) => unknown)(one.body) : answer
}

export const client = {
  api: {
    GET: call('GET'),
    POST: call('POST'),
    PUT: call('PUT'),
    PATCH: call('PATCH'),
    DELETE: call('DELETE'),
  },
  ask,
}

export function forget() {
  answers.clear()
  asked.length = 0
}
