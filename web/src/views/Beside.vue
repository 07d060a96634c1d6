<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, type Bench, type Catalogue, type Clip, type Lift } from '@/api/client'
import { benchOf } from '@/api/bench'
import { referenceOf } from '@/api/reference'
import Amount from '@/components/Amount.vue'
import Pane from '@/components/Pane.vue'
import Paths from '@/components/Paths.vue'
import {
  commonEvents,
  differences,
  frameAt,
  MADE_UP,
  otherTime,
  picks,
  REFERENCE,
  type Model,
} from '@/components/beside'
import { taken } from '@/components/keys'
import { labelIn } from '@/components/verdicts'
import { dated, load, spoken, title } from '@/format/quantity'

/**
 * Two to four lifts beside each other: heavy against light, made against missed, today against last month. `other` names those beside the
 * first, separated by commas.
 */
const props = defineProps<{ id: string; other: string }>()
const router = useRouter()
const clips = ref<Clip[]>([])
const catalogue = ref<Catalogue | null>(null)
const MOST = 4
const ORDER = ['First', 'Second', 'Third', 'Fourth']
/** The clips laid beside each other; the first again where another lift of it is. */
const ids = computed(() => [props.id, ...props.other.split(',').filter((id) => id && id !== 'none')].slice(0, MOST))
/** There is always a place beside the first, to choose a lift for. */
const panes = computed(() => Array.from({ length: Math.max(ids.value.length, 2) }, (_, place) => place))
/** What lies there: a clip, or the lift as the made-up lifter does it. */
type Laid = Pick<Bench, 'document' | 'playback_s'>
const benches = shallowRef<(Laid | null)[]>([])
const model = ref<Model>('reference')
/** Whether the made-up lifter's limbs are as long as the athlete's. */
const limbs = ref(true)
const places = ref<number[]>([])
/** Which of the others the table holds against the first. */
const against = ref(1)
const trouble = ref('')
const on = ref('')
const stretch = ref(false)
const showBody = ref(false)
const everything = ref(false)
const clock = ref(0)
const playing = ref(false)
const speed = ref(0.25)
const SPEEDS = [1, 0.5, 0.25, 0.125]

async function open() {
  try {
    const others = await ask(api.GET('/api/clips/{id}/beside', { params: { path: { id: props.id } } }))
    const missing = ids.value.filter((id) => id !== REFERENCE && !others.some((clip) => clip.id === id))
    const laid = [...new Set(missing)].map((id) => ask(api.GET('/api/clips/{id}', { params: { path: { id } } })))
    clips.value = [...(await Promise.all(laid)), ...others]
    catalogue.value ??= await ask(api.GET('/api/catalogue'))
    const got = await Promise.all(ids.value.map((id) => (id === REFERENCE ? null : benchOf(id))))
    places.value = got.reduce<number[]>((before, bench, place) => {
      const again = place > 0 && ids.value[place] === props.id
      const used = again ? before.filter((_, at) => ids.value[at] === props.id) : []
      return [...before, bench ? likeFirst(got[0]!, bench, used) : 0]
    }, [])
    benches.value = got
    if (against.value >= got.length) against.value = 1
    trouble.value = ''
    await Promise.all([layReference(), askModel()])
  } catch (error) {
    trouble.value = (error as Error).message
  }
}
/** The made-up lifter does the lift that is shown of the first clip. */
async function layReference() {
  const place = ids.value.indexOf(REFERENCE)
  const [id, lift] = [props.id, places.value[0]!]
  if (place < 0 || !benches.value[0]?.document.lifts[lift]) return
  putAt(place, null)
  const told = await referenceOf(id, lift)
  if (ids.value[place] !== REFERENCE || props.id !== id || places.value[0] !== lift) return
  trouble.value = ''
  limbs.value = told.own_limbs
  putAt(place, { document: told.document, playback_s: told.document.clip.frame_time_s })
}
/** In a place, which may be one more than there are yet. */
function putAt(place: number, laid: Laid | null) {
  benches.value = Object.assign([...benches.value], { [place]: laid })
}
/** What the coach holds this athlete's lifts against. */
async function askModel() {
  const athlete = clipOf(props.id)?.athlete
  if (!athlete) return
  const schools = await ask(api.GET('/api/schools', { params: { query: { athlete } } }))
  model.value = (schools.find((school) => school.id === 'model')?.position ?? 'reference') as Model
}
/** Of a clip's lifts the first of the same kind as the first clip's; of the first clip's own the last that does not lie here yet. */
function likeFirst(first: Laid, other: Laid, used: number[]): number {
  const { lifts } = other.document
  const kind = first.document.lifts[0]?.kind
  const like = lifts.flatMap((one, place) => (one.kind === kind && !used.includes(place) ? [place] : []))
  return (used.length ? like.at(-1) : like[0]) ?? 0
}
onMounted(() => {
  window.addEventListener('keydown', onKey)
  void open()
})
onBeforeUnmount(() => {
  stop()
  window.removeEventListener('keydown', onKey)
})
watch(() => [props.id, props.other], open)
watch(
  () => places.value[0],
  (now, before) =>
    before !== undefined && now !== before && layReference().catch((error) => (trouble.value = error.message)),
)

const clipOf = (id: string) => clips.value.find((clip) => clip.id === id) ?? null
const first = computed(() => clipOf(props.id))
/** What tells lifts of one athlete apart comes first: beside three others little room is left for the rest. */
const named = (clip: Clip) =>
  [
    clip.load ? load(clip.load, clip.load_unit ?? 'kg') : '',
    clip.made === false ? 'missed' : '',
    clip.filmed_on ? dated(clip.filmed_on) : '',
    title(clip.lift),
    clip.athlete_name,
  ]
    .filter(Boolean)
    .join(' · ')
/** How often the first clip's first lift is done in it. */
const repeats = computed(() => {
  const mine = benches.value[0]?.document.lifts ?? []
  return mine.filter((one) => one.kind === mine[0]?.kind).length
})
/** Who can be laid beside it: the same athlete's same lift first, newest first; then their others; then everybody's. */
const choices = computed(() => {
  const mine = first.value
  const rest = clips.value.filter((clip) => clip.id !== props.id)
  const own = mine && repeats.value > 1 ? [{ name: 'Another lift of this clip', clips: [mine] }] : []
  const same = (clip: Clip) => (clip.athlete === mine?.athlete ? (clip.lift === mine?.lift ? 0 : 1) : 2)
  const names = ['The same lift of this athlete', 'Other lifts of this athlete', 'Other athletes']
  const groups = names.map((name, group) => ({ name, clips: rest.filter((clip) => same(clip) === group) }))
  return [...own, ...groups].filter((group) => group.clips.length)
})
/** Whether one more can be laid beside them: no clip twice, but the first as often as its lift is done in it. */
const spare = (clip: Clip) =>
  ids.value.filter((id) => id === clip.id).length < (clip.id === props.id ? repeats.value : 1)
const lifts = computed(() => benches.value.map((bench, place) => bench?.document.lifts[places.value[place]!] ?? null))
/** All of them once there are two and each clip has its lift. */
const laid = computed(() =>
  lifts.value.length > 1 && lifts.value.every((one) => one) ? (lifts.value as Lift[]) : null,
)
const pair = computed(() =>
  laid.value ? ([laid.value[0]!, laid.value[against.value] ?? laid.value[1]!] as const) : null,
)
/** Positions that all of them have. */
const events = computed(() => {
  const [mine, ...others] = laid.value ?? []
  if (!mine) return []
  return others
    .map((one) => commonEvents(mine, one))
    .reduce((shared, names) => shared.filter((name) => names.includes(name)))
})
watch(
  events,
  (names) => {
    // While one of them is on its way there are none; what was chosen stands until it is known whether all have it.
    if (!names.length || names.includes(on.value)) return
    on.value =
      ['contact', 'peak_speed', 'dip_bottom', 'bottom', 'apex'].find((name) => names.includes(name)) ?? names[0] ?? ''
    if (pair.value && on.value) clock.value = pair.value[0].events[on.value]!.time_s
  },
  { immediate: true },
)
const clocks = computed(() => {
  const [mine, ...others] = laid.value ?? []
  if (!mine || !events.value.includes(on.value)) return []
  return [(time: number) => time, ...others.map((one) => otherTime(mine, one, on.value, stretch.value))]
})
const frames = computed(() =>
  benches.value.map((bench, place) => {
    const turn = clocks.value[place]
    return bench && turn ? frameAt(bench.document, turn(clock.value)) : 0
  }),
)
const range = computed(() => {
  const lift = pair.value?.[0]
  const times = benches.value[0]?.document.clip.frame_time_s
  return lift && times ? [times[lift.start_frame]!, times[lift.end_frame]!] : [0, 1]
})
const mirrored = (place: number) =>
  place > 0 &&
  Boolean(benches.value[place]?.document.clip.facing && benches.value[0]?.document.clip.facing) &&
  benches.value[place]!.document.clip.facing !== benches.value[0]?.document.clip.facing

function step(by: number) {
  stop()
  const document = benches.value[0]?.document
  if (!document) return
  const next = Math.min(Math.max(frames.value[0]! + by, 0), document.clip.frame_count - 1)
  clock.value = document.clip.frame_time_s[next]!
}
function event(by: number) {
  stop()
  const times = events.value.map((name) => pair.value![0].events[name]!.time_s)
  const next =
    by > 0 ? times.find((time) => time > clock.value + 1e-4) : times.findLast((time) => time < clock.value - 1e-4)
  if (next !== undefined) clock.value = next
}
function goTo(name: string) {
  stop()
  clock.value = pair.value![0].events[name]!.time_s
}
let ticket = 0
function play() {
  if (!pair.value) return
  if (clock.value >= range.value[1]! - 0.02) clock.value = range.value[0]!
  playing.value = true
  let before = performance.now()
  const tick = (now: number) => {
    if (!playing.value) return
    clock.value += ((now - before) / 1000) * speed.value
    before = now
    if (clock.value >= range.value[1]!) return stop()
    ticket = requestAnimationFrame(tick)
  }
  ticket = requestAnimationFrame(tick)
}
function stop() {
  playing.value = false
  cancelAnimationFrame(ticket)
}
const toggle = () => (playing.value ? stop() : play())
function onKey(e: KeyboardEvent) {
  if (taken(e)) return
  const run = {
    ' ': toggle,
    ArrowRight: () => step(e.shiftKey ? 10 : 1),
    ArrowLeft: () => step(e.shiftKey ? -10 : -1),
    ArrowDown: () => event(1),
    ArrowUp: () => event(-1),
    j: () => (showBody.value = !showBody.value),
  }[e.key]
  if (!run) return
  e.preventDefault()
  run()
}

const rows = computed(() => (pair.value ? differences(...pair.value) : []))
const shownRows = computed(() => rows.value.filter((row) => everything.value || row.differs))
const labelOf = (measure: string) => labelIn(catalogue.value, measure)
const others = () => ids.value.slice(1)
const lay = (list: string[]) =>
  router.replace({ name: 'beside', params: { id: props.id, other: list.filter(Boolean).join(',') || 'none' } })
const pick = (place: number, id: string) => lay(Object.assign(others(), { [place - 1]: id }))
const ready = computed(() => (first.value ? picks(first.value, clips.value, model.value, repeats.value) : []))
function takePick(select: HTMLSelectElement) {
  const one = ready.value[Number(select.value)]
  select.value = ''
  if (one) void lay(one.ids)
}
/** Why a place shows no lift. */
function missing(place: number): string {
  if (!ids.value[place]) return 'Choose a lift above.'
  const made = ids.value[place] === REFERENCE
  if (benches.value[place] || (made && benches.value[0] && !lifts.value[0])) return 'No lift was measured in this clip.'
  return trouble.value ? 'This cannot be shown. Choose another above.' : 'Opening …'
}
const leaveOut = (place: number) => lay(others().filter((_, index) => index !== place - 1))
const calls = (place: number) => (place === 1 ? 'The lift beside it' : `The ${ORDER[place]!.toLowerCase()} lift`)
</script>

<template>
  <main class="beside">
    <p v-if="trouble" class="notice" role="alert">{{ trouble }} <RouterLink to="/">Back to the queue</RouterLink></p>
    <div class="bar">
      <h1>Side by side</h1>
      <label v-if="pair"
        >Align on
        <select v-model="on" class="form-select form-select-sm">
          <option v-for="name in events" :key="name" :value="name">{{ title(name) }}</option>
        </select></label
      >
      <label v-if="pair"><input v-model="stretch" type="checkbox" /> every position at once</label>
      <label><input v-model="showBody" type="checkbox" /> joints</label>
      <span class="spring" />
      <select
        v-if="ready.length"
        class="form-select form-select-sm add"
        value=""
        aria-label="Lay beside it what it is compared with most"
        @change="takePick($event.target as HTMLSelectElement)"
      >
        <option value="">beside it …</option>
        <option v-for="(one, index) in ready" :key="one.label" :value="index">{{ one.label }}</option>
      </select>
      <select
        v-if="ids.length > 1 && ids.length < MOST"
        class="form-select form-select-sm add"
        value=""
        aria-label="Lay one more beside them"
        @change="pick(ids.length, ($event.target as HTMLSelectElement).value)"
      >
        <option value="">one more …</option>
        <option v-if="!ids.includes(REFERENCE)" :value="REFERENCE">{{ MADE_UP }}</option>
        <optgroup v-for="group in choices" :key="group.name" :label="group.name">
          <option v-for="clip in group.clips.filter(spare)" :key="clip.id" :value="clip.id">
            {{ named(clip) }}
          </option>
        </optgroup>
      </select>
      <RouterLink class="btn btn-sm btn-outline-secondary" :to="{ name: 'bench', params: { id } }"
        >To the bench</RouterLink
      >
    </div>
    <div class="panes" :style="{ '--lifts': panes.length }">
      <section v-for="place in panes" :key="place" :class="`side side-${place}`">
        <div class="who">
          <svg viewBox="0 0 30 8" aria-hidden="true"><path d="M1 4H29" /></svg>
          <b v-if="place === 0 && first">{{ named(first) }}</b>
          <select
            v-if="place > 0"
            class="form-select form-select-sm"
            :value="ids[place] ?? 'none'"
            :aria-label="calls(place)"
            @change="pick(place, ($event.target as HTMLSelectElement).value)"
          >
            <option value="none" disabled>choose a lift to lay beside it</option>
            <option v-if="ids[place] === REFERENCE || !ids.includes(REFERENCE)" :value="REFERENCE">
              {{ MADE_UP }}
            </option>
            <optgroup v-for="group in choices" :key="group.name" :label="group.name">
              <option v-for="clip in group.clips" :key="clip.id" :value="clip.id">{{ named(clip) }}</option>
            </optgroup>
          </select>
          <select
            v-if="(benches[place]?.document.lifts.length ?? 0) > 1"
            v-model="places[place]"
            class="form-select form-select-sm which"
            aria-label="Lift of this clip"
          >
            <option v-for="(one, index) in benches[place]!.document.lifts" :key="index" :value="index">
              {{ index + 1 }}. {{ title(one.kind) }}
            </option>
          </select>
          <span v-if="mirrored(place)" class="quiet">mirrored</span>
          <button
            v-if="place > 0 && ids.length > 2"
            type="button"
            class="btn btn-sm btn-link"
            :aria-label="`Leave out ${calls(place).toLowerCase()}`"
            @click="leaveOut(place)"
          >
            leave out
          </button>
        </div>
        <div class="screen">
          <Pane
            v-if="benches[place] && lifts[place]"
            :clip="ids[place]!"
            :bench="benches[place]!"
            :lift="lifts[place]!"
            :frame="frames[place]!"
            :mirrored="mirrored(place)"
            :show-body="showBody"
          />
          <p v-if="ids[place] === REFERENCE && benches[place]" class="note">
            {{ limbs ? 'stature and limbs as fitted here' : 'this stature, usual limbs' }}
          </p>
          <p v-if="!benches[place] || !lifts[place]" class="empty">
            {{ missing(place) }}
          </p>
        </div>
      </section>
    </div>
    <div v-if="pair" class="transport" role="group" aria-label="Stepping all">
      <button type="button" class="btn btn-sm btn-primary" @click="toggle">{{ playing ? 'Stop' : 'Play all' }}</button>
      <button type="button" class="btn btn-sm btn-outline-secondary" aria-label="−1: one frame back" @click="step(-1)">
        −1
      </button>
      <button type="button" class="btn btn-sm btn-outline-secondary" aria-label="+1: one frame on" @click="step(1)">
        +1
      </button>
      <input
        v-model.number="clock"
        type="range"
        class="form-range"
        :min="range[0]"
        :max="range[1]"
        step="0.001"
        aria-label="Time"
        @pointerdown="stop"
      />
      <select v-model.number="speed" class="form-select form-select-sm speed" aria-label="Playing speed">
        <option v-for="one in SPEEDS" :key="one" :value="one">
          {{ one === 1 ? 'full speed' : `1/${1 / one} speed` }}
        </option>
      </select>
    </div>
    <div v-if="pair" class="chips" role="group" aria-label="Positions">
      <button v-for="name in events" :key="name" type="button" :class="{ here: name === on }" @click="goTo(name)">
        {{ title(name) }}
      </button>
    </div>
    <div v-if="pair" class="below">
      <section class="panel paths">
        <div class="panel-head"><h2>Paths</h2></div>
        <Paths :lifts="laid!.map((lift, place) => ({ lift, frame: frames[place]! }))" />
      </section>
      <section class="panel table-part">
        <div class="panel-head">
          <h2>What differs</h2>
          <select
            v-if="laid!.length > 2"
            v-model.number="against"
            class="form-select form-select-sm add"
            aria-label="Which lift against the first"
          >
            <option v-for="place in laid!.length - 1" :key="place" :value="place">
              {{ ORDER[place]!.toLowerCase() }} against the first
            </option>
          </select>
          <label class="quiet"><input v-model="everything" type="checkbox" /> also what is not shown to differ</label>
        </div>
        <div class="scroll">
          <table class="table table-sm mb-0" data-test="differences">
            <thead>
              <tr>
                <th>Figure</th>
                <th class="num">First</th>
                <th class="num">{{ ORDER[against] }}</th>
                <th class="num">{{ ORDER[against] }} less first</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="row in shownRows" :key="row.measure">
                <th scope="row">{{ labelOf(row.measure) }}</th>
                <td class="num">{{ spoken(row.one, row.unit) }}</td>
                <td class="num">{{ spoken(row.other, row.unit) }}</td>
                <td class="num">
                  <span v-if="row.differs">
                    {{ row.by > 0 ? '+' : '' }}<Amount :value="row.by" :unit="row.unit" :sd="row.sd" />
                  </span>
                  <span v-else class="quiet">not different</span>
                </td>
              </tr>
            </tbody>
          </table>
          <p v-if="!shownRows.length" class="quiet none">No figure differs beyond its own uncertainty.</p>
        </div>
      </section>
    </div>
  </main>
</template>

<style scoped lang="scss">
.beside {
  display: flex;
  flex-direction: column;
  gap: 0.4rem;
  padding: 0.4rem 0.6rem 0.6rem;
  min-height: calc(100vh - 44px);
}
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.3rem 1rem;
  h1 {
    font-size: 1.1rem;
    margin: 0;
  }
  label {
    display: inline-flex;
    align-items: center;
    gap: 0.35rem;
    font-size: 0.88rem;
    white-space: nowrap;
  }
}
.spring {
  flex: 1;
}
.panes {
  display: grid;
  grid-template-columns: repeat(var(--lifts), minmax(0, 1fr));
  gap: 0.6rem;
}
.add {
  width: auto;
  max-width: 16rem;
}
.who {
  display: flex;
  align-items: center;
  gap: 0.5rem;
  height: 2.4rem;
  white-space: nowrap;
  svg {
    width: 30px;
    height: 8px;
    flex: none;
    fill: none;
    stroke-width: 3;
  }
  .which {
    width: auto;
  }
}
.side-0 svg {
  stroke: var(--trace);
}
.side-1 svg {
  stroke: var(--look);
  stroke-dasharray: 7 4;
}
.side-2 svg {
  stroke: var(--bs-body-color);
  stroke-dasharray: 2 4;
}
.side-3 svg {
  stroke: var(--quiet);
  stroke-dasharray: 9 3 2 3;
}
.screen {
  height: min(44vh, calc(60vw / var(--lifts)));
  background: var(--stage);
  position: relative;
}
.note {
  position: absolute;
  left: 0.6rem;
  top: 2rem;
  max-width: 8.5rem;
  margin: 0;
  font-size: 0.84rem;
  color: #dfe2e0;
}
.empty {
  height: 100%;
  display: grid;
  place-items: center;
  margin: 0;
  color: #dfe2e0;
}
.transport {
  display: flex;
  align-items: center;
  gap: 0.4rem;
  .btn {
    white-space: nowrap;
  }
  .speed {
    width: auto;
  }
}
.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem;
  button {
    border: 1px solid var(--rule);
    background: var(--sunk);
    color: inherit;
    padding: 0.12rem 0.5rem;
    font-size: 0.86rem;
    &.here {
      border-color: currentColor;
    }
  }
}
.below {
  display: grid;
  grid-template-columns: minmax(12rem, 1fr) 2.4fr;
  gap: 0.6rem;
  flex: 1;
  min-height: 15rem;
}
.paths {
  display: flex;
  flex-direction: column;
  > svg {
    height: 22rem;
    padding-bottom: 0.4rem;
  }
}
.table-part {
  display: flex;
  flex-direction: column;
  min-height: 0;
  .panel-head label {
    margin-left: auto;
    font-size: 0.84rem;
  }
}
.scroll {
  overflow: auto;
  max-height: 24rem;
}
.num {
  text-align: right;
  white-space: nowrap;
}
.none {
  padding: 0.4rem 0.75rem;
  margin: 0;
}
@media (max-width: 800px) {
  .below {
    grid-template-columns: 1fr;
  }
}
</style>
