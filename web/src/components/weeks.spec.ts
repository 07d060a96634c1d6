import { describe, expect, it } from 'vitest'
import { shifted, weekday, weeksOf, type Slot } from './weeks'

const slot = (on: string) => ({ on }) as Slot

describe('days', () => {
  it.each([
    ['2026-02-28', 1, '2026-03-01'],
    ['2026-03-29', 1, '2026-03-30'],
    ['2026-10-26', -1, '2026-10-25'],
    ['2026-01-01', -1, '2025-12-31'],
  ])('%s and %i is %s, also where clocks change', (on, days, then) => expect(shifted(on, days)).toBe(then))
  it('begin on Monday', () => {
    expect(weekday('2026-03-02')).toBe(0)
    expect(weekday('2026-03-08')).toBe(6)
  })
})

describe('weeks of a block', () => {
  it('run from Monday to Sunday around all of its days', () => {
    const weeks = weeksOf([slot('2026-03-04'), slot('2026-03-16'), slot('2026-03-04')])
    expect(weeks).toHaveLength(3)
    expect(weeks[0]![0]!.on).toBe('2026-03-02')
    expect(weeks[0]![2]!.slots).toHaveLength(2)
    expect(weeks[2]![6]!.on).toBe('2026-03-22')
    expect(weeksOf([])).toEqual([])
  })
})
