import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { changedVerdicts } from '@/components/verdicts'
import { benchOf } from '@/api/bench'
import type { Change } from '@/components/changes'
import { saw } from '@/api/seen'
import { Refusal } from '@/api/refusal'
import { api, ask, type AnalysisDocument, type Bench, type Clip, type Lift, type Schemas } from '@/api/client'
import { turns } from '@/api/turns'

const placed = (series: (number | null)[] = [], frame: number, value: number) =>
  series.map((old, i) => (i === frame ? value : old))

/** What is on the bench with a disc where the coach has just put it, before anything that follows from it is worked out. */
export function withDisc(bench: Bench, point: Schemas['DiscPoint']): Bench {
  const { disc } = bench.document
  const moved = {
    ...disc,
    x_px: placed(disc.x_px, point.frame, point.x_px),
    y_px: placed(disc.y_px, point.frame, point.y_px),
  }
  return {
    ...bench,
    document: { ...bench.document, disc: moved },
    disc_points: [...bench.disc_points.filter((other) => other.frame !== point.frame), point],
  }
}

/** The same for a joint. */
export function withJoint(bench: Bench, point: Schemas['JointPoint']): Bench {
  const { frame, joint } = point
  const was = bench.document.joints[joint]
  if (!was) return bench
  const moved = { ...was, x_px: placed(was.x_px, frame, point.x_px), y_px: placed(was.y_px, frame, point.y_px) }
  return {
    ...bench,
    document: { ...bench.document, joints: { ...bench.document.joints, [joint]: moved } },
    joint_points: [...bench.joint_points.filter((other) => other.frame !== frame || other.joint !== joint), point],
  }
}

/** The changes with which the server refuses one that would undo them unseen; null for any other refusal. */
function changedMeanwhile(error: unknown): Change[] | null {
  const told = error instanceof Refusal ? (error.told as { changed?: Change[] } | null | undefined) : null
  return told?.changed ?? null
}

/** The clip on the bench: its analysis, and the coach's word on it. Every change is answered with everything that follows from it. */
export const useBench = defineStore('bench', () => {
  const clip = ref<Clip | null>(null)
  // Its series are long, and an answer replaces it whole: what reads them need not watch every number.
  const bench = shallowRef<Bench | null>(null)
  const liftIndex = ref(0)
  const trouble = ref('')
  const waiting = ref(0)
  const saving = computed(() => waiting.value > 0)

  const analysis = computed<AnalysisDocument | null>(() => bench.value?.document ?? null)
  const lift = computed<Lift | null>(() => analysis.value?.lifts[liftIndex.value] ?? null)
  const verdicts = computed(() => {
    const here = (bench.value?.verdicts ?? []).filter((verdict) => (verdict.place ?? 0) === liftIndex.value)
    return new Map(here.map((verdict) => [verdict.fault, verdict]))
  })
  const playable = computed(() => Boolean(bench.value?.playback_s))

  let opening = ''
  /** Both are asked for at once and stand together, so that nothing half of a clip is ever shown; of clips opened in a row, the last. */
  async function open(id: string) {
    opening = id
    if (clip.value?.id !== id) {
      clip.value = null
      bench.value = null
      liftIndex.value = 0
      changed.value = null
      meanwhile.value = null
    }
    await guarded(async () => {
      const params = { path: { id } }
      const [told, found] = await Promise.all([
        ask(api.GET('/api/clips/{id}/bench', { params })).catch((error: Error) => error),
        ask(api.GET('/api/clips/{id}', { params })).catch((error: Error) => error),
      ])
      if (opening !== id) return
      if (found instanceof Error) throw found
      if (found.measured && told instanceof Error) throw told
      clip.value = found
      bench.value = told instanceof Error ? null : told
      if (bench.value) saw(id, bench.value.corrections)
    })
    if (bench.value?.outdated && opening === id) await bringUpToDate()
  }

  let begun = 0
  const inTurn = turns()
  async function guarded(work: () => Promise<void>) {
    begun++
    waiting.value++
    try {
      await work()
      trouble.value = ''
    } catch (error) {
      trouble.value = (error as Error).message
    } finally {
      waiting.value--
    }
  }

  const inOrder = (work: () => Promise<void>) => guarded(() => inTurn(work))

  /** What stands now: of another lift than before there may be fewer in the clip. */
  function stand(told: Bench) {
    bench.value = told
    saw(id(), told.corrections)
    if (liftIndex.value >= told.document.lifts.length) liftIndex.value = 0
    const { lift, load = null } = told.by_hand
    if (clip.value && lift) clip.value = { ...clip.value, lift, load }
  }

  /** What is shown was judged by something that no longer stands. It is shown until it is judged anew. */
  const bringUpToDate = () =>
    change((path) => ask(api.POST('/api/clips/{id}/bench', { params: { path: { id: path } } })))

  let lost = ''
  /** What the worker has brought meanwhile. Nobody waits for it: what is being changed goes before it, and what was said of that stays. */
  async function again() {
    const path = { id: id() }
    const before = begun
    try {
      const fresh = await ask(api.GET('/api/clips/{id}', { params: { path } }))
      const told = fresh.measured ? await ask(api.GET('/api/clips/{id}/bench', { params: { path } })) : null
      if (begun !== before || saving.value) return
      clip.value = fresh
      if (told) stand(told)
      if (trouble.value === lost) trouble.value = ''
    } catch (error) {
      lost = trouble.value = (error as Error).message
    }
  }

  let latest = 0

  /**
   * A change of the lift on show, which the server answers with everything that follows from it. What is `sure` beforehand is shown at
   * once and taken back when the server refuses; of several changes the answer to the last one is shown.
   */
  function change(answer: (id: string, lift: number) => Promise<Bench>, sure?: (before: Bench) => Bench) {
    const turn = ++latest
    const before = bench.value
    const [here, place] = [id(), liftIndex.value]
    if (sure && before) bench.value = sure(before)
    return guarded(async () => {
      try {
        const told = await inTurn(() => answer(here, place))
        saw(here, told.corrections)
        if (turn === latest && clip.value?.id === here) stand(told)
      } catch (error) {
        if (turn === latest && clip.value?.id === here) bench.value = before
        const later = changedMeanwhile(error)
        if (!later) throw error
        saw(here, later)
        stand(await ask(api.GET('/api/clips/{id}/bench', { params: { path: { id: here } } })))
        meanwhile.value = { changes: later, mine: () => change(answer, sure) }
      }
    })
  }
  /** What was changed elsewhere since it was seen here, of what was to be changed here; and how to have one's own after all. */
  const meanwhile = shallowRef<{ changes: Change[]; mine: () => Promise<void> } | null>(null)
  const id = () => clip.value!.id

  const schools = ref<Schemas['School'][]>([])
  /** What the last answer to a question on which coaches differ changed on the open lift; null before there was one. */
  const changed = ref<string[] | null>(null)
  async function loadSchools() {
    await guarded(async () => {
      schools.value = await ask(api.GET('/api/schools', { params: { query: { athlete: clip.value!.athlete } } }))
    })
  }
  /** Answer a question otherwise than usual, or (null) no longer; the clip is judged by it at once. */
  const takePosition = (question: string, position: string | null, everyone: boolean) =>
    inOrder(async () => {
      const before = lift.value?.findings ?? []
      const athlete = clip.value!.athlete
      if (position) {
        const body = { position, athlete: everyone ? null : athlete, clip: id() }
        await ask(api.PUT('/api/schools/{question}', { params: { path: { question } }, body }))
      } else
        await ask(
          api.DELETE('/api/schools/{question}', { params: { path: { question }, query: { athlete, clip: id() } } }),
        )
      schools.value = await ask(api.GET('/api/schools', { params: { query: { athlete } } }))
      stand(await benchOf(id()))
      changed.value = changedVerdicts(before, lift.value?.findings ?? [])
    })

  return {
    clip,
    bench,
    analysis,
    lift,
    liftIndex,
    verdicts,
    playable,
    trouble,
    again,
    saving,
    schools,
    changed,
    meanwhile,
    loadSchools,
    takePosition,
    open,
    moveDisc: (frame: number, x_px: number, y_px: number) =>
      change(
        (id) => ask(api.PUT('/api/clips/{id}/disc/{frame}', { params: { path: { id, frame } }, body: { x_px, y_px } })),
        (before) => withDisc(before, { frame, x_px, y_px }),
      ),
    moveJoint: (frame: number, joint: string, x_px: number, y_px: number) =>
      change(
        (id) =>
          ask(
            api.PUT('/api/clips/{id}/joints/{frame}/{joint}', {
              params: { path: { id, frame, joint } },
              body: { x_px, y_px },
            }),
          ),
        (before) => withJoint(before, { frame, joint, x_px, y_px }),
      ),
    takeBackJoint: (frame: number, joint: string) =>
      change((id) =>
        ask(api.DELETE('/api/clips/{id}/joints/{frame}/{joint}', { params: { path: { id, frame, joint } } })),
      ),
    moveEvent: (name: string, frame: number) =>
      change((id, lift) =>
        ask(
          api.PUT('/api/clips/{id}/events/{lift}/{event}', {
            params: { path: { id, lift, event: name } },
            body: { frame },
          }),
        ),
      ),
    takeBackEvent: (name: string) =>
      change((id, lift) =>
        ask(
          api.DELETE('/api/clips/{id}/events/{lift}/{event}', {
            params: { path: { id, lift, event: name } },
          }),
        ),
      ),
    setByHand: (facts: Schemas['ByHandRequest']) =>
      change((id) => ask(api.PUT('/api/clips/{id}/by-hand', { params: { path: { id } }, body: facts }))),
    /** What was said of the clip, said otherwise: whose it is, whether the lift was made, and whether it is one to measure others by. */
    sayOf: (facts: Partial<Pick<Clip, 'athlete' | 'made' | 'model_name' | 'model_agreed'>>) =>
      inOrder(async () => {
        clip.value = await ask(api.PATCH('/api/clips/{id}', { params: { path: { id: id() } }, body: facts }))
        stand(await ask(api.GET('/api/clips/{id}/bench', { params: { path: { id: id() } } })))
      }),
    undo: () => change((id) => ask(api.POST('/api/clips/{id}/undo', { params: { path: { id } } }))),
    redo: () => change((id) => ask(api.POST('/api/clips/{id}/redo', { params: { path: { id } } }))),
    takeBackDisc: (frame: number) =>
      change((id) => ask(api.DELETE('/api/clips/{id}/disc/{frame}', { params: { path: { id, frame } } }))),
    decide: (fault: string, decision: 'confirmed' | 'dismissed' | 'added', frame: number | null = null, note = '') =>
      change((id, lift) =>
        ask(
          api.PUT('/api/clips/{id}/verdicts/{lift}/{fault}', {
            params: { path: { id, lift, fault } },
            body: { fault, decision, frame, note },
          }),
        ),
      ),
    /** Limits of the coach's own for one rule; null takes them back. */
    setLimit: (fault: string, measure: string, limits: Schemas['LimitRequest'] | null) =>
      change((id) => {
        const path = { id, fault, measure }
        return ask(
          limits
            ? api.PUT('/api/clips/{id}/limits/{fault}/{measure}', { params: { path }, body: limits })
            : api.DELETE('/api/clips/{id}/limits/{fault}/{measure}', { params: { path } }),
        )
      }),
    takeBack: (fault: string) =>
      change((id, lift) =>
        ask(
          api.DELETE('/api/clips/{id}/verdicts/{lift}/{fault}', {
            params: { path: { id, lift, fault } },
          }),
        ),
      ),
  }
})
