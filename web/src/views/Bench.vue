<script setup lang="ts">
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, type Catalogue, type Schemas } from '@/api/client'
import AsModel from '@/components/AsModel.vue'
import ByHand from '@/components/ByHand.vue'
import Findings from '@/components/Findings.vue'
import MeasureTable from '@/components/MeasureTable.vue'
import Notes from '@/components/Notes.vue'
import Positions from '@/components/Positions.vue'
import Schools from '@/components/Schools.vue'
import Stage from '@/components/Stage.vue'
import Traces from '@/components/Traces.vue'
import Warnings from '@/components/Warnings.vue'
import WhoseClip from '@/components/WhoseClip.vue'
import WorkShown from '@/components/WorkShown.vue'
import { MADE_UP, REFERENCE } from '@/components/beside'
import { FRONT_SHOWN, fromSide, type CurveId } from '@/components/curves'
import { WHOLE, type View } from '@/components/closer'
import { newsOf } from '@/components/changes'
import { taken } from '@/components/keys'
import { useLaidOver } from '@/components/laidOver'
import { INKS, SHAPES, type Ink, type Shape } from '@/components/marks'
import type { Picking } from '@/components/picking'
import { labelIn } from '@/components/verdicts'
import type { Look } from '@/components/voice'
import { useFootage } from '@/footage/useFootage'
import { useSound } from '@/footage/useSound'
import { dated, load, title, words } from '@/format/quantity'
import { useBench } from '@/stores/bench'
import { useLooks, type Angle, type Drawn } from '@/stores/looks'

const props = defineProps<{ id: string }>()
const bench = useBench()
const router = useRouter()
const canvas = ref<HTMLCanvasElement | null>(null)
const catalogue = ref<Catalogue | null>(null)
const looks = useLooks()
const LAYERS: { id: Drawn; label: string; key: string }[] = [
  { id: 'path', label: 'Path', key: 'b' },
  { id: 'upright', label: 'Upright', key: 'u' },
  { id: 'joints', label: 'Joints', key: 'j' },
  { id: 'angles', label: 'Angles', key: 'a' },
  { id: 'relations', label: 'Distances from the bar', key: 'r' },
  { id: 'mid_foot', label: 'Mid-foot', key: 'm' },
  { id: 'balance', label: 'Weight over the foot', key: 'w' },
  { id: 'own_start', label: 'Own start', key: 's' },
  { id: 'marks', label: 'Marks', key: 'k' },
]
const ANGLES: Angle[] = ['trunk', 'hip', 'knee', 'shin', 'elbow']
/** How the stage was looked at when the spoken note was made that is heard now. */
const then = ref<Look | null>(null)
const seen = ref<View>(WHOLE)
const look = computed<Look>(() => ({ ...seen.value, drawn: looks.drawn }))
const shows = (one: Drawn) => (then.value?.drawn ?? looks.drawn).includes(one)
const laid = useLaidOver(
  () => bench.clip,
  () => bench.lift,
  () => bench.liftIndex,
)
/** The shape the coach holds a pen for; what was drawn stays with the clip. */
const shape = ref<Shape | null>(null)
const ink = ref<Ink>('white')
const marks = ref<Schemas['Mark'][]>([])
const marksHere = computed(() => marks.value.filter((mark) => mark.frame === shown.value))
async function changeMarks(answer: Promise<Schemas['Mark'][]>) {
  try {
    marks.value = await answer
  } catch (error) {
    bench.trouble = (error as Error).message
  }
}
const path = () => ({ path: { id: props.id } })
const loadMarks = () => changeMarks(ask(api.GET('/api/clips/{id}/marks', { params: path() })))
const draw = (drawn: Shape, points: number[][]) =>
  changeMarks(
    ask(
      api.POST('/api/clips/{id}/marks', {
        params: path(),
        body: { frame: shown.value, shape: drawn, points, ink: ink.value },
      }),
    ),
  )
const rub = (mark: number) =>
  changeMarks(ask(api.DELETE('/api/clips/{id}/marks/{mark}', { params: { path: { id: props.id, mark } } })))
function pen(next: Shape | null) {
  void footage.pause()
  shape.value = next
  if (next && !shows('marks')) looks.toggle('marks')
}
const tab = ref<'findings' | 'figures' | 'notes' | 'by-hand' | 'schools'>('findings')
const notes = ref<InstanceType<typeof Notes> | null>(null)
const stage = ref<InstanceType<typeof Stage> | null>(null)
/** What lies under the stage: traces, or the picture at every position. */
const under = ref<'traces' | 'positions'>('traces')
const follow = ref('')
const FOLLOW = ['bar', 'wrist', 'shoulder', 'hip', 'knee', 'ankle', 'toe']
/** A stretch that plays over and over: from the position before the frame on show to the one after it. */
const stretch = ref<[number, number] | null>(null)
const findings = ref<InstanceType<typeof Findings> | null>(null)
const picking = ref<Picking>(null)
const picked = ref<{ x: number; y: number }[]>([])
const keysShown = ref(false)
const SPEEDS = [1, 0.5, 0.25, 0.125, 0.0625]
const speed = ref(1)
let timer = 0
let gone = false
let firstPass = true

const url = computed(() => `/api/clips/${props.id}/video.mp4`)
const times = computed(() => bench.bench?.playback_s ?? null)
const footage = useFootage(canvas, url, times)
const { shown, last, playing } = footage
const sound = useSound(
  computed(() => `/api/clips/${props.id}/sound.m4a`),
  times,
  shown,
  playing,
  speed,
)
/** How loud every frame is; null until its trace is asked for, and for a clip without sound. */
/** What is traced: of a clip from the front only what shows from there, or the strip would be empty. */
const fromFront = computed(() => bench.analysis !== null && !fromSide(bench.analysis))
const frontTraces = ref<CurveId[]>(FRONT_SHOWN)
const traces = computed(() => (fromFront.value ? frontTraces.value : looks.traces))
function showTraces(ids: CurveId[]) {
  if (fromFront.value) frontTraces.value = ids
  else looks.show(ids)
}
const loudness = ref<number[] | null>(null)
const deaf = ref(false)
watch(
  [() => traces.value.includes('sound'), () => bench.playable, () => props.id],
  async ([asked, ready, id]) => {
    loudness.value = null
    deaf.value = false
    if (!asked || !ready) return
    const told = await ask(api.GET('/api/clips/{id}/loudness', { params: { path: { id } } })).catch(() => null)
    if (id !== props.id) return
    loudness.value = told?.loudness ?? null
    deaf.value = !loudness.value
  },
  { immediate: true },
)

// Off the floor the pull starts where the bar leaves it: one mark is enough.
const events = computed(() =>
  Object.entries(bench.lift?.events ?? {})
    .map(([name, event]) => ({ name, ...event }))
    .filter(({ name }) => !(name === 'pull_start' && bench.lift?.events.lift_off)),
)
/** The position last stepped to: it can be moved to the frame on show. */
const chosenName = ref('')
const chosen = computed(() => events.value.find(({ name }) => name === chosenName.value) ?? null)
function chooseEvent(name: string, frame: number) {
  chosenName.value = name
  void footage.go(frame)
}
/** Positions of this kind of lift that were not found. */
const absent = computed(() => bench.bench?.absent[bench.liftIndex] ?? [])
function setAbsent(select: HTMLSelectElement) {
  const name = select.value
  select.value = ''
  if (name) void bench.moveEvent(name, shown.value)
}
const corrected = computed(() => (bench.bench?.disc_points ?? []).map((point) => point.frame))
const jointsSet = computed(() =>
  (bench.bench?.joint_points ?? []).filter((point) => point.frame === shown.value).map((point) => point.joint),
)
/** The finding that was asked to be shown: what it rests on is drawn at its frame. */
const shownFault = ref('')
const findingShown = computed(() => bench.lift?.findings.find((one) => one.fault === shownFault.value) ?? null)
const labelOf = (measure: string) => labelIn(catalogue.value, measure)
function showFinding(fault: string, frame: number) {
  shownFault.value = fault
  void footage.go(frame)
}
const working = computed(() => bench.clip && ['queued', 'running'].includes(bench.clip.job.state))

async function load_() {
  await bench.open(props.id)
  lookAgain()
}
/** While the worker is at the clip, what it brings is shown as it comes. */
function lookAgain() {
  window.clearTimeout(timer)
  if (gone || !working.value) return
  timer = window.setTimeout(async () => {
    await bench.again()
    lookAgain()
  }, 1200)
}
// Before anything is drawn, or the clip that was on the bench before would be for a moment.
const opened = load_()
onMounted(async () => {
  window.addEventListener('keydown', onKey)
  await opened
  await Promise.all([looks.load(), loadMarks(), laid.load()])
  catalogue.value = await ask(api.GET('/api/catalogue'))
})
watch(tab, (now) => now === 'schools' && bench.loadSchools())
/** The coach sees something at this frame. */
function see() {
  void footage.pause()
  tab.value = 'findings'
  void findings.value?.startAdding()
}
onBeforeUnmount(() => {
  gone = true
  window.clearTimeout(timer)
  window.removeEventListener('keydown', onKey)
})
watch(
  () => props.id,
  () => {
    stretch.value = null
    shape.value = null
    laid.chosen.value = ''
    shownFault.value = ''
    firstPass = true
    void load_()
    void loadMarks()
  },
)
watch(picking, () => (picked.value = []))
function pick(x: number, y: number) {
  picked.value = [...(picked.value.length === 2 ? [] : picked.value), { x, y }]
}
// The first look is at full speed, before any line is judged.
watch(footage.ready, (ready) => {
  if (ready && firstPass) {
    firstPass = false
    void footage.play(1)
  }
})

/** What is set by hand, or taken back; when the pictures must be looked at again for it, the worker is waited for. */
async function turned(change: () => Promise<void>) {
  const before = String(bench.bench?.by_hand.lifter_box)
  await change()
  if (String(bench.bench?.by_hand.lifter_box) !== before) await load_()
}
const setByHand = (facts: Schemas['ByHandRequest']) => turned(() => bench.setByHand(facts))
function event(by: number) {
  const frames = [...new Set(events.value.map((e) => e.frame))]
  const next = by > 0 ? frames.find((f) => f > shown.value) : frames.findLast((f) => f < shown.value)
  const named = events.value.find((e) => e.frame === next)
  if (named) chooseEvent(named.name, named.frame)
}
const toggle = () => (playing.value ? footage.pause() : footage.play(speed.value, stretch.value))
async function turnLoop() {
  await footage.pause()
  if (stretch.value) {
    stretch.value = null
    return
  }
  const frames = [0, ...new Set(events.value.map((one) => one.frame)), last.value]
  // From the last frame there is nothing to play on to: what comes before it is played.
  const begin = frames.findLast((one) => one <= shown.value && one < last.value) ?? 0
  const end = frames.find((one) => one > begin) ?? last.value
  stretch.value = [begin, end]
  void footage.play(speed.value === 1 ? 0.25 : speed.value, stretch.value)
}
function write() {
  void footage.pause()
  tab.value = 'notes'
  void nextTick(() => notes.value?.start())
}
function say() {
  tab.value = 'notes'
  void notes.value?.say()
}
/** What was changed elsewhere is changed once more, as it was meant to be here. */
function useMine() {
  const mine = bench.meanwhile?.mine
  bench.meanwhile = null
  void mine?.()
}
/** On to the next clip that waits for a review. */
async function nextClip() {
  const { clip } = await ask(api.GET('/api/clips/{id}/next', { params: { path: { id: props.id } } }))
  if (clip) await router.push({ name: 'bench', params: { id: clip } })
  else await router.push({ name: 'queue' })
}

const keySought = ref('')
const keysFound = computed(() => {
  const sought = keySought.value.trim().toLowerCase()
  return KEYS.filter(({ keys, does }) => keys && `${keys} ${does}`.toLowerCase().includes(sought))
})
const KEYS: { keys: string; does: string; test: (e: KeyboardEvent) => boolean; run: () => void }[] = [
  { keys: 'Space', does: 'play or stop', test: (e) => e.key === ' ', run: toggle },
  {
    keys: '← →',
    does: 'one frame',
    test: (e) => !e.shiftKey && e.key === 'ArrowRight',
    run: () => void footage.step(1),
  },
  { keys: '', does: '', test: (e) => !e.shiftKey && e.key === 'ArrowLeft', run: () => void footage.step(-1) },
  {
    keys: 'Shift ← →',
    does: 'ten frames',
    test: (e) => e.shiftKey && e.key === 'ArrowRight',
    run: () => void footage.step(10),
  },
  { keys: '', does: '', test: (e) => e.shiftKey && e.key === 'ArrowLeft', run: () => void footage.step(-10) },
  { keys: '↑ ↓', does: 'position before, after', test: (e) => e.key === 'ArrowDown', run: () => event(1) },
  { keys: '', does: '', test: (e) => e.key === 'ArrowUp', run: () => event(-1) },
  ...LAYERS.map(({ id, label, key }) => ({
    keys: key.toUpperCase(),
    does: `${label.toLowerCase()} on or off`,
    test: (e: KeyboardEvent) => e.key === key,
    run: () => looks.toggle(id),
  })),
  {
    keys: 'D',
    does: 'draw, or put the pen down',
    test: (e) => e.key === 'd',
    run: () => pen(shape.value ? null : 'line'),
  },
  {
    keys: 'Esc',
    does: 'put the pen down, or pick no points any more',
    test: (e) => e.key === 'Escape' && (shape.value !== null || picking.value !== null),
    run: () => {
      shape.value = null
      picking.value = null
    },
  },
  {
    keys: 'Backspace',
    does: 'take back the last mark at this frame',
    test: (e) => e.key === 'Backspace' && marksHere.value.length > 0,
    run: () => void rub(marksHere.value.at(-1)!.id),
  },
  { keys: 'V', does: 'say a note, or end it', test: (e) => e.key === 'v', run: say },
  { keys: 'O', does: 'sound on or off', test: (e) => e.key === 'o', run: () => (sound.on.value = !sound.on.value) },
  { keys: 'L', does: 'play from position to position over and over', test: (e) => e.key === 'l', run: turnLoop },
  {
    keys: '+ −',
    does: 'closer, further',
    test: (e) => e.key === '+' || e.key === '=',
    run: () => stage.value?.closer(1.4),
  },
  { keys: '', does: '', test: (e) => e.key === '-', run: () => stage.value?.closer(1 / 1.4) },
  { keys: '0', does: 'the whole picture', test: (e) => e.key === '0', run: () => stage.value?.closer(0) },
  {
    keys: 'P',
    does: 'traces or pictures of the positions',
    test: (e) => e.key === 'p',
    run: () => (under.value = under.value === 'traces' ? 'positions' : 'traces'),
  },
  {
    keys: 'G',
    does: 'another lift laid over, or taken away',
    test: (e) => e.key === 'g',
    run: () => bench.lift && laid.turn(),
  },
  { keys: 'T', does: 'write a note at this frame', test: (e) => e.key === 't', run: write },
  { keys: 'N', does: 'next clip that waits', test: (e) => e.key === 'n', run: () => void nextClip() },
  { keys: 'F', does: 'add a fault you see at this frame', test: (e) => e.key === 'f', run: see },
  {
    keys: 'I',
    does: 'put the lines of the finding away',
    test: (e) => e.key === 'i',
    run: () => (shownFault.value = ''),
  },
  { keys: 'Z', does: 'undo a correction', test: (e) => e.key === 'z', run: () => void turned(bench.undo) },
  { keys: 'Shift Z', does: 'do it again', test: (e) => e.key === 'Z', run: () => void turned(bench.redo) },
  {
    keys: 'H',
    does: 'hand over',
    test: (e) => e.key === 'h',
    run: () => void router.push({ name: 'hand-over', params: { id: props.id } }),
  },
  { keys: '?', does: 'these keys', test: (e) => e.key === '?', run: () => (keysShown.value = !keysShown.value) },
]
function onKey(e: KeyboardEvent) {
  if (taken(e)) return
  const key = KEYS.find((one) => one.test(e))
  if (!key) return
  e.preventDefault()
  key.run()
}

const STAGES: Record<string, string> = {
  waiting: 'Waiting its turn',
  tracking: 'Following the disc',
  looking: 'Looking at the lifter',
  measuring: 'Measuring',
  preparing: 'Preparing the footage for stepping',
}
const facing = computed(() => bench.analysis?.clip.facing ?? 'right')
</script>

<template>
  <main v-if="bench.clip && bench.analysis" class="bench">
    <div class="bar">
      <h1>{{ bench.clip.athlete_name }}</h1>
      <span>{{ title(bench.clip.lift) }}</span>
      <span v-if="bench.clip.load">{{ load(bench.clip.load, bench.clip.load_unit ?? 'kg') }}</span>
      <span class="quiet">{{ bench.clip.made === null ? '' : bench.clip.made ? 'made' : 'missed' }}</span>
      <span v-if="!fromSide(bench.analysis)" class="quiet" data-test="view">
        {{ bench.analysis.clip.view.kind === 'back' ? 'seen from behind' : 'seen from the front' }}
      </span>
      <template v-else>
        <span class="quiet">faces {{ facing }}{{ bench.bench?.by_hand.facing ? ' (set by you)' : '' }}</span>
        <button
          type="button"
          class="btn btn-sm btn-link"
          :disabled="bench.saving"
          @click="bench.setByHand({ facing: facing === 'right' ? 'left' : 'right' })"
        >
          Turn round
        </button>
      </template>
      <span class="spring" />
      <select
        v-if="bench.analysis.lifts.length > 1"
        v-model="bench.liftIndex"
        class="form-select form-select-sm lift-pick"
        aria-label="Lift of this clip"
      >
        <option v-for="(one, index) in bench.analysis.lifts" :key="index" :value="index">
          {{ index + 1 }}. {{ title(one.kind) }}
        </option>
      </select>
      <RouterLink class="btn btn-sm btn-outline-secondary" :to="{ name: 'beside', params: { id, other: 'none' } }">
        Side by side
      </RouterLink>
      <RouterLink class="btn btn-sm btn-outline-secondary" :to="{ name: 'lifts', params: { id: bench.clip.athlete } }">
        Lifts together
      </RouterLink>
      <RouterLink class="btn btn-sm btn-primary" :to="{ name: 'hand-over', params: { id } }">Hand over</RouterLink>
    </div>
    <div v-if="bench.meanwhile" class="notice d-flex flex-wrap gap-2" role="alert" data-test="meanwhile">
      Changed elsewhere meanwhile:
      <span v-for="one in bench.meanwhile.changes" :key="one.id"
        >{{ newsOf(one, bench.clip?.load_unit ?? 'kg') }}.
      </span>
      <button type="button" class="btn btn-sm btn-outline-secondary" @click="bench.meanwhile = null">
        Keep theirs
      </button>
      <button type="button" class="btn btn-sm btn-outline-secondary" @click="useMine">Use mine</button>
    </div>
    <p v-if="bench.trouble || sound.trouble.value" class="notice" role="alert">
      {{ bench.trouble || sound.trouble.value }}
    </p>
    <p v-else-if="working && bench.clip.job.stage === 'looking'" class="notice" role="status">
      {{ STAGES.looking }}, {{ Math.round(bench.clip.job.progress * 100) }} %. What you see is from before.
    </p>

    <WorkShown :clip="id" :athlete="bench.clip.athlete" />
    <section class="left" aria-label="Footage">
      <div class="screen">
        <Stage
          ref="stage"
          v-model:canvas="canvas"
          :analysis="bench.analysis"
          :lift="bench.lift"
          :frame="shown"
          :corrected="corrected"
          :show-path="shows('path')"
          :show-plumb="shows('upright')"
          :show-body="shows('joints')"
          :angles="shows('angles') ? looks.angles : []"
          :show-distances="shows('relations')"
          :show-mid-foot="shows('mid_foot')"
          :show-balance="shows('balance')"
          :show-own-start="shows('own_start')"
          :finding="findingShown"
          :label-of="labelOf"
          :marks="shows('marks') ? marks : []"
          :shape="shape"
          :ink="ink"
          :other="laid.other.value"
          :joints-set="jointsSet"
          :movable="!playing && !bench.saving"
          :picking="picking"
          :picked="picked"
          :follow="follow"
          :then="then"
          @move="(x, y) => bench.moveDisc(shown, x, y)"
          @move-joint="(joint, x, y) => bench.moveJoint(shown, joint, x, y)"
          @pick="pick"
          @drawn="draw"
          @looked="(view) => (seen = view)"
        />
        <!-- On the stage, not among the chips: what comes and goes with the frame must not move the picture. -->
        <div class="by-frame" role="group" aria-label="Set by hand at this frame">
          <template v-if="chosen">
            <button
              v-if="chosen.frame !== shown"
              type="button"
              data-test="move-event"
              :disabled="bench.saving"
              @click="bench.moveEvent(chosen.name, shown)"
            >
              {{ title(chosen.name) }} is here
            </button>
            <button
              v-else-if="chosen.source === 'coach'"
              type="button"
              :disabled="bench.saving"
              @click="bench.takeBackEvent(chosen.name)"
            >
              Take back where {{ words(chosen.name) }} is
            </button>
          </template>
          <select v-if="shape" v-model="ink" class="form-select form-select-sm tool" aria-label="Colour of the pen">
            <option v-for="one in INKS" :key="one.id" :value="one.id">{{ one.label }}</option>
          </select>
          <button v-if="marksHere.length" type="button" data-test="rub" @click="rub(marksHere.at(-1)!.id)">
            Take back mark
          </button>
          <button v-if="corrected.includes(shown)" type="button" @click="bench.takeBackDisc(shown)">
            Take back the disc here
          </button>
          <button v-for="joint in jointsSet" :key="joint" type="button" @click="bench.takeBackJoint(shown, joint)">
            Take back the {{ words(joint) }} here
          </button>
        </div>
        <div v-if="!footage.ready.value || footage.trouble.value" class="cover">
          <template v-if="footage.trouble.value">
            The footage cannot be shown: {{ footage.trouble.value }}. The figures stand.
          </template>
          <template v-else-if="bench.clip.job.state === 'failed'">{{ bench.clip.job.error_message }}</template>
          <template v-else-if="!bench.playable">
            {{ STAGES[bench.clip.job.stage] ?? 'Preparing' }}, {{ Math.round(bench.clip.job.progress * 100) }} %. The
            figures are there already.
          </template>
          <template v-else>Opening the footage …</template>
        </div>
      </div>
      <div class="transport" role="group" aria-label="Stepping">
        <button type="button" class="btn btn-sm btn-primary play" @click="toggle">
          {{ playing ? 'Stop' : 'Play' }}
        </button>
        <button
          type="button"
          class="btn btn-sm btn-outline-secondary"
          aria-label="−10: ten frames back"
          @click="footage.step(-10)"
        >
          −10
        </button>
        <button
          type="button"
          class="btn btn-sm btn-outline-secondary"
          aria-label="−1: one frame back"
          data-test="back"
          @click="footage.step(-1)"
        >
          −1
        </button>
        <button
          type="button"
          class="btn btn-sm btn-outline-secondary"
          aria-label="+1: one frame on"
          data-test="on"
          @click="footage.step(1)"
        >
          +1
        </button>
        <button
          type="button"
          class="btn btn-sm btn-outline-secondary"
          aria-label="+10: ten frames on"
          @click="footage.step(10)"
        >
          +10
        </button>
        <button
          type="button"
          class="btn btn-sm btn-outline-secondary"
          :aria-pressed="stretch !== null"
          title="Play from the position before to the one after, over and over"
          @click="turnLoop"
        >
          {{ stretch ? 'End loop' : 'Loop' }}
        </button>
        <input
          type="range"
          class="form-range"
          min="0"
          :max="last"
          :value="shown"
          aria-label="Frame"
          @input="footage.go(Number(($event.target as HTMLInputElement).value))"
        />
        <button
          type="button"
          class="btn btn-sm btn-outline-secondary"
          :aria-pressed="sound.on.value"
          title="The clip's own sound while it plays, down to a quarter of its speed"
          @click="sound.on.value = !sound.on.value"
        >
          {{ sound.on.value ? 'Silence' : 'Sound' }}
        </button>
        <select v-model="follow" class="form-select form-select-sm follow" aria-label="What the closer view follows">
          <option value="">closer: by hand</option>
          <option v-for="one in FOLLOW" :key="one" :value="one">closer: the {{ one }}</option>
        </select>
        <select v-model.number="speed" class="form-select form-select-sm speed" aria-label="Playing speed">
          <option v-for="one in SPEEDS" :key="one" :value="one">
            {{ one === 1 ? 'full speed' : `1/${1 / one} speed` }}
          </option>
        </select>
      </div>
      <div class="chips" role="group" aria-label="Positions">
        <button
          v-for="one in events"
          :key="one.name"
          type="button"
          :class="{ here: one.frame === shown, standin: one.source === 'stature', set: one.source === 'coach' }"
          :title="`Frame ${one.frame}, ${one.time_s.toFixed(3)} s ± ${(one.sd_s * 1000).toFixed(0)} ms${one.source === 'stature' ? '; height stands in from stature' : ''}`"
          :data-event="one.name"
          @click="chooseEvent(one.name, one.frame)"
        >
          {{ title(one.name) }}
        </button>
        <select
          v-if="absent.length"
          class="form-select form-select-sm tool"
          aria-label="A position that was not found, set at this frame"
          value=""
          :disabled="bench.saving"
          @change="setAbsent($event.target as HTMLSelectElement)"
        >
          <option value="">Missing …</option>
          <option v-for="name in absent" :key="name" :value="name">{{ title(name) }} is here</option>
        </select>
        <span class="spring" />
        <details class="layers">
          <summary>Drawn ({{ looks.drawn.length }})</summary>
          <div>
            <label v-for="layer in LAYERS" :key="layer.id">
              <input type="checkbox" :checked="shows(layer.id)" @change="looks.toggle(layer.id)" /> {{ layer.label }}
              <kbd>{{ layer.key.toUpperCase() }}</kbd>
            </label>
            <fieldset v-if="shows('angles')">
              <legend>Which angles</legend>
              <label v-for="one in ANGLES" :key="one">
                <input type="checkbox" :checked="looks.angles.includes(one)" @change="looks.toggleAngle(one)" />
                {{ title(one) }}
              </label>
            </fieldset>
          </div>
        </details>
        <select
          class="form-select form-select-sm tool"
          aria-label="Draw"
          :value="shape ?? ''"
          @change="pen((($event.target as HTMLSelectElement).value || null) as Shape | null)"
        >
          <option value="">{{ shape ? 'Put the pen down' : 'Draw …' }}</option>
          <option v-for="one in SHAPES" :key="one.id" :value="one.id">{{ one.label }}</option>
        </select>
        <select
          v-if="bench.lift"
          v-model="laid.chosen.value"
          class="form-select form-select-sm tool"
          aria-label="Lay another lift over this one"
        >
          <option value="">Lay over …</option>
          <option :value="REFERENCE">{{ MADE_UP }}</option>
          <optgroup v-for="group in laid.groups.value" :key="group.name" :label="group.name">
            <option v-for="one in group.clips" :key="one.id" :value="one.id">
              {{ one.model_name ? `${one.model_name}: ` : ''
              }}{{ group.name === 'This athlete' ? '' : `${one.athlete_name}, `
              }}{{ one.load ? load(one.load, one.load_unit ?? 'kg') : title(one.lift)
              }}{{ one.made === false ? ', missed' : '' }}{{ one.filmed_on ? `, ${dated(one.filmed_on)}` : '' }}
            </option>
          </optgroup>
        </select>
        <span v-if="laid.trouble.value" role="alert">{{ laid.trouble.value }}</span>
      </div>
      <div v-if="bench.lift" class="plots panel">
        <div class="which" role="group" aria-label="Under the footage">
          <span v-if="deaf && under === 'traces'" class="quiet" role="status">no sound in this clip</span>
          <button type="button" :aria-pressed="under === 'traces'" @click="under = 'traces'">Traces</button>
          <button type="button" :aria-pressed="under === 'positions'" @click="under = 'positions'">Positions</button>
        </div>
        <Positions
          v-if="under === 'positions'"
          :analysis="bench.analysis"
          :lift="bench.lift"
          :clip="id"
          :frame="shown"
          :catalogue="catalogue"
          :movable="!bench.saving"
          @choose="chooseEvent"
          @go="footage.go"
          @move="bench.moveEvent"
        />
        <Traces
          v-else
          :shown="traces"
          :analysis="bench.analysis"
          :lift="bench.lift"
          :frame="shown"
          :other="laid.other.value"
          :loudness="loudness"
          @update:shown="showTraces"
          @go="footage.go"
        />
      </div>
    </section>

    <aside class="panel right">
      <div class="tabs">
        <div role="tablist" aria-label="What stands beside the footage">
          <button type="button" role="tab" :aria-selected="tab === 'findings'" @click="tab = 'findings'">
            Findings
          </button>
          <button type="button" role="tab" :aria-selected="tab === 'figures'" @click="tab = 'figures'">Figures</button>
          <button type="button" role="tab" :aria-selected="tab === 'notes'" @click="tab = 'notes'">Notes</button>
          <button type="button" role="tab" :aria-selected="tab === 'by-hand'" @click="tab = 'by-hand'">By hand</button>
          <button type="button" role="tab" :aria-selected="tab === 'schools'" @click="tab = 'schools'">Schools</button>
        </div>
        <button type="button" class="keys" aria-label="Keys" :aria-expanded="keysShown" @click="keysShown = !keysShown">
          <span>Keys </span><kbd>?</kbd>
        </button>
      </div>
      <input
        v-if="keysShown"
        v-model="keySought"
        type="search"
        class="form-control form-control-sm seek"
        placeholder="what you want to do, or a key"
        aria-label="Search the keys"
      />
      <dl v-if="keysShown" class="keylist">
        <template v-for="key in keysFound" :key="key.keys">
          <dt>
            <kbd>{{ key.keys }}</kbd>
          </dt>
          <dd>{{ key.does }}</dd>
        </template>
        <dt>drag</dt>
        <dd>the ring on the bar or a joint corrects it at this frame</dd>
      </dl>
      <Warnings
        v-if="bench.analysis.warnings.length && ['findings', 'figures', 'by-hand'].includes(tab)"
        :warnings="bench.analysis.warnings"
        :saving="bench.saving"
        @take="(offer) => setByHand(offer as Schemas['ByHandRequest'])"
      />
      <ByHand
        v-if="bench.bench"
        v-show="tab === 'by-hand'"
        :analysis="bench.analysis"
        :by-hand="bench.bench.by_hand"
        :corrections="bench.bench.corrections"
        :unit="bench.clip.load_unit ?? 'kg'"
        :frame="shown"
        :saving="bench.saving"
        :picking="picking"
        :picked="picked"
        @set="setByHand"
        @pick="(what) => (picking = what)"
        @undo="turned(bench.undo)"
        @redo="turned(bench.redo)"
      />
      <WhoseClip v-if="tab === 'by-hand'" :clip="bench.clip" :saving="bench.saving" @set="bench.sayOf" />
      <AsModel v-if="tab === 'by-hand'" :clip="bench.clip" :saving="bench.saving" @set="bench.sayOf" />
      <Notes
        v-show="tab === 'notes'"
        ref="notes"
        :clip="id"
        :frame="shown"
        :look="look"
        @go="footage.go"
        @look="(was) => (then = was)"
      />
      <Schools
        v-if="tab === 'schools'"
        :schools="bench.schools"
        :athlete="bench.clip.athlete_name"
        :changed="bench.changed"
        :saving="bench.saving"
        @take="(question, position, everyone) => bench.takePosition(question, position, everyone)"
        @leave="(question) => bench.takePosition(question, null, false)"
      />
      <template v-if="bench.lift">
        <Findings
          v-show="tab === 'findings'"
          ref="findings"
          :lift="bench.lift"
          :verdicts="bench.verdicts"
          :limits="bench.bench?.limits ?? []"
          :good="bench.bench?.good ?? []"
          :agreement="bench.bench?.agreement ?? []"
          :made="bench.clip.made ?? null"
          :catalogue="catalogue"
          :frame="shown"
          :saving="bench.saving"
          @reworded="(fresh) => ((catalogue = fresh), bench.again())"
          @show="showFinding"
          @decide="bench.decide"
          @limit="bench.setLimit"
          @take-back="bench.takeBack"
          @made="(made) => bench.sayOf({ made })"
        />
        <MeasureTable
          v-show="tab === 'figures'"
          :lift="bench.lift"
          :lift-index="bench.liftIndex"
          :athlete="bench.clip.athlete"
          :active="tab === 'figures'"
          :catalogue="catalogue"
          :clip="id"
          @go="footage.go"
        />
      </template>
      <p v-else-if="tab === 'findings' || tab === 'figures'" class="px-3 py-2">No lift was measured in this clip.</p>
    </aside>
  </main>
  <main v-else class="container py-4">
    <p v-if="bench.trouble" class="notice" role="alert">
      {{ bench.trouble }} <RouterLink to="/">Back to the queue</RouterLink>
    </p>
    <template v-else-if="bench.clip">
      <p v-if="bench.clip.job.state === 'failed'" class="notice">
        {{ bench.clip.job.error_message }} <RouterLink to="/">Back to the queue</RouterLink>
      </p>
      <p v-else class="quiet">
        {{ STAGES[bench.clip.job.stage] }}, {{ Math.round(bench.clip.job.progress * 100) }} % …
      </p>
    </template>
    <p v-else class="quiet">Opening {{ words('the clip') }} …</p>
  </main>
</template>

<style scoped lang="scss">
@mixin chip {
  background: var(--sunk);
  color: inherit;
  border: 1px solid var(--rule);
  border-radius: 3px;
  padding: 0.14rem 0.5rem;
  min-height: 26px;
}
.bench {
  flex: none;
  height: calc(100vh - 44px);
  display: grid;
  grid-template-columns: minmax(0, 1fr) 25.75rem;
  grid-template-rows: auto auto minmax(0, 1fr);
  gap: 0.4rem 0.6rem;
  padding: 0.4rem 0.6rem 0.5rem;
}
.bar,
.notice {
  grid-column: 1 / -1;
}
.bar {
  display: flex;
  align-items: center;
  gap: 0.8rem;
  h1 {
    font-size: 1.1rem;
    margin: 0;
  }
  .btn-link {
    padding: 0;
  }
}
.spring {
  flex: 1;
}
.lift-pick {
  width: auto;
}
.left {
  grid-row: 3;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 0.35rem;
}
.screen {
  flex: 1 1 0;
  min-height: 0;
  background: var(--stage);
  position: relative;
  overflow: hidden;
}
.by-frame {
  position: absolute;
  right: 0;
  bottom: 0;
  max-width: 70%;
  display: flex;
  flex-wrap: wrap-reverse;
  justify-content: end;
  gap: 0.2rem;
  padding: 0.2rem;
  font-size: 0.84rem;
  button {
    @include chip;
  }
}
.cover {
  position: absolute;
  inset: auto 0 50% 0;
  text-align: center;
  color: #e9e9e4;
  text-shadow: 0 0 6px #000;
}
.transport {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.35rem;
  .play {
    min-width: 4.2rem;
  }
  .form-range {
    flex: 1;
    min-width: 9rem;
    margin: 0 0.4rem;
  }
  .speed {
    width: 7.4rem;
  }
  .follow {
    width: 9.2rem;
  }
}
.chips {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.3rem;
  font-size: 0.84rem;
  button {
    @include chip;
    &.here {
      background: var(--bs-body-color);
      color: var(--bs-body-bg);
    }
    &.standin {
      border-style: dashed;
      border-color: var(--quiet);
    }
    &.set {
      font-weight: 600;
    }
  }
  label {
    display: inline-flex;
    align-items: center;
    gap: 0.3rem;
    margin-left: 0.4rem;
  }
  .layers {
    position: relative;
    summary {
      padding: 0.14rem 0.3rem;
    }
    div {
      position: absolute;
      bottom: 100%;
      right: 0;
      z-index: 2;
      background: var(--panel);
      border: 1px solid var(--rule);
      padding: 0.4rem 0.6rem 0.4rem 0.2rem;
    }
    label {
      display: grid;
      grid-template-columns: auto 1fr auto;
      gap: 0.5rem;
      min-width: 12rem;
      padding: 0.1rem 0;
    }
    fieldset {
      margin: 0.3rem 0 0 0.4rem;
      border-top: 1px solid var(--rule);
      display: grid;
      grid-template-columns: 1fr 1fr;
      label {
        grid-template-columns: auto 1fr;
        min-width: 0;
      }
    }
    legend {
      padding-top: 0.3rem;
      font-size: inherit;
      color: var(--quiet);
    }
  }
}
.tool {
  width: 7rem;
  font-size: 0.82rem;
  padding-block: 0.1rem;
}
.plots {
  flex: 0 0 clamp(14.5rem, 26vh, 30rem);
  position: relative;
}
.which {
  position: absolute;
  right: 0.4rem;
  top: -0.1rem;
  z-index: 1;
  button {
    background: none;
    border: 0;
    border-bottom: 2px solid transparent;
    color: var(--quiet);
    font-size: 0.78rem;
    padding: 0.1rem 0.3rem;
    &[aria-pressed='true'] {
      color: inherit;
      border-bottom-color: currentColor;
    }
  }
}
.right {
  grid-row: 3;
  min-height: 0;
  overflow-y: auto;
}
.tabs [role='tablist'] {
  display: flex;
}
.tabs {
  display: flex;
  position: sticky;
  top: 0;
  background: var(--panel);
  border-bottom: 1px solid var(--rule);
  z-index: 1;
  button {
    background: none;
    border: 0;
    border-bottom: 2px solid transparent;
    color: var(--quiet);
    padding: 0.4rem 0.5rem;
    font-size: 0.875rem;
    white-space: nowrap;
    &[aria-selected='true'] {
      color: inherit;
      border-bottom-color: currentColor;
      font-weight: 600;
    }
  }
  .keys {
    margin-left: auto;
  }
}
.seek {
  width: calc(100% - 1.5rem);
  margin: 0.5rem 0.75rem 0;
}
.keylist {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 0.2rem 0.7rem;
  padding: 0.5rem 0.75rem;
  margin: 0;
  border-bottom: 1px solid var(--rule);
  font-size: 0.86rem;
  dt {
    font-weight: 450;
  }
  dd {
    margin: 0;
  }
}
// On a tablet held across the footage takes what there is.
@media (max-width: 1199px) {
  .bench {
    grid-template-columns: minmax(0, 1fr) 20rem;
  }
  .tabs button {
    padding-inline: 0.26rem;
    font-size: 0.82rem;
  }
  .keys span {
    display: none;
  }
  // A slider for fingers; what is set less often goes below it.
  .transport .form-range {
    min-width: 40%;
  }
  .tool {
    width: 6.5rem;
  }
}
@media (max-width: 900px) {
  .bench {
    height: auto;
    grid-template-columns: minmax(0, 1fr);
    grid-template-rows: none;
  }
  .left,
  .right {
    grid-row: auto;
  }
  .screen {
    flex: none;
    height: 56vw;
  }
}
</style>
