import { computed, ref, shallowRef, watch } from 'vue'
import { commonEvents, otherTime, REFERENCE } from './beside'
import { api, ask, type AnalysisDocument, type Clip, type Lift } from '@/api/client'
import { benchOf } from '@/api/bench'
import { referenceOf } from '@/api/reference'

/** A lift laid over another, and its time for a time of that other. */
export interface LaidOver {
  analysis: AnalysisDocument
  lift: Lift
  time: (time: number) => number
}

/**
 * Another lift laid over the one on the bench (`place` among the lifts of its clip): which there are, which is chosen, and how its time
 * runs beside ours, position by position. The made-up lifter can be laid over any.
 */
export function useLaidOver(clip: () => Clip | null, lift: () => Lift | null, place: () => number) {
  const clips = ref<Clip[]>([])
  const chosen = ref('')
  const held = shallowRef<AnalysisDocument | null>(null)
  const trouble = ref('')

  async function guarded(work: () => Promise<void>) {
    try {
      await work()
      trouble.value = ''
    } catch (error) {
      trouble.value = (error as Error).message
    }
  }
  const load = () =>
    guarded(async () => {
      clips.value = await ask(api.GET('/api/clips/{id}/beside', { params: { path: { id: clip()!.id } } }))
    })
  const shownOf = (id: string) => (id === REFERENCE ? referenceOf(clip()!.id, place()) : benchOf(id))
  watch([chosen, () => chosen.value === REFERENCE && `${clip()?.id} ${place()}`], ([id]) =>
    guarded(async () => {
      held.value = null
      if (!id) return
      const got = (await shownOf(id)).document
      if (chosen.value === id) held.value = got
    }),
  )
  /** The same lift of the same athlete first, newest first as they come; then those named as models; then the same lift of others. */
  const groups = computed(() => {
    const mine = clip()
    const like = clips.value.filter((one) => one.lift === mine?.lift)
    const own = like.filter((one) => one.athlete === mine?.athlete)
    const models = like.filter((one) => one.model_name && !own.includes(one))
    return [
      { name: 'This athlete', clips: own },
      { name: 'Models', clips: models },
      { name: 'Others', clips: like.filter((one) => !own.includes(one) && !models.includes(one)) },
    ].filter((group) => group.clips.length)
  })
  const other = computed<LaidOver | null>(() => {
    const mine = lift()
    const analysis = held.value
    const theirs = analysis?.lifts.find((one) => one.kind === mine?.kind)
    if (!mine || !analysis || !theirs) return null
    const on = commonEvents(mine, theirs)[0]
    return on ? { analysis, lift: theirs, time: otherTime(mine, theirs, on, true) } : null
  })
  /** The one chosen last is laid over, or taken away; before any was chosen, the made-up lifter. */
  let last: string = REFERENCE
  function turn() {
    if (chosen.value) last = chosen.value
    chosen.value = chosen.value ? '' : last
  }
  return { groups, chosen, other, trouble, load, turn }
}
