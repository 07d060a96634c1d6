import { describe, expect, it } from 'vitest'
import type { AnalysisDocument, Clip, Lift } from '@/api/client'
import { commonEvents, differences, frameAt, otherTime, picks } from './beside'

const lift = (events: Record<string, number>, measures: Record<string, [number | null, number]> = {}) =>
  ({
    events: Object.fromEntries(Object.entries(events).map(([name, time_s]) => [name, { time_s, frame: 0, sd_s: 0 }])),
    measures: Object.fromEntries(Object.entries(measures).map(([id, [value, sd]]) => [id, { value, sd, unit: 'cm' }])),
  }) as unknown as Lift

const SLOW = lift({ lift_off: 1, knee: 1.6, apex: 2.4, stand: 5 })
const QUICK = lift({ lift_off: 0.5, apex: 1.5, meet: 1.6, stand: 4 })

describe('two lifts beside each other', () => {
  it('share the positions that both have', () => {
    expect(commonEvents(SLOW, QUICK)).toEqual(['lift_off', 'apex', 'stand'])
  })
  it('run side by side from one position on', () => {
    const other = otherTime(SLOW, QUICK, 'apex', false)
    expect(other(2.4)).toBeCloseTo(1.5)
    expect(other(1.0)).toBeCloseTo(0.1)
  })
  it('meet at every common position when they are stretched, whichever is chosen', () => {
    for (const on of ['lift_off', 'stand']) {
      const other = otherTime(SLOW, QUICK, on, true)
      expect([1, 2.4, 5].map(other)).toEqual([0.5, 1.5, 4])
      expect(other(1.7)).toBeCloseTo(1.0)
      expect(other(0.8)).toBeCloseTo(0.3)
      expect(other(5.5)).toBeCloseTo(4.5)
    }
  })
  it('do not run backwards where the order of two positions differs', () => {
    const other = otherTime(
      lift({ contact: 1, rebend: 1.2, apex: 2 }),
      lift({ contact: 1.3, rebend: 1.1, apex: 2 }),
      'apex',
      true,
    )
    const times = [0.9, 1, 1.1, 1.2, 1.5, 2, 2.2].map(other)
    expect([...times].sort((a, b) => a - b)).toEqual(times)
  })
  it('find the frame that stands at a time, also on an uneven clock', () => {
    const analysis = { clip: { frame_time_s: [0, 0.03, 0.1, 0.11, 0.5] } } as unknown as AnalysisDocument
    expect([-1, 0.02, 0.07, 0.106, 0.2, 9].map((time) => frameAt(analysis, time))).toEqual([0, 1, 2, 3, 3, 4])
  })
  it('differ only where the difference is beyond its own uncertainty', () => {
    const one = lift({}, { loop: [10, 1], drop: [8, 2], gone: [null, 0] })
    const other = lift({}, { loop: [16, 1], drop: [10, 2], gone: [3, 1] })
    const rows = differences(one, other)
    expect(rows.map((row) => [row.measure, row.by, row.differs])).toEqual([
      ['loop', 6, true],
      ['drop', 2, false],
    ])
    expect(rows[0]!.sd).toBeCloseTo(Math.SQRT2)
  })
})

describe('lifts that are laid beside one', () => {
  const clip = (id: string, more: Partial<Clip>): Clip =>
    ({
      id,
      athlete: 1,
      lift: 'snatch',
      load: 70,
      load_unit: 'kg',
      made: true,
      filmed_on: '2026-11-16',
      ...more,
    }) as Clip
  const mine = clip('mine', { load: 76 })
  const all = [
    mine,
    clip('light', { load: 60 }),
    clip('middle', { load: 68 }),
    clip('heavy', { load: 79, made: false }),
    clip('heavier', { load: 81, made: false }),
    clip('october', { filmed_on: '2026-10-15', load: 180, load_unit: 'lb' }),
    clip('spring', { filmed_on: '2026-04-02', load: 55 }),
    clip('clean', { lift: 'clean', load: 100 }),
    clip('another', { athlete: 2, model_name: 'A calm pull' }),
  ]
  const of = (one: Clip, from = all) => Object.fromEntries(picks(one, from).map(({ label, ids }) => [label, ids]))
  it('are the day by load, the nearest miss, the best, a month before, and models', () => {
    expect(of(mine)).toEqual({
      'model: a made-up lifter of this build': ['reference'],
      'light to heavy, this day': ['light', 'heavy', 'heavier'],
      'the miss nearest in load': ['heavy'],
      // 180 lb are 81.6 kg.
      'the best ever': ['october'],
      'a month before': ['october'],
      'model: A calm pull': ['another'],
    })
  })
  it('of a set, its last', () =>
    expect(picks(mine, [mine], 'reference', 5).at(-1)).toEqual({ label: 'the last of this set', ids: [mine.id] }))
  it('for a miss, the nearest make', () => expect(of(all[3]!)['the make nearest in load']).toEqual(['october']))
  it('are the made-up lifter alone where there is nothing like it', () =>
    expect(picks(mine, [mine, all[7]!]).map((one) => one.ids)).toEqual([['reference']]))
  it('begin with what the coach holds lifts against', () => {
    const first = (model: 'reference' | 'own_best' | 'named') => picks(mine, all, model)[0]
    expect(first('own_best')).toEqual({ label: 'model: the best ever', ids: ['october'] })
    expect(first('named')).toEqual({ label: 'model: A calm pull', ids: ['another'] })
  })
  it('name first the model whose lifter is built most alike', () => {
    const tall = clip('tall', { athlete: 2, model_name: 'Tall', stature_m: 1.9 })
    const alike = clip('alike', { athlete: 3, model_name: 'Alike', stature_m: 1.67 })
    const told = picks(clip('one', { stature_m: 1.7 }), [tall, alike], 'named').map((one) => one.label)
    expect(told.slice(0, 2)).toEqual(['model: Alike (of similar build)', 'model: Tall (20 cm taller)'])
  })
})
