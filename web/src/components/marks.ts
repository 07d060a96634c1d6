import type { Schemas } from '@/api/client'

export type Shape = Schemas['Mark']['shape']
export type Ink = NonNullable<Schemas['Mark']['ink']>
/** Told apart by how light they are too. */
export const INKS: { id: Ink; label: string }[] = [
  { id: 'white', label: 'white' },
  { id: 'amber', label: 'amber' },
  { id: 'sky', label: 'sky blue' },
]
export const SHAPES: { id: Shape; label: string; how: string }[] = [
  { id: 'stroke', label: 'Freehand', how: 'drag' },
  { id: 'line', label: 'Line', how: 'drag from end to end' },
  { id: 'arrow', label: 'Arrow', how: 'drag to where it points' },
  { id: 'circle', label: 'Circle', how: 'drag from the middle outward' },
  { id: 'angle', label: 'Angle', how: 'click one arm, the corner, the other arm' },
]

const MOST_POINTS = 400
/** A stroke of no more points than are kept, from its first to its last. */
export function thinned(points: number[][]): number[][] {
  const step = Math.ceil((points.length - 1) / (MOST_POINTS - 1))
  return step <= 1 ? points : points.filter((_, index) => index % step === 0 || index === points.length - 1)
}

/** Included angle at the second of three points, degrees. */
export function angleOf(points: number[][]): number {
  const [a, b, c] = points as [number, number][]
  const [ax, ay, cx, cy] = [a![0] - b![0], a![1] - b![1], c![0] - b![0], c![1] - b![1]]
  return (Math.atan2(Math.abs(ax * cy - ay * cx), ax * cx + ay * cy) * 180) / Math.PI
}

/** The outline of a mark as an SVG path. */
export function outline(shape: Shape, points: number[][], head: number): string {
  const [x0, y0] = points[0]!
  const [x1, y1] = points.at(-1)!
  if (shape === 'circle') {
    const r = Math.hypot(x1! - x0!, y1! - y0!)
    return `M${x0! - r} ${y0}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`
  }
  const way = `M${points.map(([x, y]) => `${x} ${y}`).join('L')}`
  if (shape !== 'arrow') return way
  const turn = Math.atan2(y1! - y0!, x1! - x0!)
  const tip = (by: number) => `${x1! - head * Math.cos(turn + by)} ${y1! - head * Math.sin(turn + by)}`
  return `${way}M${tip(0.45)}L${x1} ${y1}L${tip(-0.45)}`
}
