import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { AnalysisDocument, Lift } from '@/api/client'
import Readings from './Readings.vue'

const STROKE = 4
/** A body whose hip and knee are at one height, as in the start of a lift; the near side is the right one. */
const joints = {
  right_shoulder: [600, 300],
  right_hip: [500, 450],
  right_knee: [600, 452],
  right_ankle: [560, 600],
}
const analysis = {
  clip: { facing: 'right', view: { kind: 'side' } },
  scale: { m_per_px: 0.003, plumb_deg: 0 },
  joints: Object.fromEntries(
    Object.entries(joints).map(([name, [x, y]]) => [name, { x_px: [x], y_px: [y], sd_cm: [1], confidence: [1] }]),
  ),
} as unknown as AnalysisDocument
const lift = { bar: { first_frame: 0, time_s: [0] }, balance: null } as unknown as Lift

describe('angles beside their joints', () => {
  const page = mount(Readings, {
    props: {
      analysis,
      lift,
      frame: 0,
      stroke: STROKE,
      angles: ['trunk', 'hip', 'knee'],
      midFoot: false,
      balance: false,
    },
  })
  const lines = page.findAll('[data-angle]')
  it('are told for trunk, hip and knee, each with its doubt', () => {
    expect(lines.map((one) => one.attributes('data-angle'))).toEqual(['trunk', 'hip', 'knee'])
    for (const one of lines) expect(one.text()).toMatch(/^\w+: \d+° ± \d+$/)
  })
  it('stand clear of each other where joints are at one height', () => {
    const heights = lines.map((one) => Number(one.attributes('y')))
    expect(heights[2]! - heights[1]!).toBeGreaterThanOrEqual(STROKE * 7.5)
  })
})
