import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import Body from './Body.vue'
import type { AnalysisDocument } from '@/api/client'

const track = (x: number, y: number, sd = 1) => ({ x_px: [x], y_px: [y], confidence: [0.9], sd_cm: [sd] })
const analysis = {
  clip: { facing: 'right', view: { kind: 'side' } },
  scale: { m_per_px: 0.003, body_m_per_px: 0.004 },
  joints: {
    nose: track(130, 40),
    right_hip: track(100, 200, 8),
    right_knee: track(140, 280),
    left_hip: track(96, 200),
    left_knee: track(136, 282),
  },
} as unknown as AnalysisDocument

function drawn(more: Record<string, unknown> = {}) {
  return mount(Body, {
    props: {
      analysis,
      frame: 0,
      stroke: 2,
      movable: true,
      set: [],
      toPicture: (event: PointerEvent) => ({ x: event.clientX, y: event.clientY }),
      ...more,
    },
  })
}

describe('the body on the stage', () => {
  it('draws the side towards the camera full and the other dotted', () => {
    const wrapper = drawn()
    expect(wrapper.find('path.near').attributes('d')).toBe('M100 200L140 280')
    expect(wrapper.find('path.far').attributes('d')).toBe('M96 200L136 282')
  })

  it('draws both sides full from the front, and nothing of it follows a drag', async () => {
    const wrapper = drawn({ analysis: { ...analysis, clip: { facing: null, view: { kind: 'front' } } } })
    expect(wrapper.find('path.near').attributes('d')).toBe('M100 200L140 280M96 200L136 282')
    expect(wrapper.find('path.far').exists()).toBe(false)
    expect(wrapper.findAll('.joint')).toHaveLength(5)
    await wrapper.find('[data-joint=left_knee]').trigger('keydown', { key: 'ArrowLeft', altKey: true })
    expect(wrapper.emitted('move')).toBeUndefined()
  })

  it('offers the near joints and the nose to be moved', () => {
    const joints = drawn()
      .findAll('.handle')
      .map((one) => one.attributes('data-joint'))
    expect(joints).toEqual(['nose', 'right_hip', 'right_knee'])
  })

  it('rings a joint that is not certain, two deviations wide in the plane of the lifter', () => {
    const rings = drawn().findAll('.doubt')
    expect(rings).toHaveLength(1)
    expect(Number(rings[0]!.attributes('r'))).toBeCloseTo((2 * 8 * 0.01) / 0.004)
  })

  it('moves a joint by Alt and the arrow keys, and not without', async () => {
    const wrapper = drawn()
    const knee = wrapper.find('[data-joint=right_knee]')
    await knee.trigger('keydown', { key: 'ArrowLeft' })
    expect(wrapper.emitted('move')).toBeUndefined()
    await knee.trigger('keydown', { key: 'ArrowLeft', altKey: true })
    expect(wrapper.emitted('move')).toEqual([['right_knee', 139, 280]])
  })

  it('draws nothing where nobody was seen', () => {
    expect(drawn({ analysis: { ...analysis, joints: {} } }).findAll('.handle')).toHaveLength(0)
  })
})
