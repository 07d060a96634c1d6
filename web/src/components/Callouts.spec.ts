import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { Finding, Lift, AnalysisDocument } from '@/api/client'
import Callouts from './Callouts.vue'
import OwnStart from './OwnStart.vue'

const finding = {
  evidence: [
    {
      measure: 'bar_x@knee',
      frame: 78,
      value: -0.4,
      unit: 'cm',
      lines: [
        [600, 500],
        [590, 500],
      ],
    },
    { measure: 'elsewhere', frame: 90, value: 1, unit: 'cm', lines: [[1, 1]] },
  ],
} as unknown as Finding

describe('what a finding rests on', () => {
  const show = (frame: number) =>
    mount(Callouts, { props: { frame, width: 1280, stroke: 3, finding, labelOf: (id: string) => id.toUpperCase() } })
  it('is drawn in the frame it was measured in, with its number', () => {
    const page = show(78)
    expect(page.findAll('[data-callout]')).toHaveLength(1)
    expect(page.get('[data-callout]').text()).toBe('BAR_X@KNEE: −0.4 cm')
    expect(page.get('path').attributes('d')).toBe('M600 500L590 500')
  })
  it('and in no other', () => expect(show(77).find('[data-callout]').exists()).toBe(false))
})

describe('the start a build asks for', () => {
  const lift = {
    start_frame: 0,
    events: {},
    own_start: {
      trunk_deg: 24,
      points_m: { ankle: [-0.1, 0.1], knee: [0, 0.5], hip: [-0.4, 0.5], shoulder: [0, 0.8], bar: [0, 0.2] },
    },
  } as unknown as Lift
  it.each([
    ['right', 1],
    ['left', -1],
  ])('stands in the footprint of a lifter who faces %s', (facing, ahead) => {
    const analysis = {
      clip: { facing },
      scale: { m_per_px: 0.01, body_m_per_px: 0.005, plumb_deg: 0 },
      joints: { [`${facing}_ankle`]: { x_px: [300], y_px: [600], sd_cm: [1] } },
    } as unknown as AnalysisDocument
    const page = mount(OwnStart, { props: { analysis, lift, stroke: 2 } })
    const spots = page.findAll('circle').map((one) => [Number(one.attributes('cx')), Number(one.attributes('cy'))])
    // 10 cm ahead of the ankle and 40 cm above it at 5 mm a pixel.
    expect(spots[0]).toEqual([300, 600])
    expect(spots[1]![0]).toBeCloseTo(300 + ahead! * 20)
    expect(spots[1]![1]).toBeCloseTo(520)
    expect(page.text()).toContain('back 24°')
  })
})
