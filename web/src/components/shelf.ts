/** Finding an exercise on the shelf: by words, lift, kind, position, what it answers, and what there is to train with. */
import type { Schemas } from '@/api/client'

export type Exercise = Schemas['Shelved']
export interface Wanted {
  text: string
  lift: string
  kind: string
  position: string
  fault: string
  equipment: string
  hidden: boolean
}

export const nothingWanted = (): Wanted => ({
  text: '',
  lift: '',
  kind: '',
  position: '',
  fault: '',
  equipment: '',
  hidden: false,
})

/** The name with every lift it stands for. */
export function shelfName({ name, lifts }: Pick<Exercise, 'name' | 'lifts'>): string {
  const told = name.replace(/\{lift\}/g, lifts.filter((lift) => lift !== 'jerk').join(' or '))
  return told[0]!.toUpperCase() + told.slice(1)
}

/** The exercises wanted; those that answer a fault best come first when one is named. */
export function found(exercises: Exercise[], wanted: Wanted): Exercise[] {
  const words = wanted.text.toLowerCase().split(/\s+/).filter(Boolean)
  const kept = exercises.filter((one) => {
    const told = [one.id, one.name, one.how, one.cue, ...one.muscles, ...one.positions].join(' ').toLowerCase()
    return (
      words.every((word) => told.includes(word)) &&
      (!wanted.lift || one.lifts.includes(wanted.lift)) &&
      (!wanted.kind || one.kind === wanted.kind) &&
      (!wanted.position || one.positions.includes(wanted.position)) &&
      (!wanted.fault || wanted.fault in one.answers) &&
      (!wanted.equipment || one.equipment.includes(wanted.equipment)) &&
      (wanted.hidden || !one.hidden)
    )
  })
  if (!wanted.fault) return kept
  return kept.sort((a, b) => (b.answers[wanted.fault] ?? 0) - (a.answers[wanted.fault] ?? 0))
}
