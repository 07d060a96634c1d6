import { words } from '@/format/quantity'
import type { Catalogue, Finding } from '@/api/client'

/** How a level is called beside a finding. */
export const LEVELS: Record<string, string> = {
  fault: 'fault',
  watch: 'watch',
  seen: 'seen by you',
  fine: 'fine',
  cannot_tell: 'can’t tell',
}
const STANDS = ['fault', 'watch', 'seen']

/** What differs between two judgements of the same lift, in words. */
export function changedVerdicts(before: Finding[], after: Finding[]): string[] {
  const was = new Map(before.map((row) => [row.fault, row]))
  const now = new Set(after.map((row) => row.fault))
  const level = (row?: Finding) => (row ? LEVELS[row.level] : 'not judged')
  const told = after.flatMap((row) => {
    const old = was.get(row.fault)
    if (old?.level !== row.level) return [`${row.name}: ${level(old)} → ${level(row)}`]
    return STANDS.includes(row.level) && old.cue !== row.cue ? [`${row.name}: “${row.cue}” is the cue now`] : []
  })
  const gone = before.filter((row) => !now.has(row.fault)).map((row) => `${row.name}: ${level(row)} → not judged`)
  return [...told, ...gone]
}

/** What a measure is called; its own name in words where the catalogue is not there yet. */
export const labelIn = (catalogue: Catalogue | null, measure: string): string =>
  catalogue?.measures.find((one) => one.id === measure)?.label ?? words(measure)
