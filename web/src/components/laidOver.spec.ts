import { nextTick, ref } from 'vue'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { flushPromises } from '@vue/test-utils'
import type { Clip, Lift } from '@/api/client'
import { REFERENCE } from './beside'
import { useLaidOver } from './laidOver'

const asked = vi.hoisted(() => [] as { path: string; id: string; lift?: number }[])
const answers = vi.hoisted(() => new Map<string, unknown>())

vi.mock('@/api/client', () => ({
  api: {
    GET: (path: string, options?: { params: { path: { id: string; lift?: number } } }) => {
      asked.push({ path, ...options?.params.path } as never)
      return { path, ...options?.params.path }
    },
  },
  ask: async (request: { path: string; id?: string; lift?: number }) => {
    const answer = answers.get(`${request.path} ${request.id ?? ''} ${request.lift ?? ''}`.trim())
    if (answer instanceof Error) throw answer
    return answer
  },
}))

const lift = (kind: string, contact: number) =>
  ({ kind, events: { contact: { frame: 0, time_s: contact } } }) as unknown as Lift
const clip = (id: string, more: Partial<Clip> = {}) =>
  ({ id, athlete: 1, lift: 'snatch', measured: true, model_name: '', ...more }) as Clip
const BENCH = '/api/clips/{id}/bench'
const MADE = '/api/clips/{id}/reference/{lift}'

describe('a lift laid over another', () => {
  const mine = ref(clip('mine'))
  const place = ref(0)
  beforeEach(() => {
    asked.length = 0
    answers.clear()
    mine.value = clip('mine')
    place.value = 0
  })
  const laid = () =>
    useLaidOver(
      () => mine.value,
      () => lift('snatch', 1.0),
      () => place.value,
    )

  it('runs on our clock, from a position that both have', async () => {
    answers.set(`${BENCH} heavy`, { document: { lifts: [lift('clean', 3), lift('snatch', 1.4)] } })
    const over = laid()
    over.chosen.value = 'heavy'
    await flushPromises()
    expect(over.other.value?.lift.kind).toBe('snatch')
    expect(over.other.value?.time(2)).toBeCloseTo(2.4)
    over.chosen.value = ''
    await flushPromises()
    expect(over.other.value).toBeNull()
  })
  it('may be the made-up lifter, who does the lift on show of the clip on show', async () => {
    for (const [id, one] of [
      ['mine', 0],
      ['mine', 1],
      ['next', 1],
    ] as const)
      answers.set(`${MADE} ${id} ${one}`, { document: { lifts: [lift('snatch', 0.5)] } })
    const over = laid()
    over.chosen.value = REFERENCE
    await flushPromises()
    expect(over.other.value?.time(1)).toBeCloseTo(0.5)
    place.value = 1
    await nextTick()
    mine.value = clip('next')
    await flushPromises()
    expect(asked.map((one) => [one.id, one.lift])).toEqual([
      ['mine', 0],
      ['mine', 1],
      ['next', 1],
    ])
  })
  it('says why there is none', async () => {
    answers.set(`${MADE} mine 0`, new Error('The made-up lifter does not do a deadlift.'))
    const over = laid()
    over.chosen.value = REFERENCE
    await flushPromises()
    expect(over.trouble.value).toBe('The made-up lifter does not do a deadlift.')
    expect(over.other.value).toBeNull()
  })
  it('is laid over and taken away again: the one chosen last, or else the made-up lifter', () => {
    const over = laid()
    over.turn()
    expect(over.chosen.value).toBe(REFERENCE)
    over.chosen.value = 'own'
    over.turn()
    expect(over.chosen.value).toBe('')
    over.turn()
    expect(over.chosen.value).toBe('own')
  })
  it('is offered by whose it is: the same lift of the same athlete, models, others', async () => {
    answers.set('/api/clips/{id}/beside mine', [
      clip('own'),
      clip('model', { athlete: 2, model_name: 'Calm' }),
      clip('other', { athlete: 3 }),
      clip('clean', { lift: 'clean' }),
    ])
    const over = laid()
    await over.load()
    expect(over.groups.value.map((group) => [group.name, group.clips.map((one) => one.id)])).toEqual([
      ['This athlete', ['own']],
      ['Models', ['model']],
      ['Others', ['other']],
    ])
  })
})
