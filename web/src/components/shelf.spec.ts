import { describe, expect, it } from 'vitest'
import { found, nothingWanted, shelfName, type Exercise } from './shelf'

const exercise = (id: string, more: Partial<Exercise> = {}): Exercise =>
  ({
    id,
    name: `{lift} ${id}`,
    how: 'Pull.',
    cue: 'Up.',
    kind: 'technique_drill',
    lifts: ['snatch'],
    positions: ['knee'],
    answers: {},
    muscles: ['legs'],
    equipment: ['bar'],
    hidden: false,
    ...more,
  }) as Exercise

const SHELF = [
  exercise('pull', { answers: { looped: 0.4 }, lifts: ['snatch', 'clean'] }),
  exercise('hang', { answers: { looped: 0.9 }, positions: ['thigh'], equipment: ['bar', 'blocks'] }),
  exercise('row', { kind: 'strength', muscles: ['lats'], hidden: true }),
]
const ids = (wanted: object) => found(SHELF, { ...nothingWanted(), ...wanted }).map((one) => one.id)

describe('the shelf', () => {
  it('shows all that is not hidden', () => expect(ids({})).toEqual(['pull', 'hang']))
  it('is searched by every word anywhere', () => {
    expect(ids({ text: 'LATS row', hidden: true })).toEqual(['row'])
    expect(ids({ text: 'thigh' })).toEqual(['hang'])
    expect(ids({ text: 'nothing' })).toEqual([])
  })
  it.each([
    [{ lift: 'clean' }, ['pull']],
    [{ position: 'thigh' }, ['hang']],
    [{ equipment: 'blocks' }, ['hang']],
    [{ kind: 'strength', hidden: true }, ['row']],
  ])('is narrowed by %o', (wanted, there) => expect(ids(wanted)).toEqual(there))
  it('puts what answers a fault best first', () => expect(ids({ fault: 'looped' })).toEqual(['hang', 'pull']))
  it.each([
    ['{lift} pull', ['snatch', 'clean'], 'Snatch or clean pull'],
    ['Drop {lift}', ['snatch'], 'Drop snatch'],
    ['Deadlift, {lift} grip', ['snatch', 'clean'], 'Deadlift, snatch or clean grip'],
    ['Front squat', ['clean', 'jerk'], 'Front squat'],
  ])('names %s for %o', (name, lifts, says) => expect(shelfName({ name, lifts })).toBe(says))
})
