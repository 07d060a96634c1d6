<script setup lang="ts">
import { computed, ref } from 'vue'
import type { AnalysisDocument } from '@/api/client'
import { words } from '@/format/quantity'
import { fromSide } from './curves'

/**
 * The lifter's joints over the footage. The side towards the camera is drawn full, the other side dotted; from the front both are full.
 * A joint that is not certain stands inside a ring as wide as what is not known of it (two standard deviations). A joint can be dragged;
 * the body follows.
 */
const props = defineProps<{
  analysis: AnalysisDocument
  frame: number
  stroke: number
  movable: boolean
  set: string[]
  toPicture: (event: PointerEvent) => { x: number; y: number }
}>()
const emit = defineEmits<{ move: [joint: string, x: number, y: number] }>()

interface Place {
  x: number
  y: number
  ring: number
}
const LIMBS = [
  ['ear', 'shoulder'],
  ['shoulder', 'elbow'],
  ['elbow', 'wrist'],
  ['shoulder', 'hip'],
  ['hip', 'knee'],
  ['knee', 'ankle'],
  ['ankle', 'heel'],
  ['heel', 'toe'],
  ['ankle', 'toe'],
] as const
const held = ref<{ joint: string; x: number; y: number } | null>(null)
let grip = { x: 0, y: 0 }

const near = computed(() => (props.analysis.clip.facing === 'left' ? 'left' : 'right'))
const far = computed(() => (near.value === 'left' ? 'right' : 'left'))
const side = computed(() => fromSide(props.analysis))
/** Only what is fitted follows a joint that is dragged. */
const draggable = computed(() => props.movable && side.value)
const pxPerCm = computed(() => {
  const scale = props.analysis.scale
  return scale ? 0.01 / (scale.body_m_per_px ?? scale.m_per_px) : 0
})

const places = computed(() => {
  const out = new Map<string, Place>()
  for (const [joint, track] of Object.entries(props.analysis.joints)) {
    const x = track.x_px?.[props.frame]
    const y = track.y_px?.[props.frame]
    if (x == null || y == null) continue
    out.set(joint, { x, y, ring: 2 * (track.sd_cm?.[props.frame] ?? 0) * pxPerCm.value })
  }
  if (held.value) out.set(held.value.joint, { ...held.value, ring: 0 })
  return out
})

function limbs(side: string): string {
  return LIMBS.map(([a, b]) => {
    const from = places.value.get(`${side}_${a}`)
    const to = places.value.get(`${side}_${b}`)
    return from && to ? `M${from.x} ${from.y}L${to.x} ${to.y}` : ''
  }).join('')
}
const joints = computed(() =>
  [...places.value]
    .filter(([joint]) => joint === 'nose' || !side.value || joint.startsWith(near.value))
    .map(([joint, place]) => ({ joint, ...place, uncertain: place.ring > 5 * 2 * pxPerCm.value })),
)

function take(joint: string, place: Place, event: PointerEvent) {
  if (!draggable.value) return
  const point = props.toPicture(event)
  grip = { x: place.x - point.x, y: place.y - point.y }
  held.value = { joint, x: place.x, y: place.y }
  ;(event.target as Element).setPointerCapture(event.pointerId)
}
function drag(event: PointerEvent) {
  if (!held.value) return
  const point = props.toPicture(event)
  held.value = { ...held.value, x: point.x + grip.x, y: point.y + grip.y }
}
function drop() {
  if (!held.value) return
  const { joint, x, y } = held.value
  const before = props.analysis.joints[joint]
  held.value = null
  if (Math.hypot((before?.x_px?.[props.frame] ?? 0) - x, (before?.y_px?.[props.frame] ?? 0) - y) > 0.4)
    emit('move', joint, x, y)
}
function nudge(joint: string, place: Place, event: KeyboardEvent) {
  const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key]
  if (!by || !event.altKey || !draggable.value) return
  event.preventDefault()
  event.stopPropagation()
  emit('move', joint, place.x + by[0]!, place.y + by[1]!)
}
</script>

<template>
  <g class="body" :class="{ movable: draggable }">
    <path
      v-if="side"
      class="far"
      :d="limbs(far)"
      :stroke-width="stroke * 0.9"
      :stroke-dasharray="`${stroke * 0.1} ${stroke * 2}`"
    />
    <path class="under" :d="limbs(near) + (side ? '' : limbs(far))" :stroke-width="stroke * 2.1" />
    <path class="near" :d="limbs(near) + (side ? '' : limbs(far))" :stroke-width="stroke * 1.1" />
    <template v-for="one in joints" :key="one.joint">
      <circle
        v-if="one.uncertain"
        class="doubt"
        :cx="one.x"
        :cy="one.y"
        :r="one.ring"
        :stroke-width="stroke * 0.6"
        :stroke-dasharray="`${stroke * 1.4} ${stroke * 1.2}`"
      />
      <rect
        class="joint"
        :class="{ set: set.includes(one.joint) }"
        :x="one.x - stroke * 1.5"
        :y="one.y - stroke * 1.5"
        :width="stroke * 3"
        :height="stroke * 3"
        :stroke-width="stroke * 0.7"
      />
      <circle
        class="handle"
        :cx="one.x"
        :cy="one.y"
        :r="stroke * 6"
        tabindex="0"
        role="slider"
        :data-joint="one.joint"
        :aria-label="`${words(one.joint)}. Drag it, or move it with Alt and the arrow keys`"
        :aria-valuetext="`${Math.round(one.x)}, ${Math.round(one.y)} pixels`"
        :aria-valuenow="frame"
        @pointerdown.stop="take(one.joint, one, $event)"
        @pointermove="drag"
        @pointerup="drop"
        @keydown="nudge(one.joint, one, $event)"
      >
        <title>{{ words(one.joint) }}</title>
      </circle>
    </template>
  </g>
</template>

<style scoped lang="scss">
path {
  fill: none;
  stroke-linecap: round;
  stroke-linejoin: round;
  pointer-events: none;
}
.near {
  stroke: #f4f1e6;
}
.under {
  stroke: rgba(0, 0, 0, 0.5);
}
.far {
  stroke: #f4f1e6;
  opacity: 0.75;
}
.joint {
  fill: #14171a;
  stroke: #f4f1e6;
  pointer-events: none;
  &.set {
    fill: #f4f1e6;
  }
}
.doubt {
  fill: rgba(244, 241, 230, 0.1);
  stroke: #f4f1e6;
  opacity: 0.8;
  pointer-events: none;
}
.handle {
  fill: transparent;
  outline: none;
  &:focus-visible {
    stroke: #fff;
    stroke-dasharray: 4 4;
  }
}
.movable .handle {
  cursor: grab;
}
</style>
