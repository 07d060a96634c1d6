<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { day, load } from '@/format/quantity'
import { shifted, weeksOf, type Slot } from './weeks'

/** A block on the calendar. A day's work is moved by dragging it or with the arrow keys; the rules answer at once. */
const props = defineProps<{ block: Schemas['Block']; chosen: number | null }>()
const emit = defineEmits<{ choose: [slot: Slot]; move: [slot: Slot, on: string] }>()

const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
const STEPS: Record<string, number> = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -7, ArrowDown: 7 }
const weeks = computed(() => weeksOf(props.block.slots))
const over = ref('')
const wrong = computed(() => new Set(props.block.broken.map((one) => one.on)))
const today = new Date().toLocaleDateString('en-CA')

const dayOf = (on: string) =>
  on.endsWith('-01') || on === weeks.value[0]?.[0]?.on ? day(on) : String(Number(on.slice(8)))
/** What each week on show costs; the test costs nothing planned. */
const costs = computed(() =>
  weeks.value.map((week) => {
    const work = week.flatMap((cell) => cell.slots).filter((slot) => !slot.test)
    const sum = (of: (slot: Slot) => number) => work.reduce((total, slot) => total + of(slot), 0)
    return work.length
      ? {
          sets: sum((slot) => slot.sets),
          minutes: Math.round(sum((slot) => slot.minutes)),
          effort: sum((slot) => slot.effort).toFixed(1),
        }
      : null
  }),
)

function drop(event: DragEvent, on: string) {
  over.value = ''
  const slot = props.block.slots.find((one) => String(one.id) === event.dataTransfer?.getData('text/plain'))
  if (slot && slot.on !== on) emit('move', slot, on)
}
/**
 * Fingers do not drag as a mouse does: a piece of work that is held for a moment comes along, and stays on the day it is let go over. A
 * finger that moves at once scrolls the page.
 */
const HELD_MS = 250
const carried = ref<Slot | null>(null)
let holding = 0
function hold(event: PointerEvent, slot: Slot) {
  if (event.pointerType !== 'touch' || props.block.closed) return
  holding = window.setTimeout(() => (carried.value = slot), HELD_MS)
}
const dayUnder = (x: number, y: number) =>
  document.elementFromPoint(x, y)?.closest<HTMLElement>('[data-on]')?.dataset.on ?? ''
function carry(event: TouchEvent) {
  if (!carried.value) return window.clearTimeout(holding)
  event.preventDefault()
  const finger = event.touches[0]!
  over.value = dayUnder(finger.clientX, finger.clientY)
}
function letGo() {
  window.clearTimeout(holding)
  const [slot, on] = [carried.value, over.value]
  carried.value = null
  over.value = ''
  if (slot && on && slot.on !== on) emit('move', slot, on)
}
function choose(event: MouseEvent, slot: Slot) {
  // What can be dragged does not take the focus by itself, and the keys need it.
  ;(event.currentTarget as HTMLElement).focus()
  emit('choose', slot)
}
function key(event: KeyboardEvent, slot: Slot) {
  const step = STEPS[event.key]
  if (step === undefined || props.block.closed) return
  event.preventDefault()
  emit('move', slot, shifted(slot.on, step))
}
</script>

<template>
  <table class="calendar">
    <caption class="quiet">
      Drag a piece of work to another day (hold it a moment with a finger), or choose it and use the arrow keys.
    </caption>
    <thead>
      <tr>
        <th v-for="(name, n) in DAYS" :key="name" :class="{ training: block.days.includes(n) }">{{ name }}</th>
        <th class="cost">Week</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(week, row) in weeks" :key="week[0]!.on">
        <td
          v-for="(cell, n) in week"
          :key="cell.on"
          :class="{
            training: block.days.includes(n),
            over: over === cell.on,
            wrong: wrong.has(cell.on),
            today: cell.on === today,
          }"
          :data-on="cell.on"
          @dragover.prevent="over = cell.on"
          @dragleave="over = ''"
          @drop.prevent="drop($event, cell.on)"
        >
          <span class="date">{{ dayOf(cell.on) }}</span>
          <button
            v-for="slot in cell.slots"
            :key="slot.id"
            type="button"
            class="slot"
            :class="{
              test: slot.test,
              light: slot.light,
              done: slot.done,
              paused: !!slot.paused,
              chosen: chosen === slot.id,
              carried: carried?.id === slot.id,
            }"
            :draggable="!block.closed && !carried"
            :data-slot="slot.id"
            @dragstart="$event.dataTransfer?.setData('text/plain', String(slot.id))"
            @pointerdown="hold($event, slot)"
            @touchmove="carry"
            @touchend="letGo"
            @touchcancel="letGo"
            @contextmenu="carried && $event.preventDefault()"
            @click="choose($event, slot)"
            @keydown="key($event, slot)"
          >
            <b>{{ slot.name }}</b>
            <span v-if="!slot.test"
              >{{ slot.sets }} × {{ slot.reps
              }}<template v-if="slot.total != null"> · {{ load(slot.total, slot.unit) }}</template></span
            >
            <span v-if="slot.paused" class="waits">paused</span><span v-if="slot.light"> light</span
            ><i v-if="slot.done" class="sign fine" title="done" />
          </button>
        </td>
        <td class="cost quiet">
          <template v-if="costs[row]">
            {{ costs[row]!.sets }} sets<br />{{ costs[row]!.minutes }} min<br />
            <span title="Repetitions as heavy as the best: sets × repetitions × share of the best">
              {{ costs[row]!.effort }} full reps
            </span>
          </template>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped lang="scss">
.calendar {
  width: 100%;
  table-layout: fixed;
  border-collapse: collapse;
  caption {
    caption-side: bottom;
    padding: 0.4rem 0.8rem 0.5rem;
    font-size: 0.82rem;
  }
  th {
    font-size: 0.8rem;
    font-weight: 500;
    color: var(--quiet);
    padding: 0.2rem 0.4rem;
    &.training {
      color: inherit;
      font-weight: 640;
    }
  }
  td {
    vertical-align: top;
    height: 5.2rem;
    border: 1px solid var(--rule);
    padding: 0.2rem;
    background: var(--sunk);
    &.training {
      background: var(--panel);
    }
    &.over {
      outline: 2px dashed var(--trace);
      outline-offset: -2px;
    }
    &.wrong {
      box-shadow: inset 3px 0 0 var(--look);
    }
    &.today .date {
      font-weight: 720;
      color: inherit;
      text-decoration: underline;
    }
  }
}
.cost {
  width: 5.6rem;
  font-size: 0.78rem;
  background: none !important;
  border: 0 !important;
  padding-left: 0.6rem !important;
}
.date {
  font-size: 0.74rem;
  color: var(--quiet);
}
.paused {
  text-decoration: line-through;
  text-decoration-color: var(--quiet);
  .waits {
    display: inline-block;
    margin-left: 0.3rem;
    font-weight: 640;
    color: var(--look);
  }
}
.slot {
  display: block;
  width: 100%;
  text-align: left;
  border: 1px solid var(--rule);
  border-left: 3px solid var(--trace);
  border-radius: 2px;
  background: var(--bs-body-bg);
  color: inherit;
  font-size: 0.76rem;
  line-height: 1.22;
  padding: 0.2rem 0.3rem;
  margin-top: 0.15rem;
  cursor: grab;
  b {
    display: block;
    font-weight: 600;
  }
  .sign {
    margin-left: 0.3rem;
  }
  &.light {
    border-left-style: dotted;
  }
  &.test {
    border-left-color: currentColor;
  }
  &.chosen {
    outline: 2px solid var(--trace);
  }
  &.carried {
    opacity: 0.55;
  }
}
</style>
