<script setup lang="ts">
import { computed, onMounted, ref, useTemplateRef, watch } from 'vue'
import { spoken, title, words } from '@/format/quantity'
import type { AnalysisDocument, Catalogue, Lift } from '@/api/client'
import { CURVES, curve } from './curves'
import { partOf, placed } from './framing'

/**
 * The picture at every position with the two or three figures that count there; where fewer are taken, the lifter's angles stand in. A tap
 * goes to its frame; dragged to the side, the picture runs through the frames, and the position stays where it is let go.
 */
const props = defineProps<{
  analysis: AnalysisDocument
  lift: Lift
  clip: string
  frame: number
  catalogue: Catalogue | null
  movable?: boolean
}>()
const emit = defineEmits<{
  choose: [name: string, frame: number]
  go: [frame: number]
  move: [name: string, frame: number]
}>()

// Twice as wide as high; enough pixels for a sharp screen.
const SHAPE = 2
const SHOT_PX = 360
const part = computed(() => partOf(props.analysis, props.lift, SHAPE))
const place = computed(() => placed(part.value, props.analysis.clip.width, props.analysis.clip.height))
const longSide = computed(() => {
  const { width, height } = props.analysis.clip
  return Math.min(Math.ceil(((SHOT_PX / part.value.width) * Math.max(width, height)) / 80) * 80, 1280)
})

const PX_A_FRAME = 7
let dragged = false
const held = ref<{ name: string; from: number; frame: number; x: number; moved: boolean } | null>(null)
function take(event: PointerEvent, name: string, frame: number) {
  dragged = false
  if (!props.movable) return
  held.value = { name, from: frame, frame, x: event.clientX, moved: false }
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
}
function drag(event: PointerEvent) {
  if (!held.value) return
  const by = Math.round((event.clientX - held.value.x) / PX_A_FRAME)
  const frame = Math.min(Math.max(held.value.from + by, props.lift.start_frame), props.lift.end_frame)
  if (frame === held.value.frame) return
  held.value = { ...held.value, frame, moved: true }
  emit('go', frame)
}
function drop(name: string) {
  const was = held.value
  held.value = null
  dragged = was?.moved ?? false
  if (was?.moved && was.frame !== was.from) emit('move', name, was.frame)
}
/** The click that ends a drag is none. */
function tap(name: string, frame: number) {
  if (!dragged) emit('choose', name, frame)
  dragged = false
}
const frameOf = (name: string, frame: number) => (held.value?.name === name ? held.value.frame : frame)

const MOST = 3
const RANK: Record<string, number> = { fault: 0, watch: 1, fine: 2, cannot_tell: 3 }
const ANGLES = CURVES.filter(({ id }) => id === 'trunk' || id === 'hip' || id === 'knee')
const angles = computed(() => ANGLES.map((one) => ({ ...one, ...curve(one.id, props.analysis, props.lift) })))
const anglesAt = (frame: number) =>
  angles.value.flatMap(({ id, label, unit, values, sd }) => {
    const row = frame - props.lift.bar.first_frame
    const value = values[row]
    return value == null
      ? []
      : [{ id, level: '', label, says: `${value.toFixed(0)} ± ${sd![row]!.toFixed(0)} ${unit}` }]
  })
const cells = computed(() => {
  const levels = new Map<string, string>()
  for (const finding of props.lift.findings)
    for (const one of finding.evidence) {
      const before = levels.get(one.measure)
      if (before === undefined || RANK[finding.level]! < RANK[before]!) levels.set(one.measure, finding.level)
    }
  return Object.entries(props.lift.events)
    .filter(([name]) => !(name === 'pull_start' && props.lift.events.lift_off))
    .sort((a, b) => a[1].frame - b[1].frame)
    .map(([name, event]) => ({
      name,
      frame: event.frame,
      figures: Object.entries(props.lift.measures)
        .filter(([id, one]) => one.value != null && (id.endsWith(`@${name}`) || one.frame === event.frame))
        .map(([id, one]) => ({
          id,
          level: levels.get(id) ?? '',
          label: props.catalogue?.measures.find((told) => told.id === id)?.label ?? words(id),
          says: spoken(one.value!, one.unit),
        }))
        .sort((a, b) => (RANK[a.level] ?? 4) - (RANK[b.level] ?? 4))
        .slice(0, MOST),
    }))
    .map(({ name, frame, figures }) => {
      const others = anglesAt(frame).filter(({ id }) => !figures.some((one) => one.id.startsWith(`${id}_angle`)))
      return { name, frame, figures: [...figures, ...others].slice(0, MOST) }
    })
})

const strip = useTemplateRef('strip')
/** The position on show comes into sight when it was reached otherwise than from here. */
function bring() {
  const cell = held.value ? null : cells.value.find((one) => one.frame === props.frame)
  const shown = cell && strip.value?.querySelector(`[data-position=${cell.name}]`)
  shown?.scrollIntoView?.({ block: 'nearest', inline: 'nearest' })
}
onMounted(bring)
watch(() => props.frame, bring, { flush: 'post' })
</script>

<template>
  <ol ref="strip" class="positions">
    <li v-for="cell in cells" :key="cell.name">
      <button
        type="button"
        :class="{ here: cell.frame === frame }"
        :data-position="cell.name"
        :title="movable ? 'Tap to go there, drag to the side to move it' : ''"
        @click="tap(cell.name, cell.frame)"
      >
        <span
          class="shot"
          @pointerdown="(event) => take(event, cell.name, cell.frame)"
          @pointermove="drag"
          @pointerup="drop(cell.name)"
          @pointercancel="held = null"
        >
          <img
            :src="`/api/clips/${clip}/frames/${frameOf(cell.name, cell.frame)}.jpg?long_side=${longSide}`"
            :style="place"
            alt=""
            loading="lazy"
            draggable="false"
          />
        </span>
        <b
          >{{ title(cell.name) }}<template v-if="held?.name === cell.name">, frame {{ held.frame }}</template></b
        >
        <span v-for="figure in cell.figures" :key="figure.id" class="figure" :title="figure.label">
          <i v-if="figure.level && figure.level !== 'cannot_tell'" :class="['sign', figure.level]" />
          <span class="label">{{ figure.label }}</span>
          <span class="value">{{ figure.says }}</span>
        </span>
      </button>
    </li>
  </ol>
</template>

<style scoped lang="scss">
.positions {
  list-style: none;
  margin: 0;
  padding: 1.5rem 0.4rem 0.4rem;
  display: flex;
  gap: 0.4rem;
  height: 100%;
  overflow-x: auto;
}
li {
  flex: none;
  width: 11.1rem;
}
button {
  display: flex;
  flex-direction: column;
  width: 100%;
  height: 100%;
  text-align: left;
  padding: 0 0 0.2rem;
  border: 1px solid var(--rule);
  border-radius: 3px;
  background: var(--panel);
  color: inherit;
  font-size: 0.76rem;
  overflow: hidden;
  &.here {
    outline: 2px solid var(--trace);
    outline-offset: -1px;
  }
  b {
    padding: 0.15rem 0.4rem 0;
  }
  .figure {
    display: flex;
    align-items: baseline;
    gap: 0.25rem;
    padding: 0.05rem 0.4rem;
    line-height: 1.15;
  }
}
.shot {
  position: relative;
  flex: none;
  overflow: hidden;
  touch-action: pan-y;
  cursor: ew-resize;
  width: 100%;
  aspect-ratio: v-bind(SHAPE);
  background: var(--stage);
}
img {
  position: absolute;
}
.label {
  flex: 1;
  min-width: 0;
  color: var(--quiet);
}
.value {
  white-space: nowrap;
}
</style>
