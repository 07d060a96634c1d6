import type { Bench } from '@/api/client'
import { day, load, quantity, words } from '@/format/quantity'

export type Change = Bench['corrections'][number]

const FACTS: Record<string, string> = {
  lift: 'which lift it is',
  load: 'the load',
  plumb_deg: 'upright',
  disc_diameter_m: 'size of the disc',
  m_per_px: 'scale by a known length',
  capture_rate_hz: 'frames taken a second',
  trim: 'where the clip begins and ends',
  distrusted: 'stretches not to be trusted',
  lifter_box: 'where the lifter is',
  facing: 'which way the lifter faces',
  exercise: 'which exercise it shows',
}

/** What was changed: `joint:120:left_hip` is "left hip, frame 120". */
export function whatOf({ what }: Change): string {
  const [kind, frame, rest] = what.split(':')
  if (kind === 'event') return `the ${words(rest!)} position`
  if (kind === 'verdict') return words(rest!)
  if (kind === 'limit') return `limit of ${words(frame!)}`
  if (kind === 'preference') return `preference: ${words(frame!)}`
  if (kind === 'joint') return `${words(rest!)}, frame ${frame}`
  return kind === 'disc' ? `disc, frame ${frame}` : (FACTS[kind!] ?? words(kind!))
}

const DECIDED: Record<string, string> = { confirmed: 'confirmed', dismissed: 'rejected', added: 'added' }
type Said = { everyone: unknown; athletes: Record<string, unknown> }
const one = (held: unknown): string =>
  typeof held === 'string'
    ? words(held)
    : `${(held as { watch: number }).watch} and ${(held as { fault_at: number }).fault_at}`
/** What a coach said of a limit or a preference: for one athlete before what holds for everyone. */
function said({ everyone, athletes }: Said): string {
  const own = Object.values(athletes)[0]
  return own != null ? `${one(own)} for an athlete` : everyone != null ? `${one(everyone)} for everyone` : 'as usual'
}

const stretch = ([first, last]: number[]) => `${first} to ${last}`
function value(kind: string, held: unknown, unit: string): string {
  if (kind === 'verdict') return held ? (DECIDED[(held as { decision: string }).decision] ?? 'decided') : 'not decided'
  if (kind === 'limit' || kind === 'preference') return said(held as Said)
  if (held === null || held === undefined) return 'as found'
  if (kind === 'event') return `frame ${held as number}`
  if (kind === 'plumb_deg') return `${quantity(held as number, '°').figure}°`
  if (kind === 'disc_diameter_m') return `${((held as number) * 1000).toFixed(0)} mm`
  if (kind === 'm_per_px') return `${((held as number) * 1000).toFixed(2)} mm a pixel`
  if (kind === 'load') return load(held as number, unit)
  if (kind === 'trim') return `frames ${stretch(held as number[])}`
  if (kind === 'distrusted') return `frames ${(held as number[][]).map(stretch).join(', ')}`
  if (kind === 'disc' || kind === 'joint') return 'by hand'
  return kind === 'lifter_box' ? 'in a box' : words(String(held))
}

/** What it was and what it was changed to: "as found → 0.5°". */
export function stepOf({ what, before, after }: Change, unit: string): string {
  const kind = what.split(':')[0]!
  return `${value(kind, before, unit)} → ${value(kind, after, unit)}`
}

/** The time of a change, and of an earlier day its day. */
export function whenOf({ at }: Change, now = new Date()): string {
  const then = new Date(at)
  const time = then.toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })
  return then.toDateString() === now.toDateString() ? time : `${day(at)}, ${time}`
}

/** What somebody else did, in a line: "contact: frame 80 → frame 81 (Maren, 10:32)", or that it was undone. */
export function newsOf(change: Change, unit: string): string {
  if (change.state === 'done') return `${whatOf(change)}: ${stepOf(change, unit)} (${change.by}, ${whenOf(change)})`
  return `${whatOf(change)}: ${stepOf({ ...change, before: change.after, after: change.before }, unit)} (undone)`
}
