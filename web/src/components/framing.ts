import type { AnalysisDocument, Lift } from '@/api/client'

/** A part of the picture, in its pixels. */
export interface Part {
  x: number
  y: number
  width: number
  height: number
}

const EVERY = 3
/** Air about what is shown, as a share of its height. */
const MARGIN = 0.06

/**
 * The part of the picture in which a lift takes place, from beginning to end: the lifter and the disc, with some air. As wide as is asked
 * for (width through height), which may reach beyond the picture; the whole picture where neither is known.
 */
export function partOf(analysis: AnalysisDocument, lift: Lift, shape: number): Part {
  const { width, height } = analysis.clip
  const box = { x0: Infinity, x1: -Infinity, y0: Infinity, y1: -Infinity }
  for (let frame = lift.start_frame; frame <= lift.end_frame; frame += EVERY) {
    const radius = analysis.disc.radius_px?.[frame] ?? 0
    for (const [track, about] of [
      [analysis.disc, radius] as const,
      ...Object.values(analysis.joints).map((one) => [one, 0] as const),
    ]) {
      const [x, y] = [track.x_px?.[frame], track.y_px?.[frame]]
      if (x == null || y == null) continue
      box.x0 = Math.min(box.x0, x - about)
      box.x1 = Math.max(box.x1, x + about)
      box.y0 = Math.min(box.y0, y - about)
      box.y1 = Math.max(box.y1, y + about)
    }
  }
  if (box.x0 > box.x1) Object.assign(box, { x0: 0, x1: width, y0: 0, y1: height })
  const air = MARGIN * (box.y1 - box.y0)
  const top = Math.max(box.y0 - air, 0)
  const tall = Math.min(box.y1 + air, height) - top
  const high = Math.max(tall, (Math.min(box.x1 + air, width) - Math.max(box.x0 - air, 0)) / shape)
  const middle = (box.x0 + box.x1) / 2
  const wide = high * shape
  // Where the picture is wide enough, nothing beyond its edges is shown.
  const x = wide >= width ? (width - wide) / 2 : Math.min(Math.max(middle - wide / 2, 0), width - wide)
  const y = high >= height ? (height - high) / 2 : Math.min(Math.max(top - (high - tall) / 2, 0), height - high)
  return { x, y, width: wide, height: high }
}

/** Where a whole picture stands in a box that shows this part of it. */
export const placed = (part: Part, width: number, height: number) => ({
  left: `${((-100 * part.x) / part.width).toFixed(2)}%`,
  top: `${((-100 * part.y) / part.height).toFixed(2)}%`,
  width: `${((100 * width) / part.width).toFixed(2)}%`,
  height: `${((100 * height) / part.height).toFixed(2)}%`,
})
