<script setup lang="ts">
import { computed } from 'vue'
import { frameAt } from './beside'
import { fromSide, jointAt, nearSide } from './curves'
import type { LaidOver } from './laidOver'
import type { AnalysisDocument, Lift } from '@/api/client'

/**
 * Another lift laid over this one: its bar from where ours began, its body from where our foot stood, in metres, turned the way our lifter
 * faces. What it was measured with (scale, camera) is its own, so it shows shapes and not centimetres.
 */
const props = defineProps<{
  analysis: AnalysisDocument
  lift: Lift
  frame: number
  stroke: number
  other: LaidOver
}>()

const LIMBS = [
  ['ear', 'shoulder'],
  ['shoulder', 'elbow'],
  ['elbow', 'wrist'],
  ['shoulder', 'hip'],
  ['hip', 'knee'],
  ['knee', 'ankle'],
  ['heel', 'toe'],
] as const
type Spot = { x: number; y: number } | null
const begins = (lift: Lift) =>
  (lift.events.lift_off ?? lift.events.dip_start ?? lift.events.descent_start ?? lift.events.press_start)?.frame ??
  lift.start_frame
function disc(analysis: AnalysisDocument, frame: number): Spot {
  const [x, y] = [analysis.disc.x_px?.[frame], analysis.disc.y_px?.[frame]]
  return x == null || y == null ? null : { x, y }
}
const turned = computed(() => (nearSide(props.analysis) === nearSide(props.other.analysis) ? 1 : -1))
const now = computed(() =>
  frameAt(props.other.analysis, props.other.time(props.analysis.clip.frame_time_s[props.frame] ?? 0)),
)
/** From the other's pixels to ours, about two places that belong together. */
function onto(own: Spot, theirs: Spot, scale: 'm_per_px' | 'body_m_per_px') {
  const [mine, other] = [props.analysis.scale, props.other.analysis.scale]
  if (!own || !theirs || !mine || !other) return null
  // Only from the side do two lifts show the same of bar and body.
  if (!fromSide(props.analysis) || !fromSide(props.other.analysis)) return null
  const by = (other[scale] ?? other.m_per_px) / (mine[scale] ?? mine.m_per_px)
  return (spot: Spot) =>
    spot && { x: own.x + turned.value * by * (spot.x - theirs.x), y: own.y + by * (spot.y - theirs.y) }
}
const ofBar = computed(() =>
  onto(disc(props.analysis, begins(props.lift)), disc(props.other.analysis, begins(props.other.lift)), 'm_per_px'),
)
const ofBody = computed(() =>
  onto(
    jointAt(props.analysis, 'ankle', begins(props.lift)),
    jointAt(props.other.analysis, 'ankle', begins(props.other.lift)),
    'body_m_per_px',
  ),
)
const path = computed(() => {
  const turn = ofBar.value
  if (!turn) return ''
  const { lift, analysis } = props.other
  const last = Math.min(lift.events.release?.frame ?? lift.end_frame, lift.end_frame)
  const spots = []
  for (let frame = lift.start_frame; frame <= last; frame++) spots.push(turn(disc(analysis, frame)))
  return `M${spots.flatMap((spot) => (spot ? [`${spot.x.toFixed(1)} ${spot.y.toFixed(1)}`] : [])).join('L')}`
})
const bar = computed(() => ofBar.value?.(disc(props.other.analysis, now.value)) ?? null)
const limbs = computed(() => {
  const turn = ofBody.value
  if (!turn) return ''
  return LIMBS.map(([a, b]) => {
    const [from, to] = [a, b].map((part) => turn(jointAt(props.other.analysis, part, now.value)))
    return from && to ? `M${from.x} ${from.y}L${to.x} ${to.y}` : ''
  }).join('')
})
</script>

<template>
  <g class="ghost" fill="none" data-test="ghost">
    <path class="under" :d="path + limbs" :stroke-width="stroke * 1.8" />
    <path :d="path" :stroke-width="stroke * 0.9" :stroke-dasharray="`${stroke * 2.4} ${stroke * 2}`" />
    <path :d="limbs" :stroke-width="stroke * 1.1" :stroke-dasharray="`${stroke * 3} ${stroke * 1.6}`" />
    <rect
      v-if="bar"
      :x="bar.x - stroke * 2.4"
      :y="bar.y - stroke * 2.4"
      :width="stroke * 4.8"
      :height="stroke * 4.8"
      :stroke-width="stroke * 0.9"
    />
  </g>
</template>

<style scoped lang="scss">
.ghost {
  stroke: #fff;
  opacity: 0.85;
  pointer-events: none;
}
.under {
  stroke: rgba(0, 0, 0, 0.45);
}
</style>
