import { mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import type { Schemas } from '@/api/client'
import BlockCalendar from './BlockCalendar.vue'

const slot = (id: number, on: string, more = {}) => ({
  id,
  assignment: 1,
  name: 'Snatch pull',
  on,
  week: id,
  sets: 4,
  reps: 3,
  percent: 60,
  unit: 'kg',
  total: 48,
  per_side: [],
  load: '',
  light: false,
  test: false,
  low_back: true,
  done: false,
  minutes: 11.4,
  effort: 7.2,
  ...more,
})
const BLOCK = {
  id: 1,
  days: [0, 2],
  closed: false,
  broken: [{ rule: 'low_back', on: '2026-03-09', says: 'Leave a day between them.' }],
  weeks: [{ week: 1, sets: 4, minutes: 11, effort: 7.2 }],
  slots: [
    slot(1, '2026-03-02'),
    slot(2, '2026-03-09', { done: true }),
    slot(3, '2026-03-11', { test: true, name: 'Test: snatch' }),
  ],
} as unknown as Schemas['Block']
const show = (block = BLOCK) => mount(BlockCalendar, { props: { block, chosen: null } })

describe('a block on the calendar', () => {
  it('shows loads, what a week costs, what is done, and where a rule is broken', () => {
    const page = show()
    expect(page.get('[data-slot="1"]').text()).toContain('4 × 3 · 48 kg')
    expect(page.text()).toContain('7.2 full reps')
    expect(page.text()).toContain('11 min')
    expect(page.get('[data-slot="2"]').classes()).toContain('done')
    expect(page.get('[data-on="2026-03-09"]').classes()).toContain('wrong')
    expect(page.get('[data-slot="3"]').text()).toBe('Test: snatch')
  })
  it.each([
    ['ArrowLeft', '2026-03-01'],
    ['ArrowRight', '2026-03-03'],
    ['ArrowUp', '2026-02-23'],
    ['ArrowDown', '2026-03-09'],
  ])('%s moves a day’s work', async (key, on) => {
    const page = show()
    await page.get('[data-slot="1"]').trigger('keydown', { key })
    expect(page.emitted('move')).toEqual([[BLOCK.slots[0], on]])
  })
  it('drops what is dragged, not onto its own day', async () => {
    const page = show()
    const dataTransfer = { getData: () => '1' }
    await page.get('[data-on="2026-03-04"]').trigger('drop', { dataTransfer })
    await page.get('[data-on="2026-03-02"]').trigger('drop', { dataTransfer })
    expect(page.emitted('move')).toEqual([[BLOCK.slots[0], '2026-03-04']])
  })
  it('of an ended block stays as it was', async () => {
    const page = show({ ...BLOCK, closed: true })
    await page.get('[data-slot="1"]').trigger('keydown', { key: 'ArrowRight' })
    expect(page.emitted('move')).toBeUndefined()
  })
  it('takes a piece of work along under a finger that holds it, and lets a quick finger scroll', async () => {
    vi.useFakeTimers()
    const page = mount(BlockCalendar, { props: { block: BLOCK, chosen: null }, attachTo: document.body })
    const cell = page.get('[data-on="2026-03-05"]').element
    document.elementFromPoint = () => cell
    const slot = page.get('[data-slot="1"]')
    const finger = { touches: [{ clientX: 5, clientY: 5 }] }
    await slot.trigger('pointerdown', { pointerType: 'touch' })
    await slot.trigger('touchmove', finger)
    vi.advanceTimersByTime(1000)
    await slot.trigger('touchend')
    expect(page.emitted('move')).toBeUndefined()
    await slot.trigger('pointerdown', { pointerType: 'touch' })
    vi.advanceTimersByTime(300)
    await slot.trigger('touchmove', finger)
    await slot.trigger('touchend')
    expect(page.emitted('move')).toEqual([[BLOCK.slots[0], '2026-03-05']])
    page.unmount()
    vi.useRealTimers()
  })
})
