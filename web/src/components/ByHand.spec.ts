import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import ByHand from './ByHand.vue'
import type { AnalysisDocument, Bench } from '@/api/client'

const analysis = {
  clip: { frame_count: 300, capture_rate_hz: 60, facing: 'right', view: { kind: 'side' }, width: 1280, height: 720 },
  scale: { disc_diameter_m: 0.45, m_per_px: 0.003 },
} as unknown as AnalysisDocument
const unsaid = {
  lift: 'snatch',
  load: 76,
  facing: null,
  plumb_deg: null,
  disc_diameter_m: null,
  m_per_px: null,
  capture_rate_hz: null,
  trim: null,
  distrusted: null,
  lifter_box: null,
} as Bench['by_hand']

function shown(more: Record<string, unknown> = {}) {
  return mount(ByHand, {
    props: {
      analysis,
      byHand: unsaid,
      corrections: [],
      unit: 'kg',
      frame: 40,
      saving: false,
      picking: null,
      picked: [],
      ...more,
    },
  })
}
const press = (wrapper: ReturnType<typeof shown>, words: string) =>
  wrapper
    .findAll('button')
    .find((button) => button.text() === words)!
    .trigger('click')

beforeEach(() => {
  vi.stubGlobal('fetch', () => Promise.resolve(Response.json({ exercises: [], ladders: [] })))
})
afterEach(() => {
  vi.unstubAllGlobals()
})

describe('what is set by hand', () => {
  it('takes upright from two points, clockwise positive, whichever was clicked first', async () => {
    const top = { x: 110, y: 100 }
    const foot = { x: 100, y: 500 }
    for (const picked of [
      [top, foot],
      [foot, top],
    ]) {
      const wrapper = shown({ picking: 'upright', picked })
      await press(wrapper, 'Use it')
      const [[facts]] = wrapper.emitted('set') as [[{ plumb_deg: number }]]
      expect(facts.plumb_deg).toBeCloseTo((Math.atan2(10, 400) * 180) / Math.PI, 2)
    }
  })

  it('takes another lift and another load, and no load', async () => {
    const wrapper = shown()
    await wrapper.get('#which-lift').setValue('clean_pull')
    expect(wrapper.emitted('set')).toEqual([[{ lift: 'clean_pull' }]])
    // Refused, it is a snatch still.
    await wrapper.setProps({ saving: true })
    await wrapper.setProps({ saving: false })
    expect((wrapper.get('#which-lift').element as HTMLSelectElement).value).toBe('snatch')
    const load = wrapper.get('#which-load')
    const set = load.element.parentElement!.querySelector('button')!
    expect((load.element as HTMLInputElement).value).toBe('76')
    expect(set.disabled).toBe(true)
    for (const [typed, load_] of [
      ['80.5', 80.5],
      ['', null],
    ] as const) {
      await load.setValue(typed)
      await press(wrapper, 'Set')
      expect(wrapper.emitted('set')!.at(-1)).toEqual([{ load: load_ }])
    }
  })

  it('shows a lift that is not among those to choose from', () => {
    const select = shown({ byHand: { ...unsaid, lift: 'muscle_snatch' } }).get('#which-lift')
    expect((select.element as HTMLSelectElement).value).toBe('muscle_snatch')
  })

  it('says where upright comes from', () => {
    expect(shown().text()).toContain("picture's own edge stands for upright")
    const read = { ...analysis, scale: { ...analysis.scale, plumb_deg: 2.31, plumb_source: 'footage' } }
    expect(shown({ analysis: read }).text()).toContain('What stands upright in the room leans 2.3°')
    expect(shown({ byHand: { ...unsaid, plumb_deg: 1.5 } }).text()).toContain('(set by you)')
  })

  it('takes the scale from a known length', async () => {
    const wrapper = shown({
      picking: 'length',
      picked: [
        { x: 0, y: 0 },
        { x: 300, y: 400 },
      ],
    })
    await wrapper.find('[aria-label="Length, cm"]').setValue(150)
    await press(wrapper, 'Use it')
    expect(wrapper.emitted('set')).toEqual([[{ m_per_px: 0.003 }]])
  })

  it('boxes the lifter between two corners, in whatever order, within the picture', async () => {
    const wrapper = shown({
      picking: 'lifter',
      picked: [
        { x: 1310, y: 400.4 },
        { x: 100.2, y: -5 },
      ],
    })
    await press(wrapper, 'Use it')
    expect(wrapper.emitted('set')).toEqual([[{ lifter_box: [100, 0, 1280, 400] }]])
    expect(wrapper.emitted('pick')).toEqual([[null]])
  })

  it('begins and ends the clip at the frame on show', async () => {
    const wrapper = shown()
    await press(wrapper, 'Begin here')
    await press(wrapper, 'End here')
    expect(wrapper.emitted('set')).toEqual([[{ trim: [40, 299] }], [{ trim: [0, 40] }]])
  })

  it('marks a stretch that is not to be trusted, in order, and trusts it again', async () => {
    const wrapper = shown()
    await press(wrapper, 'From this frame …')
    await wrapper.setProps({ frame: 30 })
    await press(wrapper, 'to frame 30')
    expect(wrapper.emitted('set')).toEqual([[{ distrusted: [[30, 40]] }]])
    await wrapper.setProps({ byHand: { ...unsaid, distrusted: [[30, 40]] } })
    await press(wrapper, 'Trust again')
    expect(wrapper.emitted('set')!.at(-1)).toEqual([{ distrusted: [] }])
  })

  it('tells every change in words, newest first, and offers undo only where there is something', async () => {
    const nothing = shown()
    expect(nothing.find('[data-test=undo]').attributes('disabled')).toBeDefined()
    const at = '2026-01-05T10:00:00Z'
    const wrapper = shown({
      corrections: [
        { what: 'joint:120:left_hip', before: null, after: { x_px: 3, y_px: 4 }, state: 'done', by: 'Maren', at },
        { what: 'plumb_deg', before: null, after: 0.5, state: 'undone', by: 'Maren', at },
      ],
    })
    const told = wrapper.findAll('.changes li').map((row) => row.text())
    expect(told[0]).toContain('upright: as found → 0.5°')
    expect(told[0]).toContain('undone')
    expect(told[1]).toContain('left hip, frame 120')
    await wrapper.find('[data-test=undo]').trigger('click')
    await wrapper.find('[data-test=redo]').trigger('click')
    expect([wrapper.emitted('undo'), wrapper.emitted('redo')]).toEqual([[[]], [[]]])
  })

  it('says which exercise of the library the film shows, of those done with its lift', async () => {
    const exercises = [
      {
        id: 'pull_pause_knee',
        name: '{lift} pull with a pause at the knee',
        lifts: ['snatch', 'clean'],
        hidden: false,
      },
      { id: 'split_hold', name: 'Split hold', lifts: ['jerk'], hidden: false },
      { id: 'full_lift', name: 'The {lift}', lifts: ['snatch'], hidden: true },
    ]
    vi.stubGlobal('fetch', () => Promise.resolve(Response.json({ exercises, ladders: [] })))
    const wrapper = shown()
    await flushPromises()
    const choice = wrapper.find<HTMLSelectElement>('#which-exercise')
    expect(choice.findAll('option').map((one) => one.attributes('value'))).toEqual(['', 'pull_pause_knee'])
    await choice.setValue('pull_pause_knee')
    await choice.setValue('')
    expect(wrapper.emitted('set')).toEqual([[{ exercise: 'pull_pause_knee' }], [{ exercise: null }]])
  })
})
