import type { AnalysisDocument, Clip, Lift } from '@/api/client'

/** Two lifts laid beside each other: which moment of one belongs to which of the other, and what differs beyond its own uncertainty. */

/** Positions that both lifts have, as the first goes through them. */
export function commonEvents(one: Lift, other: Lift): string[] {
  return Object.entries(one.events)
    .filter(([name]) => other.events[name])
    .sort((a, b) => a[1].time_s - b[1].time_s)
    .map(([name]) => name)
}

/**
 * The other lift's time for a time of the first, s: `on` happens at once in both. Stretched, so does every other common position, and
 * between two of them time runs faster or slower; before the first and after the last it runs as it did.
 */
export function otherTime(one: Lift, other: Lift, on: string, stretch: boolean) {
  const shift = other.events[on]!.time_s - one.events[on]!.time_s
  if (!stretch) return (time: number) => time + shift
  const pairs = commonEvents(one, other)
    .map((name) => [one.events[name]!.time_s, other.events[name]!.time_s] as const)
    // Where the order of two positions differs, or they fall together, there is nothing to stretch between.
    .reduce<(readonly [number, number])[]>((kept, pair) => {
      const before = kept.at(-1)
      return before && (pair[0] <= before[0] || pair[1] <= before[1]) ? kept : [...kept, pair]
    }, [])
  return (time: number) => {
    const next = pairs.findIndex(([at]) => at > time)
    if (next === 0) return time + pairs[0]![1] - pairs[0]![0]
    if (next < 0) return time + pairs.at(-1)![1] - pairs.at(-1)![0]
    const [a, b] = [pairs[next - 1]!, pairs[next]!]
    return a[1] + ((time - a[0]) / (b[0] - a[0])) * (b[1] - a[1])
  }
}

/** The frame that stands at a time. */
export function frameAt(analysis: AnalysisDocument, time: number): number {
  const times = analysis.clip.frame_time_s
  let low = 0
  let high = times.length - 1
  while (high - low > 1) {
    const middle = (low + high) >> 1
    if (times[middle]! <= time) low = middle
    else high = middle
  }
  return Math.abs((times[high] ?? 0) - time) < Math.abs((times[low] ?? 0) - time) ? high : low
}

export interface Difference {
  measure: string
  unit: string
  one: number
  other: number
  by: number
  sd: number
  differs: boolean
}

/** Every figure that both lifts have, what differs most for its uncertainty first. */
export function differences(one: Lift, other: Lift): Difference[] {
  return Object.entries(one.measures)
    .flatMap(([measure, a]) => {
      const b = other.measures[measure]
      if (a.value == null || b?.value == null) return []
      const by = b.value - a.value
      const sd = Math.hypot(a.sd ?? 0, b.sd ?? 0)
      return [{ measure, unit: a.unit, one: a.value, other: b.value, by, sd, differs: Math.abs(by) > 2 * sd }]
    })
    .sort((a, b) => Math.abs(b.by) / (b.sd || 1e-9) - Math.abs(a.by) / (a.sd || 1e-9))
}

const KG_A_LB = 0.45359237
const DAY_MS = 86_400_000
const MONTH_DAYS = 30
const kilos = (clip: Clip) => (clip.load ?? 0) * (clip.load_unit === 'lb' ? KG_A_LB : 1)

/** The made-up lifter of the athlete's build, who stands where else a clip is named. */
export const REFERENCE = 'reference'
export const MADE_UP = 'a made-up lifter of this build'
/** What a coach holds lifts against first. */
export type Model = 'reference' | 'own_best' | 'named'
const ALIKE_M = 0.05
/** As good as nobody is so much taller: what is not known stands last. */
const UNLIKE_M = 9

/** How a named model's lifter is built beside the athlete, as far as both statures are known. */
function built(mine: Clip, model: Clip): string {
  if (!mine.stature_m || !model.stature_m) return ''
  const by = model.stature_m - mine.stature_m
  if (Math.abs(by) <= ALIKE_M) return ' (of similar build)'
  return ` (${Math.round(Math.abs(by) * 100)} cm ${by > 0 ? 'taller' : 'shorter'})`
}

/**
 * Lifts that a coach lays beside one, ready to be taken: by what they are to it, the technical model first. Only those there are.
 * `repeats` is how often the lift is done in its own clip.
 */
export function picks(
  mine: Clip,
  clips: Clip[],
  model: Model = 'reference',
  repeats = 1,
): { label: string; ids: string[] }[] {
  const like = clips.filter((one) => one.id !== mine.id && one.lift === mine.lift)
  const own = like.filter((one) => one.athlete === mine.athlete)
  const nearest = (from: Clip[], far: (one: Clip) => number) => [...from].sort((a, b) => far(a) - far(b)).slice(0, 1)
  const day = own
    .filter((one) => mine.filmed_on && one.filmed_on === mine.filmed_on && one.load)
    .sort((a, b) => kilos(a) - kilos(b))
  const days = (one: Clip) => (Date.parse(mine.filmed_on ?? '') - Date.parse(one.filmed_on ?? '')) / DAY_MS
  const before = own.filter((one) => days(one) > MONTH_DAYS / 2)
  const made = own.filter((one) => one.made && one.load)
  const other = own.filter((one) => one.made === !mine.made)
  const weight = (one: Clip) => Math.abs(kilos(one) - kilos(mine))
  const unlike = (one: Clip) => (one.stature_m && mine.stature_m ? Math.abs(one.stature_m - mine.stature_m) : UNLIKE_M)
  const named = like.filter((one) => one.model_name).sort((a, b) => unlike(a) - unlike(b))
  const rows: { label: string; model?: Model; ids: string[] }[] = [
    { label: MADE_UP, model: 'reference', ids: [REFERENCE] },
    { label: 'the last of this set', ids: repeats > 1 ? [mine.id] : [] },
    {
      label: 'light to heavy, this day',
      ids: (day.length > 3 ? [day[0]!, day[day.length >> 1]!, day.at(-1)!] : day).map((clip) => clip.id),
    },
    {
      label: mine.made ? 'the miss nearest in load' : 'the make nearest in load',
      ids: mine.made == null ? [] : nearest(other, weight).map((clip) => clip.id),
    },
    { label: 'the best ever', model: 'own_best', ids: nearest(made, (one) => -kilos(one)).map((clip) => clip.id) },
    { label: 'a month before', ids: nearest(before, (one) => Math.abs(days(one) - MONTH_DAYS)).map((clip) => clip.id) },
    ...named.map((one) => ({ label: `${one.model_name}${built(mine, one)}`, model: 'named' as const, ids: [one.id] })),
  ]
  const first = (one: { model?: Model }) => Number(one.model !== model)
  return rows
    .filter((one) => one.ids.length)
    .sort((a, b) => first(a) - first(b))
    .map((one) => ({
      label: one.model === model || one.model === 'named' ? `model: ${one.label}` : one.label,
      ids: one.ids,
    }))
}
