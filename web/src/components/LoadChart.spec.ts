import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { Schemas } from '@/api/client'
import LoadChart from './LoadChart.vue'

const lift = (load_kg: number, value: number, more = {}) => ({
  clip: `clip-${load_kg}`,
  place: 0,
  on: '2026-09-01',
  load_kg,
  made: true,
  value,
  sd: 0.02,
  ...more,
})
const series = (lifts: ReturnType<typeof lift>[], more = {}) =>
  ({
    kinds: [],
    kind: 'snatch',
    best_kg: 80,
    measure: 'peak_velocity',
    lifts,
    measures: [{ measure: 'peak_velocity', label: 'Peak velocity', unit: 'm/s' }],
    profile: null,
    breaks: [],
    missed: [],
    tired: [],
    repetitions: [],
    bands: [],
    band_lifts: 0,
    band_needs: 8,
    ...more,
  }) as unknown as Schemas['Series']
const show = (lifts: ReturnType<typeof lift>[], more = {}, limit: number | null = null) =>
  mount(LoadChart, { props: { series: series(lifts, more), limit } })

describe('the chart of many lifts', () => {
  it('draws made lifts as rings and missed ones as crosses, each leading to its clip', async () => {
    const page = show([lift(60, 2), lift(70, 1.9), lift(80, 1.7, { made: false, on: '2026-09-08' })])
    expect(page.findAll('circle')).toHaveLength(2)
    expect(page.findAll('.missed path')).toHaveLength(1)
    expect(page.findAll('.newest')).toHaveLength(1)
    await page.findAll('a')[1]!.trigger('click')
    expect(page.emitted('open')).toEqual([['clip-70']])
    expect(page.findAll('a')[2]!.attributes('aria-label')).toBe('2026-09-08: 80 kg, 1.70 m/s, missed')
  })
  it('keeps heavier to the right and faster higher, with round figures on its axes', () => {
    const page = show([lift(60, 2), lift(80, 1.6)])
    const [light, heavy] = page.findAll('circle')
    expect(Number(light!.attributes('cx'))).toBeLessThan(Number(heavy!.attributes('cx')))
    expect(Number(light!.attributes('cy'))).toBeLessThan(Number(heavy!.attributes('cy')))
    expect(page.text()).toContain('60')
    expect(page.text()).toContain('Peak velocity, m/s')
  })
  it('draws the limit, the band and the curve where there are any, and one lift alone', () => {
    const plain = show([lift(60, 2)])
    expect(['.limit', '.band', '.curve'].map((part) => plain.find(part).exists())).toEqual([false, false, false])
    expect(plain.get('circle').attributes('cx')).not.toContain('NaN')
    const band = { measure: 'peak_velocity', low: 1.6, middle: 1.8, high: 2 }
    const full = show(
      [lift(60, 2), lift(80, 1.6)],
      {
        bands: [band],
        profile: {
          line: [
            [60, 2],
            [80, 1.6],
          ],
        },
      },
      1.5,
    )
    expect(['.limit', '.band', '.curve'].map((part) => full.find(part).exists())).toEqual([true, true, true])
  })
})
