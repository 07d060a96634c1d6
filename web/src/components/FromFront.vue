<script setup lang="ts">
import { computed } from 'vue'
import { quantity } from '@/format/quantity'
import type { AnalysisDocument } from '@/api/client'

/** The bar of a clip from the front: its line through both hands, the level beside it, and by how much it is out of that. */
const props = defineProps<{ analysis: AnalysisDocument; frame: number; stroke: number }>()

const HALF_BAR_M = 1.1
const bar = computed(() => {
  const { front, disc, scale } = props.analysis
  const [x, y] = [disc.x_px?.[props.frame], disc.y_px?.[props.frame]]
  const [slope, tilt] = [front?.bar_slope[props.frame], front?.tilt_deg[props.frame]]
  if (x == null || y == null || slope == null || tilt == null || !scale) return null
  const half = HALF_BAR_M / scale.m_per_px
  return {
    x1: x - half,
    y1: y - slope * half,
    x2: x + half,
    y2: y + slope * half,
    level: y,
    says: `${quantity(tilt, '°').figure}° out of level`,
  }
})
</script>

<template>
  <g v-if="bar" class="from-front" data-test="bar-line">
    <line
      class="level"
      :x1="bar.x1"
      :x2="bar.x2"
      :y1="bar.level"
      :y2="bar.level"
      :stroke-width="stroke * 0.7"
      :stroke-dasharray="`${stroke * 4} ${stroke * 3}`"
    />
    <line class="under" v-bind="{ x1: bar.x1, y1: bar.y1, x2: bar.x2, y2: bar.y2 }" :stroke-width="stroke * 2" />
    <line class="bar" v-bind="{ x1: bar.x1, y1: bar.y1, x2: bar.x2, y2: bar.y2 }" :stroke-width="stroke" />
    <text :x="bar.x2" :y="Math.min(bar.y2, bar.level) - stroke * 5" :font-size="stroke * 7" text-anchor="end">
      {{ bar.says }}
    </text>
  </g>
</template>

<style scoped lang="scss">
.from-front {
  pointer-events: none;
}
.level {
  stroke: #f4f1e6;
  opacity: 0.8;
}
.under {
  stroke: rgba(0, 0, 0, 0.5);
}
.bar {
  stroke: #f2c14e;
}
text {
  fill: #f4f1e6;
  paint-order: stroke;
  stroke: rgba(0, 0, 0, 0.7);
  stroke-width: 3px;
}
</style>
