import { describe, expect, it, vi } from 'vitest'
import { dated, day, load, quantity, recent, spoken, title, weekday } from './quantity'

describe('numbers as a coach reads them', () => {
  it('shows lengths kept in metres as centimetres', () => {
    expect(quantity(1.2346, 'm')).toEqual({ figure: '123.5', unit: 'cm' })
  })
  it('gives each unit its digits', () => {
    expect(spoken(1.8749, 'm/s')).toBe('1.87 m/s')
    expect(spoken(91.26, '%')).toBe('91.3 %')
    expect(spoken(2040.4, 'W')).toBe('2040 W')
  })
  it('leaves out the unit of ratios and counts', () => {
    expect(spoken(0.951, '–')).toBe('0.95')
    expect(spoken(2, 'count')).toBe('2')
  })
  it('says which foot it was', () => {
    expect([spoken(1, 'foot'), spoken(-1, 'foot')]).toEqual(['front foot', 'back foot'])
  })
  it('writes a true minus sign, and none before zero', () => {
    expect(spoken(-3.25, 'cm')).toBe('−3.3 cm')
    expect(spoken(-0.04, 'cm')).toBe('0.0 cm')
  })
  it('drops needless zeros of a load and keeps the needed ones', () => {
    expect(load(82.5, 'kg')).toBe('82.5 kg')
    expect(load(100, 'lb')).toBe('100 lb')
  })
  it('writes days alike, and an instant as the day it is here', () => {
    expect([day('2026-11-03'), weekday('2026-11-03'), dated('2026-11-03')]).toEqual([
      '3 Nov',
      'Tue 3 Nov',
      '3 Nov 2026',
    ])
    expect(day('2026-11-03', { month: 'long' })).toBe('3 November')
    const late = new Date(2026, 10, 3, 23, 59)
    expect(dated(late.toISOString())).toBe('3 Nov 2026')
    const early = new Date(2026, 10, 3, 0, 1)
    expect(dated(early.toISOString())).toBe('3 Nov 2026')
  })
  it('writes the year of a day that is in another', () => {
    vi.setSystemTime(new Date(2026, 10, 23))
    expect([recent('2026-11-03'), recent('2025-11-03')]).toEqual(['3 Nov', '3 Nov 2025'])
    vi.useRealTimers()
  })
  it('turns ids into words', () => {
    expect(title('clean_and_jerk')).toBe('Clean and jerk')
    expect(title('lift_off')).toBe('Lift-off')
  })
})
