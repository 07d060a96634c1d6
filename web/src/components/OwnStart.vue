<script setup lang="ts">
import { computed } from 'vue'
import { jointAt, nearSide } from './curves'
import type { AnalysisDocument, Lift } from '@/api/client'

/** The start that this lifter's own build asks for, standing in their footprint. */
const props = defineProps<{ analysis: AnalysisDocument; lift: Lift; stroke: number }>()

const ORDER = ['ankle', 'knee', 'hip', 'shoulder', 'bar'] as const
const ahead = computed(() => (nearSide(props.analysis) === 'left' ? -1 : 1))
const spots = computed(() => {
  const start = props.lift.own_start
  const scale = props.analysis.scale
  const foot = jointAt(props.analysis, 'ankle', props.lift.events.lift_off?.frame ?? props.lift.start_frame)
  if (!start || !scale || !foot) return null
  const m_per_px = scale.body_m_per_px ?? scale.m_per_px
  const lean = (scale.plumb_deg * Math.PI) / 180
  const [ankleX, ankleY] = start.points_m.ankle as [number, number]
  return ORDER.map((name) => {
    const [x, y] = start.points_m[name] as [number, number]
    const [across, up] = [(ahead.value * (x - ankleX)) / m_per_px, (y - ankleY) / m_per_px]
    return {
      x: foot.x + across * Math.cos(lean) + up * Math.sin(lean),
      y: foot.y - up * Math.cos(lean) + across * Math.sin(lean),
    }
  })
})
const way = computed(() => (spots.value ? `M${spots.value.map(({ x, y }) => `${x} ${y}`).join('L')}` : ''))
</script>

<template>
  <g v-if="spots" class="start" fill="none" stroke-linejoin="round" data-test="own-start">
    <path class="under" :d="way" :stroke-width="stroke * 2.6" />
    <path :d="way" :stroke-width="stroke * 1.4" :stroke-dasharray="`${stroke * 1.2} ${stroke * 2.4}`" />
    <circle v-for="(spot, index) in spots" :key="index" :cx="spot.x" :cy="spot.y" :r="stroke * 1.8" />
    <text
      :x="spots[4]!.x + ahead * stroke * 6"
      :y="spots[4]!.y + stroke * 2"
      :text-anchor="ahead > 0 ? 'start' : 'end'"
      :font-size="stroke * 6.5"
    >
      own start, back {{ lift.own_start!.trunk_deg.toFixed(0) }}°
    </text>
  </g>
</template>

<style scoped lang="scss">
.start {
  stroke: #fff;
  pointer-events: none;
}
.under {
  stroke: rgba(0, 0, 0, 0.5);
}
text {
  fill: #fff;
  stroke: rgba(0, 0, 0, 0.65);
  stroke-width: 0.22em;
  paint-order: stroke;
}
</style>
