/** Looking closer: how far the picture is enlarged and which of its points lies in the middle (shares of its width and height). */
export interface View {
  zoom: number
  x: number
  y: number
}
export const WHOLE: View = { zoom: 1, x: 0.5, y: 0.5 }
export const MOST_ZOOM = 6

/** The view kept inside the picture: nothing beyond its edge is shown. */
export function inside({ zoom, x, y }: View): View {
  const z = Math.min(Math.max(zoom, 1), MOST_ZOOM)
  const half = 0.5 / z
  return { zoom: z, x: Math.min(Math.max(x, half), 1 - half), y: Math.min(Math.max(y, half), 1 - half) }
}

/** Closer by a factor about a point of the picture that stays where it is on the screen. */
export function zoomed(view: View, factor: number, atX: number, atY: number): View {
  const zoom = Math.min(Math.max(view.zoom * factor, 1), MOST_ZOOM)
  const share = view.zoom / zoom
  return inside({ zoom, x: atX + (view.x - atX) * share, y: atY + (view.y - atY) * share })
}

/** The transform that shows a view of a box whose middle is its origin. */
export const transform = ({ zoom, x, y }: View): string =>
  zoom === 1 ? 'none' : `scale(${zoom}) translate(${(50 - 100 * x).toFixed(3)}%, ${(50 - 100 * y).toFixed(3)}%)`

const LINES_ACROSS = 420
const THINNEST_PX = 1.5
const THICKEST_PX = 2.6
/**
 * The width of a line in the picture's own pixels. On the screen it is such that what is written can be read on a small one and hides
 * little on a large one; and it stays so however close one looks, or it would hide what one looks at.
 */
export function lineWidth(picturePx: number, screenPx: number, zoom: number): number {
  // Before the picture stands on the screen, as on one of middling size.
  const shown = screenPx || 2 * LINES_ACROSS
  return ((picturePx / shown) * Math.min(Math.max(shown / LINES_ACROSS, THINNEST_PX), THICKEST_PX)) / zoom
}
