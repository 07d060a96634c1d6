<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import type { Schemas } from '@/api/client'
import DiscsOnBar from './DiscsOnBar.vue'
import HoldTimer from './HoldTimer.vue'
import RestTimer from './RestTimer.vue'
import { shownClip } from './shown'
import { load as loadOf } from '@/format/quantity'

export type WorkSlot = Schemas['WorkSlot']
export type DoneSet = Schemas['Set']

/** One piece of work on the athlete's phone: what to do, what goes on the bar, and the sets to tick. */
const props = defineProps<{ piece: WorkSlot; entered: DoneSet[] | null; stopped: boolean; sending: boolean }>()
const emit = defineEmits<{ entered: [sets: DoneSet[]]; film: [file: File, load: number | null] }>()

interface Row extends DoneSet {
  ticked: boolean
}
const planned = (): Row => ({
  load: props.piece.total,
  unit: props.piece.unit as DoneSet['unit'],
  reps: props.piece.reps,
  missed: 0,
  rpe: null,
  hook: null,
  ticked: false,
})
const FIELDS = [
  { name: 'load', mode: 'decimal', step: 'any', most: undefined, says: (n: number) => `Load of set ${n}` },
  { name: 'reps', mode: 'numeric', step: 1, most: 100, says: (n: number) => `Repetitions made in set ${n}` },
  { name: 'missed', mode: 'numeric', step: 1, most: 100, says: (n: number) => `Repetitions missed in set ${n}` },
  { name: 'rpe', mode: 'decimal', step: 0.5, most: 10, says: (n: number) => `How hard set ${n} was, of 10` },
] as const
const start = props.entered ?? []
const rows = reactive<Row[]>(
  Array.from({ length: Math.max(props.piece.sets, start.length, 1) }, (_, n) =>
    start[n] ? { ...start[n]!, ticked: true } : planned(),
  ),
)
const open = ref(!start.length)
const rest = ref<InstanceType<typeof RestTimer> | null>(null)
const shows = computed(() => shownClip(props.piece.exercise, props.piece.lift))
const caught = computed(() => ['snatch', 'clean'].includes(props.piece.lift))
const done = computed(() => rows.filter((row) => row.ticked).length)

/** A row as it is sent; a field that was emptied is not told. */
const asEntered = ({ load, unit, reps, missed, rpe, hook }: Row): DoneSet => {
  const told = (value: unknown) => (typeof value === 'number' ? value : null)
  return { load: told(load), unit, reps: told(reps) ?? 0, missed: told(missed) ?? 0, rpe: told(rpe), hook }
}
const send = () => emit('entered', rows.filter((row) => row.ticked).map(asEntered))
function tick(row: Row) {
  row.ticked = !row.ticked
  send()
  if (row.ticked && done.value < rows.length) rest.value?.start()
}
const changed = (row: Row) => row.ticked && send()
function filmed(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  // What was lifted last, or is about to be.
  const row = rows.findLast((one) => one.ticked) ?? rows[0]!
  if (file) emit('film', file, asEntered(row).load)
  input.value = ''
}
</script>

<template>
  <article class="card-of-work panel" :data-slot="piece.id">
    <header>
      <h3>{{ piece.name }}</h3>
      <p class="dose">
        {{ piece.sets || 1 }} × {{ piece.reps
        }}<template v-if="piece.total != null">
          at <b>{{ loadOf(piece.total, piece.unit) }}</b> </template
        ><template v-else-if="piece.load">, {{ piece.load }}</template>
        <span v-if="piece.light" class="quiet"> light week</span>
      </p>
    </header>
    <p v-if="stopped" class="notice">Not today: pain was reported. See a licensed clinician.</p>
    <p v-else-if="piece.withheld" class="notice">{{ piece.withheld }}</p>
    <template v-else>
      <DiscsOnBar v-if="piece.total != null" :per-side="piece.per_side" :unit="piece.unit" />
      <p v-if="piece.cue" class="cue">{{ piece.cue }}</p>
      <details :open="open && !done">
        <summary>How, and what to mind</summary>
        <p>{{ piece.how }}</p>
        <ul v-if="piece.cautions.length" class="cautions">
          <li v-for="one in piece.cautions" :key="one">{{ one }}</li>
        </ul>
        <p v-if="piece.safeties"><b>Safeties:</b> {{ piece.safeties }}</p>
      </details>
      <details v-if="shows">
        <summary>What right looks like</summary>
        <video :src="shows" controls loop muted playsinline preload="none" />
        <p class="quiet">A simulated lifter, not a person.</p>
      </details>
      <HoldTimer v-if="piece.pause_s > 0" :asked="piece.pause_s" />
      <div class="sets" role="table" aria-label="Sets">
        <div role="row" class="row-head quiet">
          <span role="columnheader">Load, {{ piece.unit }}</span
          ><span role="columnheader">Reps</span> <span role="columnheader">Missed</span
          ><span role="columnheader">RPE</span> <span v-if="caught" role="columnheader">Hook kept</span
          ><span role="columnheader">Done</span>
        </div>
        <div v-for="(row, n) in rows" :key="n" role="row" :class="{ ticked: row.ticked, hooked: caught }">
          <input
            v-for="field in FIELDS"
            :key="field.name"
            v-model.number="row[field.name]"
            type="number"
            :inputmode="field.mode"
            :step="field.step"
            min="0"
            :max="field.most"
            :aria-label="field.says(n + 1)"
            @change="changed(row)"
          />
          <label v-if="caught" class="box"
            ><input v-model="row.hook" type="checkbox" :aria-label="`Hook kept in set ${n + 1}`" @change="changed(row)"
          /></label>
          <button
            type="button"
            class="tick"
            :aria-pressed="row.ticked"
            :aria-label="`Set ${n + 1} done`"
            @click="tick(row)"
          >
            <i v-if="row.ticked" class="sign fine" /><template v-else>{{ n + 1 }}</template>
          </button>
        </div>
      </div>
      <div class="under">
        <RestTimer ref="rest" :rest="piece.rest_s" />
        <button type="button" class="more" @click="rows.push(planned())">Another set</button>
      </div>
      <label class="film" :class="{ busy: sending }">
        <input type="file" accept="video/*" :disabled="sending" @change="filmed" />
        {{
          sending
            ? 'Sending the clip …'
            : `Film a set from the ${piece.film === '45' ? 'front corner' : piece.film} and send it`
        }}
      </label>
    </template>
  </article>
</template>

<style scoped lang="scss">
.card-of-work {
  padding: 0.8rem;
  margin-bottom: 0.9rem;
}
h3 {
  font-size: 1.12rem;
  margin: 0;
}
.dose {
  font-size: 1.05rem;
  margin: 0.1rem 0 0.3rem;
}
.cue {
  font-weight: 640;
  font-size: 1.1rem;
  margin: 0.4rem 0;
}
details {
  margin: 0.3rem 0;
  summary {
    min-height: 44px;
    display: flex;
    align-items: center;
    text-decoration: underline;
    text-decoration-color: var(--rule);
    text-underline-offset: 3px;
  }
  video {
    width: 100%;
    background: var(--stage);
  }
  p {
    margin: 0 0 0.4rem;
  }
}
.cautions {
  border-left: 4px solid var(--look);
  padding: 0.1rem 0 0.1rem 1.5rem;
  margin: 0.4rem 0;
}
.sets {
  margin: 0.6rem 0;
}
.sets > div {
  display: grid;
  grid-template-columns: 1.3fr 1fr 1fr 1fr 48px;
  gap: 0.35rem;
  align-items: center;
  margin-bottom: 0.35rem;
  &.hooked,
  &.row-head:has(span:nth-child(6)) {
    grid-template-columns: 1.3fr 1fr 1fr 1fr 44px 48px;
  }
}
.row-head {
  font-size: 0.74rem;
  line-height: 1.1;
}
.sets input:not([type='checkbox']) {
  width: 100%;
  min-height: 46px;
  text-align: right;
  padding: 0 0.4rem;
  border: 1px solid var(--rule);
  border-radius: 3px;
  background: var(--bs-body-bg);
  color: inherit;
  font-size: 1rem;
}
.ticked input {
  border-color: var(--good) !important;
}
.box {
  display: flex;
  align-items: center;
  justify-content: center;
  min-height: 46px;
  input {
    width: 24px;
    height: 24px;
  }
}
.tick {
  min-height: 46px;
  border: 1px solid var(--quiet);
  border-radius: 3px;
  background: var(--panel);
  color: inherit;
  font-weight: 640;
}
.under {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0.5rem;
}
.more {
  min-height: 44px;
  background: none;
  border: 0;
  color: inherit;
  text-decoration: underline;
  text-underline-offset: 3px;
}
.film {
  display: flex;
  align-items: center;
  justify-content: center;
  min-height: 48px;
  margin-top: 0.6rem;
  border: 1px dashed var(--quiet);
  border-radius: 3px;
  text-align: center;
  input {
    position: absolute;
    opacity: 0;
    width: 1px;
  }
  &:focus-within {
    outline: 2px solid var(--trace);
  }
}
</style>
