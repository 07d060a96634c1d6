import type { AnalysisDocument, Lift } from '@/api/client'
import { quantity } from '@/format/quantity'

/** What can be drawn over a lift's time, row by row of its bar, each with one standard deviation where it has one. */
export interface Curve {
  values: (number | null)[]
  sd: (number | null)[] | null
}
export const CURVES = [
  { id: 'height', label: 'Height', unit: 'cm' },
  { id: 'aside', label: 'Forward +, back −', unit: 'cm' },
  { id: 'speed', label: 'Speed up +, down −', unit: 'm/s' },
  { id: 'force', label: 'Force on the bar', unit: '% of its weight' },
  { id: 'trunk', label: 'Trunk from level', unit: '°' },
  { id: 'hip', label: 'Hip', unit: '°' },
  { id: 'knee', label: 'Knee', unit: '°' },
  { id: 'shin', label: 'Shin from level', unit: '°' },
  { id: 'elbow', label: 'Elbow', unit: '°' },
  { id: 'heel', label: 'Heel off the floor', unit: 'cm' },
  { id: 'balance', label: 'Weight ahead + of mid-foot', unit: 'cm' },
  { id: 'sound', label: 'Sound', unit: '% of full' },
  { id: 'level', label: 'Bar out of level (from the front)', unit: '°' },
  { id: 'knees', label: 'Knees inside + (from the front)', unit: 'cm' },
] as const
export type CurveId = (typeof CURVES)[number]['id']
export const FIRST_SHOWN: CurveId[] = ['height', 'aside', 'speed']
/** What shows of a clip from the front. */
export const FRONT_SHOWN: CurveId[] = ['height', 'level', 'knees']
/** Measures whose limits are lines on a curve at the measure's own frame. */
const LIMITED: Record<string, CurveId> = {
  trunk_angle: 'trunk',
  extension_knee: 'knee',
  drive_extension_knee: 'knee',
  extension_hip: 'hip',
  drive_extension_hip: 'hip',
  bar_x: 'aside',
  bar_tilt_max: 'level',
  knee_track: 'knees',
}
const GRAVITY = 9.81
const JOINT_CURVES: Partial<Record<CurveId, [string, string, string]>> = {
  hip: ['shoulder', 'hip', 'knee'],
  knee: ['hip', 'knee', 'ankle'],
  elbow: ['shoulder', 'elbow', 'wrist'],
}
const SEGMENT_CURVES: Partial<Record<CurveId, [string, string]>> = {
  trunk: ['hip', 'shoulder'],
  shin: ['ankle', 'knee'],
}

interface Point {
  x: number
  y: number
  sd: number
}

/** Whether the camera stands to the lifter's side: from the front angles and what is ahead of what do not show. */
export const fromSide = (analysis: AnalysisDocument) => !['front', 'back'].includes(analysis.clip.view.kind)
export const nearSide = (analysis: AnalysisDocument) => (analysis.clip.facing === 'left' ? 'left' : 'right')

/** Where a joint of the side towards the camera is in a frame, px; null where it is not known. */
export const jointAt = (analysis: AnalysisDocument, part: string, frame: number) =>
  jointOf(analysis, `${nearSide(analysis)}_${part}`, frame)

/** The same for a joint of a named side. */
export function jointOf(analysis: AnalysisDocument, joint: string, frame: number) {
  const track = analysis.joints[joint]
  const [x, y] = [track?.x_px?.[frame], track?.y_px?.[frame]]
  return x == null || y == null ? null : { x, y, sd: track?.sd_cm?.[frame] ?? 0 }
}

/** The middle between a left and a right joint in a frame, from which distances are measured, px: legs in a split are far apart. */
export function middleOf(analysis: AnalysisDocument, part: string, frame: number) {
  const [left, right] = [jointOf(analysis, `left_${part}`, frame), jointOf(analysis, `right_${part}`, frame)]
  return left && right ? { x: (left.x + right.x) / 2, y: (left.y + right.y) / 2 } : null
}

/** The middle of both feet on the floor in a frame, px; null where it is not known. */
export function middleOfFeet(analysis: AnalysisDocument, frame: number) {
  const [heels, toes] = [middleOf(analysis, 'heel', frame), middleOf(analysis, 'toe', frame)]
  return heels && toes ? { x: (heels.x + toes.x) / 2, y: Math.max(heels.y, toes.y) } : null
}

/** What is written at its own height, from above downwards, each line of text clear of the one above it. */
export const clear = <T extends { y: number }>(written: T[], line: number) =>
  [...written]
    .sort((one, other) => one.y - other.y)
    .reduce<T[]>((above, one) => [...above, { ...one, y: Math.max(one.y, (above.at(-1)?.y ?? -Infinity) + line) }], [])

/** Places of a joint of the side towards the camera at a frame: forward and up in cm, upright; null where it is not known. */
export function upright(analysis: AnalysisDocument, part: string, frame: number): Point | null {
  const seen = jointAt(analysis, part, frame)
  const scale = analysis.scale
  if (!scale || !seen || !fromSide(analysis)) return null
  const cm = 100 * (scale.body_m_per_px ?? scale.m_per_px)
  const lean = (scale.plumb_deg * Math.PI) / 180
  const across = seen.x * Math.cos(lean) + seen.y * Math.sin(lean)
  const down = seen.y * Math.cos(lean) - seen.x * Math.sin(lean)
  return { x: (nearSide(analysis) === 'left' ? -1 : 1) * across * cm, y: -down * cm, sd: seen.sd }
}

const inCm = (m: number | null | undefined) => (m == null ? null : 100 * m)
const degrees = (radians: number) => (radians * 180) / Math.PI
const apart = (a: Point, b: Point) => Math.hypot(a.x - b.x, a.y - b.y)

/** How far the way from a to b leans back from level ahead: 90 upright, more when it leans back. */
function leaning(a: Point, b: Point) {
  return { value: degrees(Math.atan2(b.y - a.y, b.x - a.x)), sd: degrees(Math.hypot(a.sd, b.sd) / apart(a, b)) }
}
/** Included angle at b, 180 straight. */
function included(a: Point, b: Point, c: Point) {
  const turn = Math.atan2(a.y - b.y, a.x - b.x) - Math.atan2(c.y - b.y, c.x - b.x)
  const sd = degrees(Math.hypot(Math.hypot(a.sd, b.sd) / apart(a, b), Math.hypot(c.sd, b.sd) / apart(c, b)))
  return { value: degrees(Math.abs(Math.atan2(Math.sin(turn), Math.cos(turn)))), sd }
}

/** `loudness` of every frame of the clip, 0 to 1, where it has a sound that was asked for. */
export function curve(
  id: CurveId,
  analysis: AnalysisDocument,
  lift: Lift,
  loudness: readonly number[] | null = null,
): Curve {
  const { bar } = lift
  const plain = (values: (number | null)[]) => ({ values, sd: null })
  const scaled = (values: (number | null)[], turn: (v: number) => number) =>
    plain(values.map((v) => (v === null ? null : turn(v))))
  if (id === 'height') return plain(bar.y_m.map(inCm))
  if (id === 'aside') return plain(bar.x_m.map(inCm))
  if (id === 'speed') return plain(bar.vy_m_s)
  if (id === 'force') return scaled(bar.ay_m_s2, (v) => 100 * (1 + v / GRAVITY))
  const ofFrames = (values: (number | null)[] | undefined) =>
    plain(bar.time_s.map((_, row) => values?.[bar.first_frame + row] ?? null))
  if (id === 'level') return ofFrames(analysis.front?.tilt_deg)
  if (id === 'knees') return ofFrames(analysis.front?.knees_in_cm)
  if (id === 'sound') return plain(bar.time_s.map((_, row) => inCm(loudness?.[bar.first_frame + row])))
  if (id === 'balance') {
    const cm = (values: (number | null)[] | undefined) => bar.time_s.map((_, row) => inCm(values?.[row]))
    return { values: cm(lift.balance?.x_m), sd: cm(lift.balance?.sd_m) }
  }
  const rows = bar.time_s.map((_, row) => bodyAt(id, analysis, bar.first_frame + row))
  if (id !== 'heel') return { values: rows.map((one) => one?.value ?? null), sd: rows.map((one) => one?.sd ?? null) }
  // From where it stood over the first tenth of the lift.
  const stood = rows.slice(0, Math.max(Math.floor(rows.length / 10), 1)).flatMap((one) => (one ? [one.value] : []))
  const floor = stood.length ? stood.sort((a, b) => a - b)[stood.length >> 1]! : 0
  return { values: rows.map((one) => (one ? one.value - floor : null)), sd: rows.map((one) => one?.sd ?? null) }
}

function bodyAt(id: CurveId, analysis: AnalysisDocument, frame: number) {
  const at = (part: string) => upright(analysis, part, frame)
  if (id === 'heel') {
    const heel = at('heel')
    return heel && { value: heel.y, sd: heel.sd }
  }
  const segment = SEGMENT_CURVES[id]?.map(at)
  if (segment) {
    const [low, high] = segment
    return low && high && leaning(low, high)
  }
  const [a, b, c] = JOINT_CURVES[id]!.map(at)
  return a && b && c ? included(a, b, c) : null
}

/** Another lift's curve on the clock of this one. */
export function onClock(time_s: number[], lift: Lift, values: (number | null)[], toOther: (time: number) => number) {
  const own = lift.bar.time_s as number[]
  let row = 0
  return time_s.map((time) => {
    const at = toOther(time)
    if (at < own[0]! || at > own.at(-1)!) return null
    while (row > 0 && own[row]! > at) row--
    while (row < own.length - 2 && own[row + 1]! < at) row++
    const [a, b] = [values[row], values[row + 1]]
    if (a == null || b == null) return null
    return a + ((at - own[row]!) / (own[row + 1]! - own[row]!)) * (b - a)
  })
}

export interface LimitLine {
  time: number
  watch: number
  fault: number
  above: boolean
}
/** Limits of the lift's findings that belong on a curve, each at the time of its number. */
export function limitsOn(id: CurveId, analysis: AnalysisDocument, lift: Lift): LimitLine[] {
  const times = analysis.clip.frame_time_s
  return lift.findings.flatMap((finding) =>
    finding.evidence.flatMap(({ measure, frame, watch, fault, side }) => {
      const belongs = LIMITED[measure.split('@')[0]!] === id && frame != null && watch != null && fault != null
      return belongs ? [{ time: times[frame]!, watch, fault, above: side === 'above' }] : []
    }),
  )
}

/** Where the bar is in a frame and how fast, in words; null where it was not seen. */
export function barReading(lift: Lift, frame: number) {
  const row = frame - lift.bar.first_frame
  const [x, y, v] = [lift.bar.x_m[row], lift.bar.y_m[row], lift.bar.vy_m_s[row]]
  if (y == null) return null
  const size = (value: number, unit: string) => quantity(Math.abs(value), unit).figure
  // A bar that did not lie on the floor has its height from where it was; from the front only the height shows.
  const where = lift.from === 'floor' ? 'high' : y < 0 ? 'below its start' : 'above its start'
  return {
    height: `${size(y, 'm')} cm ${where}`,
    aside: x == null ? '' : `${size(x, 'm')} cm ${x >= 0 ? 'forward' : 'back'}`,
    speed: v == null ? '' : `${size(v, 'm/s')} m/s ${v >= 0 ? 'up' : 'down'}`,
  }
}

/** Where lines are drawn across a trace: a single one would give it no scale. */
export function gridLines(low: number, high: number, step: number): number[] {
  const first = Math.ceil(low / step - 1e-9)
  const lines = Array.from({ length: Math.floor(high / step + 1e-9) - first + 1 }, (_, n) => (first + n) * step)
  return lines.length > 1 ? lines.map((one) => Number(one.toPrecision(6))) : gridLines(low, high, step / 2)
}
