import { mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import type { Lift } from '@/api/client'
import Positions from './Positions.vue'

const lift = {
  start_frame: 40,
  end_frame: 200,
  events: { lift_off: { frame: 48 }, knee: { frame: 78 } },
  measures: { 'trunk_angle@knee': { value: 31, unit: '°', frame: 78 } },
  findings: [],
} as unknown as Lift
const show = (movable = true) => mount(Positions, { props: { lift, clip: 'c', frame: 48, catalogue: null, movable } })

describe('the strip of positions', () => {
  beforeEach(() => {
    Element.prototype.setPointerCapture = () => undefined
  })
  it('has the positions in their order, each with its figures', () => {
    const page = show()
    expect(page.findAll('[data-position]').map((one) => one.attributes('data-position'))).toEqual(['lift_off', 'knee'])
    expect(page.get('[data-position=knee]').text()).toContain('31.0 °')
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
  it('stays where it is while something is being saved', async () => {
    const page = show(false)
    const picture = page.get('[data-position=lift_off] img')
    await picture.trigger('pointerdown', { clientX: 100, pointerId: 1 })
    await picture.trigger('pointermove', { clientX: 160, pointerId: 1 })
    await picture.trigger('pointerup')
    expect(page.emitted('move')).toBeUndefined()
  })
})
