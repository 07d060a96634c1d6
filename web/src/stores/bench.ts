import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { api, ask, type AnalysisDocument, type Bench, type Clip, type Lift, type Schemas } from '@/api/client'

/** The clip on the bench: its analysis, and the coach's word on it. Every change is answered with everything that follows from it. */
export const useBench = defineStore('bench', () => {
  const clip = ref<Clip | null>(null)
  const bench = ref<Bench | null>(null)
  const liftIndex = ref(0)
  const trouble = ref('')
  const saving = ref(false)

  const analysis = computed<AnalysisDocument | null>(() => bench.value?.document ?? null)
  const lift = computed<Lift | null>(() => analysis.value?.lifts[liftIndex.value] ?? null)
  const verdicts = computed(() => new Map((bench.value?.verdicts ?? []).map((verdict) => [verdict.fault, verdict])))
  const playable = computed(() => Boolean(bench.value?.playback_s))

  async function open(id: string) {
    if (clip.value?.id !== id) {
      clip.value = null
      bench.value = null
      liftIndex.value = 0
    }
    await guarded(async () => {
      clip.value = await ask(api.GET('/api/clips/{id}', { params: { path: { id } } }))
      if (clip.value.measured) bench.value = await ask(api.GET('/api/clips/{id}/bench', { params: { path: { id } } }))
    })
  }

  async function guarded(work: () => Promise<void>) {
    saving.value = true
    try {
      await work()
      trouble.value = ''
    } catch (error) {
      trouble.value = (error as Error).message
    } finally {
      saving.value = false
    }
  }

  const change = (answer: () => Promise<Bench>) => guarded(async () => void (bench.value = await answer()))
  const id = () => clip.value!.id

  return {
    clip,
    bench,
    analysis,
    lift,
    liftIndex,
    verdicts,
    playable,
    trouble,
    saving,
    open,
    moveDisc: (frame: number, x_px: number, y_px: number) =>
      change(() =>
        ask(api.PUT('/api/clips/{id}/disc/{frame}', { params: { path: { id: id(), frame } }, body: { x_px, y_px } })),
      ),
    moveJoint: (frame: number, joint: string, x_px: number, y_px: number) =>
      change(() =>
        ask(
          api.PUT('/api/clips/{id}/joints/{frame}/{joint}', {
            params: { path: { id: id(), frame, joint } },
            body: { x_px, y_px },
          }),
        ),
      ),
    takeBackJoint: (frame: number, joint: string) =>
      change(() =>
        ask(api.DELETE('/api/clips/{id}/joints/{frame}/{joint}', { params: { path: { id: id(), frame, joint } } })),
      ),
    setByHand: (facts: Schemas['ByHandRequest']) =>
      change(() => ask(api.PUT('/api/clips/{id}/by-hand', { params: { path: { id: id() } }, body: facts }))),
    undo: () => change(() => ask(api.POST('/api/clips/{id}/undo', { params: { path: { id: id() } } }))),
    redo: () => change(() => ask(api.POST('/api/clips/{id}/redo', { params: { path: { id: id() } } }))),
    takeBackDisc: (frame: number) =>
      change(() => ask(api.DELETE('/api/clips/{id}/disc/{frame}', { params: { path: { id: id(), frame } } }))),
    decide: (fault: string, decision: 'confirmed' | 'dismissed' | 'added', frame: number | null = null, note = '') =>
      change(() =>
        ask(
          api.PUT('/api/clips/{id}/verdicts/{fault}', {
            params: { path: { id: id(), fault } },
            body: { fault, decision, frame, note },
          }),
        ),
      ),
    takeBack: (fault: string) =>
      change(() => ask(api.DELETE('/api/clips/{id}/verdicts/{fault}', { params: { path: { id: id(), fault } } }))),
  }
})
