<script setup lang="ts">
import { computed } from 'vue'
import { clear, fromSide, middleOf, middleOfFeet, nearSide } from './curves'
import type { AnalysisDocument, Lift } from '@/api/client'

/** How far level apart what a coach relates is at a frame: shoulder, knee and hip from the bar, the bar from the middle of the feet. */
const props = defineProps<{ analysis: AnalysisDocument; lift: Lift; frame: number; stroke: number }>()

/** Each begins at a place of the lifter and ends on the upright through the bar; `ahead` is the sign of a bar in front of that place. */
const DRAWN = [
  { id: 'shoulder_over_bar', place: 'shoulder', ahead: -1, says: (cm: number) => `shoulder ${side(cm)} the bar` },
  { id: 'hip_bar_distance', place: 'hip', ahead: 1, says: (cm: number) => `hip ${side(-cm)} the bar` },
  { id: 'knee_over_bar', place: 'knee', ahead: -1, says: (cm: number) => `knee ${side(cm)} the bar` },
  { id: 'bar_over_midfoot', place: 'mid_foot', ahead: 1, says: (cm: number) => `bar ${side(cm)} mid-foot` },
]
const side = (cm: number) => `${Math.abs(cm).toFixed(0)} cm ${cm >= 0 ? 'ahead of' : 'behind'}`
const forward = computed(() => (nearSide(props.analysis) === 'left' ? -1 : 1))

const placeOf = (name: string) =>
  name === 'mid_foot' ? middleOfFeet(props.analysis, props.frame) : middleOf(props.analysis, name, props.frame)
const drawn = computed(() => {
  const { scale } = props.analysis
  if (!scale || !fromSide(props.analysis)) return []
  const px = 0.01 / (scale.body_m_per_px ?? scale.m_per_px)
  const lean = (scale.plumb_deg * Math.PI) / 180
  const row = props.frame - props.lift.bar.first_frame
  const made = DRAWN.flatMap(({ id, place, ahead, says }) => {
    const told = props.lift.relations?.[id]
    const [cm, sd, at] = [told?.cm[row], told?.sd_cm[row], placeOf(place)]
    if (cm == null || !at) return []
    const far = forward.value * ahead * cm * px
    const end = { x: at.x + far * Math.cos(lean), y: at.y + far * Math.sin(lean) }
    return [{ id, at, end, y: (at.y + end.y) / 2, says: `${says(cm)} ± ${(sd ?? 0).toFixed(0)}` }]
  })
  // Words stand in front of the lifter, in one column.
  const front = forward.value * Math.max(...made.flatMap(({ at, end }) => [at.x, end.x].map((x) => forward.value * x)))
  const x = front + forward.value * props.stroke * 8
  return clear(made, props.stroke * 8.5).map((one) => ({ ...one, x }))
})
</script>

<template>
  <g class="distances">
    <g v-for="one in drawn" :key="one.id" :data-distance="one.id">
      <line :x1="one.at.x" :y1="one.at.y" :x2="one.end.x" :y2="one.end.y" :stroke-width="stroke * 1.4" />
      <line
        :x1="one.end.x"
        :x2="one.end.x"
        :y1="one.end.y - stroke * 3"
        :y2="one.end.y + stroke * 3"
        :stroke-width="stroke"
      />
      <circle :cx="one.at.x" :cy="one.at.y" :r="stroke * 1.8" stroke="none" />
      <text :x="one.x" :y="one.y + stroke * 2.5" :text-anchor="forward < 0 ? 'end' : 'start'" :font-size="stroke * 6.5">
        {{ one.says }}
      </text>
    </g>
  </g>
</template>

<style scoped lang="scss">
.distances {
  fill: #fff;
  stroke: #fff;
  pointer-events: none;
}
text {
  stroke: rgba(0, 0, 0, 0.65);
  stroke-width: 0.22em;
  paint-order: stroke;
}
</style>
