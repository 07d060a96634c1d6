import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { newKey } from '@/api/key'
import { useOutbox } from './outbox'

const WORK = {
  name: 'Ida',
  on: '2026-03-02',
  stop: '',
  today: [],
  open: [],
  coming: [],
  reports: [],
  reviews: [],
  done: [],
}
let online = true
const got: Record<string, { key: string }[]>[] = []

beforeEach(() => {
  localStorage.clear()
  got.length = 0
  online = true
  setActivePinia(createPinia())
  vi.stubGlobal('fetch', async (request: Request) => {
    if (!online) throw new TypeError('no network')
    if (request.method === 'POST') got.push((await request.json()) as Record<string, { key: string }[]>)
    return new Response(JSON.stringify(WORK), { status: 200, headers: { 'Content-Type': 'application/json' } })
  })
})
afterEach(() => vi.unstubAllGlobals())

const said = (words: string) => ({ key: newKey(), words })

describe('what an athlete enters', () => {
  it('is sent at once where there is a network', async () => {
    const box = useOutbox()
    await box.open('abc')
    await box.enter('said', said('Fine.'))
    expect(got[0]!.said).toHaveLength(1)
    expect(box.unsent).toBe(0)
    expect(box.work?.name).toBe('Ida')
  })
  it('waits without one, outlives a closed page, and goes when the network is back', async () => {
    const box = useOutbox()
    await box.open('abc')
    online = false
    await box.enter('said', said('One.'))
    await box.enter('said', said('Two.'))
    expect(box.unsent).toBe(2)
    expect(box.offline).toBe(true)
    setActivePinia(createPinia())
    const later = useOutbox()
    await later.open('abc')
    expect(later.unsent).toBe(2)
    expect(later.work?.name).toBe('Ida')
    online = true
    await later.send()
    expect(got.at(-1)!.said).toHaveLength(2)
    expect(later.unsent).toBe(0)
    expect(JSON.parse(localStorage.getItem('atleta.waiting.abc')!)).toEqual([])
  })
  it('is changed before it is sent without being sent twice', async () => {
    const box = useOutbox()
    await box.open('abc')
    online = false
    const row = said('One.')
    await box.enter('said', row)
    await box.enter('said', { ...row, words: 'Other.' })
    online = true
    await box.send()
    expect(got.at(-1)!.said).toEqual([{ ...row, words: 'Other.' }])
  })
  it('stays here with the reason when the server refuses it', async () => {
    const box = useOutbox()
    await box.open('abc')
    vi.stubGlobal(
      'fetch',
      async () => new Response(JSON.stringify({ detail: 'That day lies ahead.' }), { status: 400 }),
    )
    await box.enter('said', said('One.'))
    expect(box.unsent).toBe(1)
    expect(box.trouble).toBe('That day lies ahead.')
    expect(box.offline).toBe(false)
  })
  it('of one link is not sent by another', async () => {
    const box = useOutbox()
    await box.open('abc')
    online = false
    await box.enter('said', said('One.'))
    online = true
    await box.open('xyz')
    expect(box.unsent).toBe(0)
    expect(got).toHaveLength(0)
  })
})

describe('a key', () => {
  it('is one even where the browser makes none', () => {
    vi.stubGlobal('crypto', { getRandomValues: (bytes: Uint8Array) => bytes.fill(171) })
    expect(newKey()).toBe('abababab-abab-4bab-abab-abababababab')
  })
})
