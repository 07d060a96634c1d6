<script setup lang="ts">
import { computed } from 'vue'
import { spoken } from '@/format/quantity'
import type { Finding } from '@/api/client'

/** What the chosen finding rests on, drawn in the frame in which it was measured. */
const props = defineProps<{
  frame: number
  width: number
  stroke: number
  finding: Finding
  labelOf: (measure: string) => string
}>()

const BELOW = 10
const told = computed(() =>
  props.finding.evidence
    .filter((piece) => piece.frame === props.frame && piece.value != null && piece.lines?.length)
    .map((piece, row) => {
      const spots = piece.lines as [number, number][]
      const [x, y] = spots[spots.length >> 1]!
      const right = x > 0.6 * props.width
      return {
        measure: piece.measure,
        says: `${props.labelOf(piece.measure)}: ${spoken(piece.value!, piece.unit ?? '')}`,
        way: `M${spots.map((spot) => spot.join(' ')).join('L')}`,
        spots,
        right,
        x: x + (right ? -6 : 6) * props.stroke,
        y: y + (row * BELOW - 5) * props.stroke,
      }
    }),
)
</script>

<template>
  <g class="callouts" fill="none" stroke-linecap="round" stroke-linejoin="round">
    <g v-for="one in told" :key="one.measure" :data-callout="one.measure">
      <path class="under" :d="one.way" :stroke-width="stroke * 3" />
      <path :d="one.way" :stroke-width="stroke * 1.6" />
      <circle v-for="([x, y], index) in one.spots" :key="index" :cx="x" :cy="y" :r="stroke * 1.8" />
      <text :x="one.x" :y="one.y" :text-anchor="one.right ? 'end' : 'start'" :font-size="stroke * 8">
        {{ one.says }}
      </text>
    </g>
  </g>
</template>

<style scoped lang="scss">
.callouts {
  stroke: #fff;
  pointer-events: none;
}
.under {
  stroke: rgba(0, 0, 0, 0.65);
}
circle {
  fill: #fff;
  stroke: rgba(0, 0, 0, 0.65);
}
text {
  fill: #fff;
  stroke: rgba(0, 0, 0, 0.7);
  stroke-width: 0.25em;
  paint-order: stroke;
}
</style>
