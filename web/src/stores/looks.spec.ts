import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { FIRST_SHOWN } from '@/components/curves'
import { useLooks } from './looks'

const put = vi.hoisted(() => [] as unknown[])
const kept = vi.hoisted(() => ({ answer: {} as unknown, asked: 0, waits: [] as number[] }))
vi.mock('@/api/client', () => ({
  api: {
    GET: () => ({ get: true }),
    PUT: (_: string, options: { body: unknown }) => ({ put: options.body }),
  },
  ask: async (request: { get?: boolean; put?: unknown }) => {
    if (request.get) {
      kept.asked++
      return kept.answer
    }
    // Whoever comes first takes longest.
    await new Promise((done) => setTimeout(done, kept.waits.shift() ?? 0))
    put.push(request.put)
    throw new Error('The connection is gone.')
  },
}))

describe('what a coach likes to see drawn', () => {
  beforeEach(() => {
    setActivePinia(createPinia())
    put.length = kept.asked = 0
  })
  it('comes from the account, once', async () => {
    kept.answer = { drawn: ['path'], traces: [...FIRST_SHOWN].reverse() }
    const looks = useLooks()
    await Promise.all([looks.load(), looks.load()])
    expect(kept.asked).toBe(1)
    expect(looks.drawn).toEqual(['path'])
    expect(looks.traces).toEqual([...FIRST_SHOWN].reverse())
  })
  it('stays usual where nothing was kept, or fewer traces than are shown', async () => {
    kept.answer = { traces: [] }
    const looks = useLooks()
    const usual = [...looks.drawn]
    await looks.load()
    expect(looks.drawn).toEqual(usual)
    expect(looks.traces).toEqual(FIRST_SHOWN)
  })
  it('is kept as it was chosen last, however long an answer takes', async () => {
    kept.waits = [30, 0]
    const looks = useLooks()
    looks.toggle('balance')
    const [first = 'height', ...others] = looks.traces
    looks.show([...others, first])
    await vi.waitFor(() => expect(put).toHaveLength(2))
    expect(put.at(-1)).toEqual({ drawn: looks.drawn, traces: looks.traces, angles: looks.angles })
  })
  it('is kept when the page is left while an answer is awaited', async () => {
    // Longer than this test waits: nothing else brings the last choice.
    kept.waits = [60_000]
    const looks = useLooks()
    looks.toggle('balance')
    looks.toggle('path')
    await new Promise((done) => setTimeout(done))
    window.dispatchEvent(new Event('pagehide'))
    await vi.waitFor(() => expect(put.at(-1)).toMatchObject({ drawn: looks.drawn }))
  })
  it('is kept at every change, and holds for now where it cannot be', async () => {
    const looks = useLooks()
    looks.toggle('balance')
    expect(looks.drawn).toContain('balance')
    looks.toggle('path')
    expect(looks.drawn).not.toContain('path')
    looks.toggleAngle('shin')
    looks.toggleAngle('hip')
    expect(looks.angles).toEqual(['trunk', 'knee', 'shin'])
    await vi.waitFor(() => expect(put).toHaveLength(4))
    expect(put.at(-1)).toEqual({ drawn: looks.drawn, traces: looks.traces, angles: looks.angles })
  })
})
