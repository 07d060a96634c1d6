/** The one way to the server: typed by its own schema, with the CSRF token on everything that changes something. */
import createClient from 'openapi-fetch'
import { newKey } from './key'
import { Refusal } from './refusal'
import { seenOf } from './seen'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type Clip = Schemas['Clip']
export type Athlete = Schemas['Athlete']
export type Bench = Schemas['Bench']
export type AnalysisDocument = Schemas['AnalysisDocument']
export type Lift = Schemas['AnalysisLift']
export type Finding = Lift['findings'][number]
export type Evidence = Finding['evidence'][number]
export type Measure = Lift['measures'][string]
export type Review = Schemas['Review']
export type Handed = Schemas['Handed']
export type Offer = Schemas['Offer']
export type Assignment = Schemas['Assignment']
export type Catalogue = Schemas['Catalogue']

export const csrfToken = (): string => /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? ''

const AGAIN_MS = 1000

/** What carries a key is done once however often it is sent, so that it is sent again when no answer came. */
async function sent(request: Request): Promise<Response> {
  if (!request.headers.has('Idempotency-Key')) return globalThis.fetch(request)
  try {
    return await globalThis.fetch(request.clone())
  } catch {
    await new Promise((done) => setTimeout(done, AGAIN_MS))
    return globalThis.fetch(request)
  }
}

export const api = createClient<paths>({ baseUrl: '/', fetch: sent })

api.use({
  onRequest({ request }) {
    if (!['GET', 'HEAD'].includes(request.method)) {
      request.headers.set('X-CSRFToken', csrfToken())
      const seen = seenOf(request.url)
      if (seen !== undefined) request.headers.set('X-Seen', String(seen))
    }
    if (request.method === 'POST') request.headers.set('Idempotency-Key', newKey())
    return request
  },
})

export { Refusal }

/** The data of an answer, or a Refusal with the server's own sentence. */
export async function ask<T>(answer: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let got
  try {
    got = await answer
  } catch {
    throw new Refusal('The server cannot be reached. What you entered is still here; try again in a moment.')
  }
  if (got.response.ok) return got.data as T
  throw new Refusal(sentence(got.error, got.response.status), got.error)
}

/** What went wrong, in words, from any of the shapes in which the server says it. */
export function sentence(error: unknown, status: number): string {
  const told = (error as { detail?: unknown } | null)?.detail
  if (status >= 500 && typeof told === 'string') return told
  if (status >= 500) return 'Something went wrong on the server. What you entered is still here; try again in a moment.'
  if (typeof error === 'string' && error && error.length < 300) return error
  if (error && typeof error === 'object') {
    const parts = Object.entries(error as Record<string, unknown>).flatMap(([field, said]) => {
      if (['code', 'changed', 'theirs'].includes(field)) return []
      const words = Array.isArray(said)
        ? said.map((one) => (typeof one === 'string' ? one : sentence(one, status)))
        : [typeof said === 'string' ? said : sentence(said, status)]
      return words.map((word) =>
        ['detail', 'non_field_errors'].includes(field) ? word : `${field.replaceAll('_', ' ')}: ${word}`,
      )
    })
    if (parts.length) return parts.join(' ')
  }
  return `The server refused this (${status}).`
}
