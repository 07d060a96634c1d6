import { describe, expect, it } from 'vitest'
import { inside, lineWidth, MOST_ZOOM, transform, WHOLE, zoomed } from './closer'

describe('looking closer', () => {
  it('keeps the point under the hand where it is', () => {
    const before = inside({ zoom: 2, x: 0.5, y: 0.5 })
    const after = zoomed(before, 1.5, 0.6, 0.4)
    // On the screen a point lies (point - middle) x zoom from the middle.
    expect((0.6 - after.x) * after.zoom).toBeCloseTo((0.6 - before.x) * before.zoom)
    expect((0.4 - after.y) * after.zoom).toBeCloseTo((0.4 - before.y) * before.zoom)
  })
  it('shows nothing beyond the edge and no more than the most', () => {
    expect(inside({ zoom: 2, x: 0, y: 1 })).toEqual({ zoom: 2, x: 0.25, y: 0.75 })
    expect(zoomed(WHOLE, 0.5, 0.1, 0.1)).toEqual(WHOLE)
    expect(zoomed(WHOLE, 100, 0.5, 0.5).zoom).toBe(MOST_ZOOM)
  })
  it('is a transform, and none for the whole', () => {
    expect(transform(WHOLE)).toBe('none')
    expect(transform({ zoom: 2, x: 0.25, y: 0.5 })).toBe('scale(2) translate(25.000%, 0.000%)')
  })
  it('leaves lines as wide on the screen, and neither too thin nor too thick on any', () => {
    const onScreen = (screenPx: number, zoom = 1) => (lineWidth(1280, screenPx, zoom) * zoom * screenPx) / 1280
    expect(onScreen(840)).toBeCloseTo(2)
    expect(onScreen(840, 4)).toBeCloseTo(2)
    expect(onScreen(300)).toBeCloseTo(1.5)
    expect(onScreen(3000)).toBeCloseTo(2.6)
    expect(lineWidth(1280, 0, 1)).toBeCloseTo(lineWidth(1280, 840, 1))
  })
})
