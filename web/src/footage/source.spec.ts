import { describe, expect, it } from 'vitest'
import { frameAt, middleOf } from './source'

/** A variable frame rate: steps between 5 and 40 ms. */
const times = [0]
for (let n = 1; n < 200; n++) times.push(times[n - 1]! + 0.005 + 0.035 * ((n * 37) % 100) * 0.01)

describe('finding frames by time', () => {
  it('lands inside every frame when asked for its middle', () => {
    for (let frame = 0; frame < times.length; frame++) expect(frameAt(times, middleOf(times, frame))).toBe(frame)
  })
  it('gives a frame at its own start and the one before it just before', () => {
    for (let frame = 1; frame < times.length; frame++) {
      expect(frameAt(times, times[frame]!)).toBe(frame)
      expect(frameAt(times, times[frame]! - 0.001)).toBe(frame - 1)
    }
  })
  it('stays within the clip', () => {
    expect(frameAt(times, -1)).toBe(0)
    expect(frameAt(times, 1e6)).toBe(times.length - 1)
  })
  it('finds the middle of a clip of one frame', () => {
    expect(frameAt([0], middleOf([0], 0))).toBe(0)
  })
})
