/** Numbers as a coach reads them: the digits a unit deserves, the unit always there, minus signs that line up. */

const DIGITS: Record<string, number> = {
  cm: 1,
  'm/s': 2,
  'm/s²': 1,
  s: 2,
  '–': 2,
  '%': 1,
  '% stature': 1,
  W: 0,
  dB: 0,
  count: 0,
  kg: 1,
  lb: 1,
  '°': 1,
}

export interface Quantity {
  figure: string
  unit: string
}

/** A value with its unit; lengths kept in metres are shown in centimetres, and which foot it was in words. */
export function quantity(value: number, unit: string): Quantity {
  if (unit === 'foot') return { figure: value > 0 ? 'front' : 'back', unit }
  const [shown, shownUnit] = unit === 'm' ? [value * 100, 'cm'] : [value, unit]
  const digits = DIGITS[shownUnit] ?? 1
  const figure = shown
    .toFixed(digits)
    .replace(/^-(?=0(\.0*)?$)/, '')
    .replace('-', '−')
  return { figure, unit: shownUnit === '–' || shownUnit === 'count' ? '' : shownUnit }
}

/** The same in one string, for sentences and tooltips. */
export function spoken(value: number, unit: string): string {
  const { figure, unit: shown } = quantity(value, unit)
  return shown ? `${figure} ${shown}` : figure
}

/** A load without needless zeros. */
export const load = (value: number, unit: string): string => `${Number(value.toFixed(2))} ${unit}`

/** A day (2026-11-23; of an instant the day it is here) as one writes it: 23 Nov; more of it, or longer, if asked. */
export const day = (on: string, also: Intl.DateTimeFormatOptions = {}): string =>
  new Date(on.length > 10 ? on : `${on}T12:00:00`).toLocaleDateString('en-GB', {
    day: 'numeric',
    month: 'short',
    ...also,
  })

/** A day as one writes it, with its year where that is another than this. */
export const recent = (on: string): string => (on.startsWith(String(new Date().getFullYear())) ? day(on) : dated(on))

/** As one speaks of it in a plan: Mon 23 Nov. */
export const weekday = (on: string): string => day(on, { weekday: 'short' })

/** As it is kept for long: 23 Nov 2026. */
export const dated = (on: string): string => day(on, { year: 'numeric' })

/** An identifier as words: `peak_speed` is "peak speed", and lift-off keeps its hyphen. */
export const words = (id: string): string => id.replace('lift_off', 'lift-off').replaceAll('_', ' ')

/** The same with a capital. */
export const title = (id: string): string => words(id).replace(/^./, (letter) => letter.toUpperCase())
