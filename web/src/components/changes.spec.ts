import { describe, expect, it } from 'vitest'
import { newsOf, stepOf, whatOf, whenOf, type Change } from './changes'

const change = (what: string, before: unknown, after: unknown): Change => ({
  what,
  id: 1,
  before,
  after,
  state: 'done',
  turn: 1,
  by: 'Maren',
  at: '2026-11-20T09:05:00',
})

describe('a change by hand', () => {
  it.each([
    ['joint:120:left_hip', null, { x_px: 3, y_px: 4 }, 'left hip, frame 120', 'as found → by hand'],
    ['disc:48', { x_px: 3, y_px: 4 }, null, 'disc, frame 48', 'by hand → as found'],
    ['event:0:lift_off', null, 48, 'the lift-off position', 'as found → frame 48'],
    ['plumb_deg', null, 0.5, 'upright', 'as found → 0.5°'],
    ['disc_diameter_m', null, 0.42, 'size of the disc', 'as found → 420 mm'],
    ['m_per_px', null, 0.00193, 'scale by a known length', 'as found → 1.93 mm a pixel'],
    ['capture_rate_hz', 57, 60, 'frames taken a second', '57 → 60'],
    ['trim', null, [20, 300], 'where the clip begins and ends', 'as found → frames 20 to 300'],
    [
      'distrusted',
      [[5, 9]],
      [
        [5, 9],
        [20, 30],
      ],
      'stretches not to be trusted',
      'frames 5 to 9 → frames 5 to 9, 20 to 30',
    ],
    ['lifter_box', null, [1, 2, 300, 400], 'where the lifter is', 'as found → in a box'],
    ['facing', 'left', 'right', 'which way the lifter faces', 'left → right'],
    ['lift', 'snatch', 'power_snatch', 'which lift it is', 'snatch → power snatch'],
    ['load', null, 82.5, 'the load', 'as found → 82.5 kg'],
  ])('%s from %j to %j', (what, before, after, told, step) => {
    const one = change(what, before, after)
    expect(whatOf(one)).toBe(told)
    expect(stepOf(one, 'kg').replaceAll('\u00a0', ' ')).toBe(step)
  })
  it('tells the day of what was not changed today', () => {
    const one = change('plumb_deg', null, 0.5)
    expect(whenOf(one, new Date('2026-11-20T22:00:00'))).toBe('09:05')
    expect(whenOf(one, new Date('2026-11-21T08:00:00'))).toBe('20 Nov, 09:05')
  })

  it('of somebody else says who and when, and of one that was undone that it was', () => {
    const made = change('event:0:contact', 80, 81)
    expect(newsOf(made, 'kg')).toBe('the contact position: frame 80 → frame 81 (Maren, 20 Nov, 09:05)')
    expect(newsOf({ ...made, state: 'undone' }, 'kg')).toBe('the contact position: frame 81 → frame 80 (undone)')
  })
})
