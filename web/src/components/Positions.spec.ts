import { mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { AnalysisDocument, Lift } from '@/api/client'
import Positions from './Positions.vue'

const lift = {
  start_frame: 40,
  end_frame: 200,
  events: { lift_off: { frame: 48 }, knee: { frame: 78 } },
  measures: { 'trunk_angle@knee': { value: 31, unit: '°', frame: 78 } },
  findings: [],
  bar: { first_frame: 40, time_s: Array.from({ length: 161 }, (_, row) => row / 60) },
} as unknown as Lift
/** A lifter who stands still: hip over ankle, trunk 45° ahead, seen at the knee alone. */
const still = (x: number, y: number) => ({
  x_px: Array.from({ length: 79 }, (_, frame) => (frame === 78 ? x : null)),
  y_px: Array.from({ length: 79 }, () => y),
  sd_cm: Array.from({ length: 79 }, () => 2),
})
const analysis = {
  clip: { facing: 'right', view: { kind: 'side' }, width: 1280, height: 720 },
  disc: {},
  scale: { m_per_px: 0.01, body_m_per_px: 0.01, plumb_deg: 0 },
  joints: {
    right_shoulder: still(50, -130),
    right_hip: still(0, -80),
    right_knee: still(0, -40),
    right_ankle: still(0, 0),
  },
} as unknown as AnalysisDocument
const show = (movable = true) =>
  mount(Positions, { props: { analysis, lift, clip: 'c', frame: 48, catalogue: null, movable } })

describe('the strip of positions', () => {
  beforeEach(() => {
    Element.prototype.setPointerCapture = () => undefined
  })
  it('has the positions in their order, each with its figures', () => {
    const page = show()
    expect(page.findAll('[data-position]').map((one) => one.attributes('data-position'))).toEqual(['lift_off', 'knee'])
    expect(page.get('[data-position=knee]').text()).toContain('31.0 °')
  })
  it('fills up with the angles of the lifter where they are known and not among its figures', () => {
    const page = show()
    const knee = page.get('[data-position=knee]').text()
    expect(knee).toContain('Hip135 ± 5 °')
    expect(knee).toContain('Knee180 ± 6 °')
    expect(knee).not.toContain('45 ±')
    expect(page.get('[data-position=lift_off]').text()).toBe('Lift-off')
  })
  it('goes to a position at a tap', async () => {
    const page = show()
    await page.get('[data-position=knee]').trigger('click')
    expect(page.emitted('choose')).toEqual([['knee', 78]])
  })
  it('moves a position by as many frames as it is dragged, within the lift', async () => {
    const page = show()
    const picture = page.get('[data-position=lift_off] img')
    await picture.trigger('pointerdown', { clientX: 100, pointerId: 1 })
    await picture.trigger('pointermove', { clientX: 121, pointerId: 1 })
    expect(picture.attributes('src')).toContain('/frames/51.jpg')
    await picture.trigger('pointermove', { clientX: -900, pointerId: 1 })
    expect(page.emitted('go')).toEqual([[51], [40]])
    await picture.trigger('pointerup')
    await picture.trigger('click')
    expect(page.emitted('move')).toEqual([['lift_off', 40]])
    expect(page.emitted('choose')).toBeUndefined()
  })
  it('brings the position into sight that was gone to from elsewhere', async () => {
    const seen = vi.fn(function (this: Element) {
      return this.getAttribute('data-position')
    })
    Element.prototype.scrollIntoView = seen
    const page = show()
    await page.setProps({ frame: 60 })
    await page.setProps({ frame: 78 })
    expect(seen.mock.results.map((one) => one.value)).toEqual(['lift_off', 'knee'])
  })
  it('stays where it is while something is being saved', async () => {
    const page = show(false)
    const picture = page.get('[data-position=lift_off] img')
    await picture.trigger('pointerdown', { clientX: 100, pointerId: 1 })
    await picture.trigger('pointermove', { clientX: 160, pointerId: 1 })
    await picture.trigger('pointerup')
    expect(page.emitted('move')).toBeUndefined()
  })
})
