/** A block as weeks of seven days, Monday first, and days as the calendar counts them: plain dates without a clock. */
import type { Schemas } from '@/api/client'

export type Slot = Schemas['Slot']
export interface DayCell {
  on: string
  slots: Slot[]
}

const DAY_MS = 86_400_000

export const shifted = (on: string, days: number): string =>
  new Date(Date.parse(`${on}T12:00:00Z`) + days * DAY_MS).toISOString().slice(0, 10)

/** 0 Monday to 6 Sunday. */
export const weekday = (on: string): number => (new Date(`${on}T12:00:00Z`).getUTCDay() + 6) % 7

/** The weeks a block covers, from the Monday before its first day to the Sunday after its last. */
export function weeksOf(slots: Slot[]): DayCell[][] {
  if (!slots.length) return []
  const days = slots.map((slot) => slot.on).sort()
  const first = shifted(days[0]!, -weekday(days[0]!))
  const last = days.at(-1)!
  const weeks: DayCell[][] = []
  for (let monday = first; monday <= last; monday = shifted(monday, 7))
    weeks.push(
      Array.from({ length: 7 }, (_, n) => {
        const on = shifted(monday, n)
        return { on, slots: slots.filter((slot) => slot.on === on) }
      }),
    )
  return weeks
}
