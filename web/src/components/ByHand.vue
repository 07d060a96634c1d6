<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, ask } from '@/api/client'
import type { AnalysisDocument, Bench, Schemas } from '@/api/client'
import { LIFTS } from '@/format/lifts'
import { quantity, title } from '@/format/quantity'
import { stepOf, whatOf, whenOf } from './changes'
import { fromSide } from './curves'
import type { Picking } from './picking'

/** What a coach can set by hand on a clip, what stands now, and every change so far. */
const props = defineProps<{
  analysis: AnalysisDocument
  byHand: Bench['by_hand']
  corrections: Bench['corrections']
  unit: string
  frame: number
  saving: boolean
  picking: Picking
  picked: { x: number; y: number }[]
}>()
const emit = defineEmits<{
  set: [facts: Schemas['ByHandRequest']]
  pick: [what: Picking]
  undo: []
  redo: []
}>()

const lengthCm = ref<number | null>(null)
const discMm = ref<number | null>(null)
const rate = ref<number | null>(null)
const load = ref<number | ''>('')
const lift = ref(props.byHand.lift)
// Of a lift that was refused the one that stands is shown again.
watch(
  () => [props.byHand.lift, props.saving],
  () => {
    if (!props.saving) lift.value = props.byHand.lift
  },
)
// Exercises that are done with this lift; every one where no lift is named in it (a squat).
const library = ref<Schemas['Library']['exercises']>([])
void ask(api.GET('/api/library')).then(
  (told) => (library.value = told.exercises),
  () => {},
)
const exercises = computed(() => {
  const shown = library.value.filter((one) => !one.hidden || one.id === props.byHand.exercise)
  const own = shown.filter((one) => one.lifts.some((name) => (props.byHand.lift ?? '').includes(name)))
  return own.length ? own : shown
})
const doubtFrom = ref<number | null>(null)
watch(
  () => props.byHand,
  (held) => {
    discMm.value = Math.round(1000 * (held.disc_diameter_m ?? props.analysis.scale?.disc_diameter_m ?? 0.45))
    load.value = held.load ?? ''
    rate.value = Number((held.capture_rate_hz ?? props.analysis.clip.capture_rate_hz).toFixed(2))
  },
  { immediate: true },
)

const last = computed(() => props.analysis.clip.frame_count - 1)
const trim = computed(() => props.byHand.trim ?? [0, last.value])
const distrusted = computed(() => props.byHand.distrusted ?? [])
const canUndo = computed(() => props.corrections.some((one) => one.state === 'done'))
const canRedo = computed(() => props.corrections.some((one) => one.state === 'undone'))
const listed = computed(() =>
  Object.values(LIFTS)
    .flat()
    .includes(props.byHand.lift ?? ''),
)
const facing = computed(() => props.analysis.clip.facing ?? 'right')

/** How far the line through two points leans from the picture's own upright, in degrees clockwise. */
const lean = computed(() => {
  const [a, b] = props.picked
  if (!a || !b) return null
  const [top, foot] = a.y < b.y ? [a, b] : [b, a]
  return (Math.atan2(top.x - foot.x, foot.y - top.y) * 180) / Math.PI
})
const apart = computed(() => {
  const [a, b] = props.picked
  return a && b ? Math.hypot(a.x - b.x, a.y - b.y) : null
})

function setUpright() {
  if (lean.value === null) return
  emit('set', { plumb_deg: Number(lean.value.toFixed(3)) })
  emit('pick', null)
}
function setLength() {
  if (!apart.value || !lengthCm.value) return
  emit('set', { m_per_px: lengthCm.value / 100 / apart.value })
  emit('pick', null)
}
/** The box between two corners, whole pixels within the picture. */
const box = computed(() => {
  const [a, b] = props.picked
  if (!a || !b) return null
  const { width, height } = props.analysis.clip
  const within = (value: number, most: number) => Math.round(Math.min(Math.max(value, 0), most))
  return [
    within(Math.min(a.x, b.x), width),
    within(Math.min(a.y, b.y), height),
    within(Math.max(a.x, b.x), width),
    within(Math.max(a.y, b.y), height),
  ]
})
function setBox() {
  if (!box.value) return
  emit('set', { lifter_box: box.value })
  emit('pick', null)
}
function distrust() {
  if (doubtFrom.value === null) return
  const stretch = [Math.min(doubtFrom.value, props.frame), Math.max(doubtFrom.value, props.frame)]
  doubtFrom.value = null
  if (stretch[0]! < stretch[1]!) emit('set', { distrusted: [...distrusted.value, stretch] })
}

const uprightSays = computed(() => {
  const scale = props.analysis.scale
  if (props.byHand.plumb_deg != null)
    return `Leans ${quantity(props.byHand.plumb_deg, '°').figure}° from the picture's edge (set by you).`
  if (scale?.plumb_source === 'footage')
    return `What stands upright in the room leans ${quantity(scale.plumb_deg, '°').figure}° from the picture's edge.`
  if (scale?.plumb_source === 'fall')
    return `The falling bar leans ${quantity(scale.plumb_deg, '°').figure}° from the picture's edge.`
  return "The picture's own edge stands for upright, give or take 1°."
})
</script>

<template>
  <div class="by-hand">
    <section>
      <h3>What was lifted</h3>
      <p class="field">
        <label for="which-lift">This is a</label>
        <select
          id="which-lift"
          v-model="lift"
          class="form-select form-select-sm"
          :disabled="saving"
          @change="emit('set', { lift })"
        >
          <optgroup v-for="(lifts, group) in LIFTS" :key="group" :label="group">
            <option v-for="one in lifts" :key="one" :value="one">{{ title(one) }}</option>
          </optgroup>
          <option v-if="!listed" :value="byHand.lift">{{ title(byHand.lift ?? '') }}</option>
        </select>
      </p>
      <p class="field">
        <label for="which-load">with</label>
        <input
          id="which-load"
          v-model.number="load"
          type="number"
          min="0.5"
          max="1300"
          step="0.5"
          class="form-control form-control-sm"
        />
        {{ unit }}
        <button
          type="button"
          class="btn btn-sm btn-outline-secondary"
          :disabled="saving || load === (byHand.load ?? '')"
          @click="emit('set', { load: load === '' ? null : load })"
        >
          Set
        </button>
      </p>
      <p v-if="exercises.length" class="field">
        <label for="which-exercise">done as</label>
        <select
          id="which-exercise"
          class="form-select form-select-sm"
          :value="byHand.exercise ?? ''"
          :disabled="saving"
          @change="emit('set', { exercise: ($event.target as HTMLSelectElement).value || null })"
        >
          <option value="">the lift itself</option>
          <option v-for="one in exercises" :key="one.id" :value="one.id">
            {{ title(one.name.replace('{lift}', '').trim()) }}
          </option>
        </select>
      </p>
    </section>
    <section>
      <h3>Facing</h3>
      <p v-if="!fromSide(analysis)">
        This was taken for a film from the {{ analysis.clip.view.kind }}. If it is one from the side, the lifter faces
        <button
          v-for="way in ['left', 'right'] as const"
          :key="way"
          type="button"
          class="btn btn-sm btn-outline-secondary"
          :disabled="saving"
          @click="emit('set', { facing: way })"
        >
          {{ way === 'left' ? 'Left' : 'Right' }}
        </button>
      </p>
      <p v-else>
        The lifter faces {{ facing }}<template v-if="byHand.facing"> (set by you)</template>.
        <button
          type="button"
          class="btn btn-sm btn-outline-secondary"
          :disabled="saving"
          @click="emit('set', { facing: facing === 'right' ? 'left' : 'right' })"
        >
          Turn round
        </button>
      </p>
    </section>
    <section>
      <h3>Lifter</h3>
      <p v-if="picking !== 'lifter'">
        {{
          byHand.lifter_box
            ? 'The lifter is looked at in your box.'
            : 'Whoever stands at the bar is taken for the lifter.'
        }}
        <button type="button" class="btn btn-sm btn-outline-secondary" @click="emit('pick', 'lifter')">
          Draw a box about the lifter
        </button>
        <button
          v-if="byHand.lifter_box"
          type="button"
          class="btn btn-sm btn-link"
          :disabled="saving"
          @click="emit('set', { lifter_box: null })"
        >
          Take back
        </button>
      </p>
      <p v-else>
        Click two opposite corners of a box about the whole body. The clip is then looked at again; the bar's figures
        stay.
        <button type="button" class="btn btn-sm btn-primary" :disabled="!box || saving" @click="setBox">Use it</button>
        <button type="button" class="btn btn-sm btn-link" @click="emit('pick', null)">Leave it</button>
      </p>
    </section>
    <section>
      <h3>Upright</h3>
      <p v-if="picking !== 'upright'">
        {{ uprightSays }}
        <button type="button" class="btn btn-sm btn-outline-secondary" @click="emit('pick', 'upright')">
          Set by two points
        </button>
        <button
          v-if="byHand.plumb_deg != null"
          type="button"
          class="btn btn-sm btn-link"
          :disabled="saving"
          @click="emit('set', { plumb_deg: null })"
        >
          Take back
        </button>
      </p>
      <p v-else>
        Click two points on something upright in the footage: a rack, a door, a hung line.
        <strong v-if="lean !== null">{{ quantity(lean, '°').figure }}°</strong>
        <button type="button" class="btn btn-sm btn-primary" :disabled="lean === null || saving" @click="setUpright">
          Use it
        </button>
        <button type="button" class="btn btn-sm btn-link" @click="emit('pick', null)">Leave it</button>
      </p>
    </section>
    <section>
      <h3>Scale</h3>
      <p class="field">
        <label for="disc-mm">Disc across</label>
        <input
          id="disc-mm"
          v-model.number="discMm"
          type="number"
          min="100"
          max="1000"
          class="form-control form-control-sm"
        />
        mm
        <button
          type="button"
          class="btn btn-sm btn-outline-secondary"
          :disabled="!discMm || saving"
          @click="emit('set', { disc_diameter_m: discMm! / 1000 })"
        >
          Set
        </button>
      </p>
      <p v-if="picking !== 'length'">
        <template v-if="byHand.m_per_px != null">
          A known length gives {{ (1000 * byHand.m_per_px).toFixed(3) }} mm a pixel.
        </template>
        <button type="button" class="btn btn-sm btn-outline-secondary" @click="emit('pick', 'length')">
          Use a known length
        </button>
        <button
          v-if="byHand.m_per_px != null"
          type="button"
          class="btn btn-sm btn-link"
          :disabled="saving"
          @click="emit('set', { m_per_px: null })"
        >
          Take back
        </button>
      </p>
      <p v-else class="field">
        Click both ends of a known length as far from the camera as the near disc.
        <input
          v-model.number="lengthCm"
          type="number"
          min="5"
          max="500"
          class="form-control form-control-sm"
          aria-label="Length, cm"
        />
        cm
        <button
          type="button"
          class="btn btn-sm btn-primary"
          :disabled="!apart || !lengthCm || saving"
          @click="setLength"
        >
          Use it
        </button>
        <button type="button" class="btn btn-sm btn-link" @click="emit('pick', null)">Leave it</button>
      </p>
    </section>
    <section>
      <h3>Time</h3>
      <p class="field">
        <label for="rate">Taken at</label>
        <input id="rate" v-model.number="rate" type="number" min="5" max="2000" class="form-control form-control-sm" />
        frames a second
        <button
          type="button"
          class="btn btn-sm btn-outline-secondary"
          :disabled="!rate || saving"
          @click="emit('set', { capture_rate_hz: rate! })"
        >
          Set
        </button>
        <button
          v-if="byHand.capture_rate_hz != null"
          type="button"
          class="btn btn-sm btn-link"
          :disabled="saving"
          @click="emit('set', { capture_rate_hz: null })"
        >
          Take back
        </button>
      </p>
      <p>
        Frames {{ trim[0] }} to {{ trim[1] }} count.
        <button
          type="button"
          class="btn btn-sm btn-outline-secondary"
          :disabled="saving || frame >= trim[1]!"
          @click="emit('set', { trim: [frame, trim[1]!] })"
        >
          Begin here
        </button>
        <button
          type="button"
          class="btn btn-sm btn-outline-secondary"
          :disabled="saving || frame <= trim[0]!"
          @click="emit('set', { trim: [trim[0]!, frame] })"
        >
          End here
        </button>
        <button
          v-if="byHand.trim"
          type="button"
          class="btn btn-sm btn-link"
          :disabled="saving"
          @click="emit('set', { trim: null })"
        >
          All of it
        </button>
      </p>
    </section>
    <section>
      <h3>Not to be trusted</h3>
      <ul v-if="distrusted.length" class="stretches">
        <li v-for="(stretch, index) in distrusted" :key="index">
          frames {{ stretch[0] }} to {{ stretch[1] }}
          <button
            type="button"
            class="btn btn-sm btn-link"
            :disabled="saving"
            @click="emit('set', { distrusted: distrusted.filter((_, other) => other !== index) })"
          >
            Trust again
          </button>
        </li>
      </ul>
      <p>
        <button
          v-if="doubtFrom === null"
          type="button"
          class="btn btn-sm btn-outline-secondary"
          @click="doubtFrom = frame"
        >
          From this frame …
        </button>
        <template v-else>
          From frame {{ doubtFrom }}
          <button
            type="button"
            class="btn btn-sm btn-primary"
            :disabled="frame === doubtFrom || saving"
            @click="distrust"
          >
            to frame {{ frame }}
          </button>
          <button type="button" class="btn btn-sm btn-link" @click="doubtFrom = null">Leave it</button>
        </template>
      </p>
    </section>
    <section>
      <h3>Changes</h3>
      <p>
        <button
          type="button"
          class="btn btn-sm btn-outline-secondary"
          :disabled="!canUndo || saving"
          data-test="undo"
          @click="emit('undo')"
        >
          Undo
        </button>
        <button
          type="button"
          class="btn btn-sm btn-outline-secondary"
          :disabled="!canRedo || saving"
          data-test="redo"
          @click="emit('redo')"
        >
          Do again
        </button>
      </p>
      <ol v-if="corrections.length" class="changes" reversed>
        <li v-for="(one, index) in [...corrections].reverse()" :key="index" :class="one.state">
          {{ whatOf(one) }}: {{ stepOf(one, unit) }} <span>{{ one.by }}, {{ whenOf(one) }}</span>
          <em v-if="one.state !== 'done'"> undone</em>
        </li>
      </ol>
      <p v-else>Nothing was changed by hand. Drag the ring on the bar or a joint to correct it at a frame.</p>
    </section>
  </div>
</template>

<style scoped lang="scss">
.by-hand {
  padding: 0.3rem 0.75rem 0.75rem;
  font-size: 0.88rem;
}
section {
  padding: 0.45rem 0;
  border-bottom: 1px solid var(--rule);
  &:last-child {
    border-bottom: 0;
  }
}
h3 {
  font-size: 0.88rem;
  margin: 0 0 0.2rem;
}
p {
  margin: 0.15rem 0;
}
.field {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.35rem;
  input {
    width: 5.4rem;
  }
  select {
    width: auto;
    max-width: 16rem;
  }
}
.btn + .btn,
.btn:not(:first-child) {
  margin-left: 0.3rem;
}
.stretches,
.changes {
  margin: 0.2rem 0 0;
  padding-left: 1.4rem;
}
.changes span,
.changes em {
  color: var(--quiet);
}
.changes .left_behind,
.changes .undone {
  color: var(--quiet);
  text-decoration: line-through;
  em {
    text-decoration: none;
    display: inline-block;
  }
}
</style>
