import { describe, expect, it } from 'vitest'
import { ask, Refusal, sentence } from './client'

const refused = (status: number, error: unknown) =>
  ask(Promise.resolve({ error, response: new Response('', { status }) }))

describe('what the server says when it refuses', () => {
  it('is passed on in its own words', () => {
    expect(sentence({ detail: 'The file is empty. Send the clip again.', code: 'empty_file' }, 422)).toBe(
      'The file is empty. Send the clip again.',
    )
  })
  it('names the field it is about', () => {
    expect(sentence({ stature_m: ['Ensure this value is less than or equal to 2.4.'] }, 400)).toContain(
      'stature m: Ensure',
    )
    expect(sentence({ bests: [{ kilos: ['A valid number is required.'] }] }, 400)).toContain(
      'A valid number is required.',
    )
  })
  it('is one plain sentence when the server itself failed', () => {
    expect(sentence('<html>…', 500)).toContain('What you entered is still here')
  })
  it('becomes a Refusal', async () => {
    await expect(refused(404, { detail: 'Gone.' })).rejects.toEqual(new Refusal('Gone.', { detail: 'Gone.' }))
    await expect(ask(Promise.reject(new TypeError('fetch failed')))).rejects.toThrow('cannot be reached')
  })
})
