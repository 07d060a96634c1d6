import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { AnalysisDocument, Lift } from '@/api/client'
import Distances from './Distances.vue'

/** A lifter seen from the side, 1 cm to 2 px, with one leg as far ahead as the other is behind. */
function filmed(facing: 'left' | 'right', kind = 'side') {
  const way = facing === 'right' ? 1 : -1
  const places = { shoulder: [20, 300], hip: [-60, 450], knee: [10, 500], heel: [-40, 640], toe: [40, 640] }
  const joints = Object.entries(places).flatMap(([name, [x, y]]) =>
    ['left', 'right'].map((side) => [
      `${side}_${name}`,
      { x_px: [600 + way * x! + (side === 'left' ? 90 : -90)], y_px: [y], sd_cm: [1], confidence: [1] },
    ]),
  )
  return {
    clip: { facing, view: { kind } },
    scale: { m_per_px: 0.005, plumb_deg: 0 },
    joints: Object.fromEntries(joints),
  } as unknown as AnalysisDocument
}
const series = (cm: number | null) => ({ cm: [cm], sd_cm: [1.2] })
const lift = {
  bar: { first_frame: 0, time_s: [0] },
  relations: {
    shoulder_over_bar: series(7.4),
    hip_bar_distance: series(33),
    knee_over_bar: series(2),
    bar_over_midfoot: series(-3),
  },
} as unknown as Lift
const page = (analysis: AnalysisDocument, one = lift) =>
  mount(Distances, { props: { analysis, lift: one, frame: 0, stroke: 4 } })

describe('distances from the bar', () => {
  it.each(['right', 'left'] as const)(
    'go from between the two sides of the lifter to the upright through the bar, facing %s',
    (facing) => {
      const shown = page(filmed(facing))
      const way = facing === 'right' ? 1 : -1
      const end = (id: string) => Number(shown.get(`[data-distance=${id}] line`).attributes('x2'))
      expect(end('shoulder_over_bar')).toBeCloseTo(600 + way * (20 - 2 * 7.4))
      expect(end('hip_bar_distance')).toBeCloseTo(600 + way * (-60 + 2 * 33))
      expect(end('bar_over_midfoot')).toBeCloseTo(600 - way * 2 * 3)
      const words = shown.findAll('text').map((one) => one.text())
      expect(words).toEqual([
        'shoulder 7 cm ahead of the bar ± 1',
        'hip 33 cm behind the bar ± 1',
        'knee 2 cm ahead of the bar ± 1',
        'bar 3 cm behind mid-foot ± 1',
      ])
    },
  )
  it('leave out what is not known, and everything from the front', () => {
    const none = { ...lift, relations: { ...lift.relations, knee_over_bar: series(null) } } as unknown as Lift
    expect(page(filmed('right'), none).findAll('text')).toHaveLength(3)
    expect(page(filmed('right', 'front')).findAll('text')).toHaveLength(0)
    expect(page(filmed('right'), { ...lift, relations: null } as unknown as Lift).findAll('text')).toHaveLength(0)
  })
})
