import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { Bench, Lift } from '@/api/client'
import { REFERENCE } from './beside'
import Pane from './Pane.vue'

const opened = vi.hoisted(() => [] as string[])
vi.mock('@/footage/source', () => ({
  openSource: async (address: string) => {
    opened.push(address)
    return { draw: async (frame: number) => frame, close: () => null }
  },
}))

const series = (value: number) => [value, value, value]
const bench = {
  document: {
    clip: { width: 640, height: 360, frame_count: 3, facing: 'right', view: { kind: 'side' }, frame_time_s: [0, 1, 2] },
    scale: { m_per_px: 0.004, body_m_per_px: 0.004, plumb_deg: 0 },
    disc: { x_px: series(300), y_px: series(200), radius_px: series(50), confidence: series(1) },
    joints: Object.fromEntries(
      ['left_toe', 'right_toe', 'right_knee'].map((name) => [
        name,
        { x_px: series(310), y_px: series(name === 'right_knee' ? 250 : 330), confidence: series(1), sd_cm: series(0) },
      ]),
    ),
  },
  playback_s: [0, 1, 2],
} as unknown as Bench
const lift = {
  start_frame: 0,
  end_frame: 2,
  events: {},
  measures: {},
  bar: { first_frame: 0, x_m: series(0), y_m: series(0), vx_m_s: series(0), vy_m_s: series(0) },
} as unknown as Lift
const shown = (clip: string) =>
  mount(Pane, { props: { clip, bench, lift, frame: 1, mirrored: false, showBody: false } })

describe('a pane', () => {
  const floors: number[][] = []
  beforeEach(() => {
    opened.length = floors.length = 0
    const pen = (canvas: HTMLCanvasElement) => ({
      canvas,
      fillStyle: '',
      fillRect: (...sides: number[]) => floors.push(sides),
    })
    vi.spyOn(HTMLCanvasElement.prototype, 'getContext').mockImplementation(function (this: HTMLCanvasElement) {
      return pen(this) as never
    })
  })
  afterEach(() => vi.restoreAllMocks())

  it('keeps its lines as wide on the screen however close one looks', async () => {
    const pane = shown('one')
    const wide = () => Number(pane.get('.disc .bar').attributes('r'))
    const before = wide()
    await pane.get('.stage').trigger('wheel', { deltaY: -1 })
    const zoom = Number(pane.get('.stage').attributes('data-zoom'))
    expect(zoom).toBeGreaterThan(1)
    expect(wide() * zoom).toBeCloseTo(before)
  })
  it('opens the footage of a clip, and leaves joints out unless asked', async () => {
    const pane = shown('one')
    await vi.waitFor(() => expect(opened).toEqual(['/api/clips/one/video.mp4']))
    expect(pane.findAll('.joint').length).toBe(0)
  })
  it('shows the made-up lifter on an empty stage with a floor under the feet, at the frame asked for', async () => {
    const pane = shown(REFERENCE)
    await pane.vm.$nextTick()
    expect(opened).toEqual([])
    expect(floors).toEqual([
      [0, 0, 640, 360],
      [0, 330, 640, 30],
    ])
    expect(pane.find('canvas').attributes('width')).toBe('640')
    expect(pane.find('svg[data-frame]').attributes('data-frame')).toBe('1')
    expect(pane.findAll('.joint').length).toBeGreaterThan(0)
    expect(pane.find('.cover').exists()).toBe(false)
  })
})
