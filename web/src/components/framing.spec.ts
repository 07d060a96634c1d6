import { describe, expect, it } from 'vitest'
import type { AnalysisDocument, Lift } from '@/api/client'
import { partOf, placed } from './framing'

const lift = { start_frame: 0, end_frame: 9 } as Lift
const still = (x: number | null, y: number | null) => ({ x_px: Array(10).fill(x), y_px: Array(10).fill(y) })
const seen = (width: number, height: number, head: [number, number], toe: [number, number]) =>
  ({
    clip: { width, height },
    disc: { ...still(null, null), radius_px: Array(10).fill(null) },
    joints: { right_nose: still(...head), right_toe: still(...toe) },
  }) as unknown as AnalysisDocument

describe('the part of the picture in which a lift takes place', () => {
  it('is the lifter with some air, as wide as asked for', () => {
    const part = partOf(seen(1280, 720, [600, 200], [640, 400]), lift, 2)
    expect(part.height).toBeCloseTo(224)
    expect(part.width).toBeCloseTo(448)
    expect(part.x + part.width / 2).toBeCloseTo(620)
    expect(part.y).toBeCloseTo(188)
  })
  it('stays inside a picture that is wide enough, and may be wider than an upright one', () => {
    expect(partOf(seen(1280, 720, [20, 200], [40, 400]), lift, 2).x).toBe(0)
    const upright = partOf(seen(720, 1280, [300, 200], [340, 1000]), lift, 2)
    expect(upright.width).toBeGreaterThan(720)
    expect(upright.x + upright.width / 2).toBeCloseTo(360)
  })
  it('has the whole of a disc that is held to the side', () => {
    const analysis = seen(1280, 720, [600, 200], [640, 400])
    analysis.disc = { ...still(900, 300), radius_px: Array(10).fill(60) } as unknown as AnalysisDocument['disc']
    const part = partOf(analysis, lift, 1)
    expect(part.x).toBeLessThan(600)
    expect(part.x + part.width).toBeGreaterThan(960)
  })
  it('is the whole picture where nobody and no disc was seen', () => {
    const nobody = { ...seen(1280, 640, [0, 0], [0, 0]), joints: {} } as unknown as AnalysisDocument
    expect(partOf(nobody, lift, 2)).toEqual({ x: 0, y: 0, width: 1280, height: 640 })
  })
  it('is shown by moving and enlarging the whole picture', () => {
    expect(placed({ x: 320, y: 90, width: 640, height: 360 }, 1280, 720)).toEqual({
      left: '-50.00%',
      top: '-25.00%',
      width: '200.00%',
      height: '200.00%',
    })
  })
})
