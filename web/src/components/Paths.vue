<script setup lang="ts">
import { computed } from 'vue'
import type { Lift } from '@/api/client'

/** The bar's paths of lifts over each other, in metres from where each began; a mark on each shows where it is now. */
const props = defineProps<{ lifts: { lift: Lift; frame: number }[] }>()

const HIGH = 320
const EDGE = 18
const points = computed(() =>
  props.lifts.map(({ lift }) => {
    const last = Math.min(lift.events.release?.frame ?? lift.end_frame, lift.end_frame) - lift.bar.first_frame
    return lift.bar.x_m.slice(0, last + 1).flatMap((x, row) => {
      const y = lift.bar.y_m[row]
      return x == null || y == null ? [] : [{ x, y }]
    })
  }),
)
const span = computed(() => {
  const all = points.value.flat()
  const [xs, ys] = [all.map((one) => one.x), all.map((one) => one.y)]
  // From the floor there is a metre at least; from a rack or the shoulders as much as the bar goes up and down.
  const least = props.lifts.every(({ lift }) => lift.from === 'floor') ? 1 : 0
  return {
    // Room for the heights, clear of the paths.
    left: Math.min(-0.1, ...xs) - 0.2,
    right: Math.max(0.1, ...xs) + 0.03,
    low: Math.min(0, ...ys),
    top: Math.max(least, ...ys) + 0.05,
  }
})
// As wide as it is high in metres: a path that is squeezed sideways would look straighter than it is.
const scale = computed(() => (HIGH - 2 * EDGE) / (span.value.top - span.value.low))
const wide = computed(() => (span.value.right - span.value.left) * scale.value + 2 * EDGE)
const x = (metres: number) => EDGE + (metres - span.value.left) * scale.value
const y = (metres: number) => HIGH - EDGE - (metres - span.value.low) * scale.value
const now = computed(() =>
  props.lifts.map(({ lift, frame }) => {
    const row = frame - lift.bar.first_frame
    const [at, up] = [lift.bar.x_m[row], lift.bar.y_m[row]]
    return at == null || up == null ? null : { x: at, y: up }
  }),
)
const heights = computed(() => {
  const { low, top } = span.value
  const step = top - low > 1 ? 50 : 20
  const first = Math.ceil((100 * low) / step)
  return Array.from({ length: Math.floor((100 * top) / step) - first + 1 }, (_, row) => (first + row) * step)
})
</script>

<template>
  <svg :viewBox="`0 0 ${wide} ${HIGH}`" role="img" aria-label="The bar's paths over each other">
    <g class="grid">
      <template v-for="cm in heights" :key="cm">
        <line :x1="EDGE" :x2="wide - EDGE" :y1="y(cm / 100)" :y2="y(cm / 100)" />
        <text :x="2" :y="y(cm / 100) - 3">{{ String(cm).replace('-', '−') }} cm</text>
      </template>
      <line class="plumb" :x1="x(0)" :x2="x(0)" :y1="EDGE" :y2="HIGH - EDGE" />
    </g>
    <g v-for="(path, place) in points" :key="place" :class="`lift-${place}`">
      <polyline :points="path.map((one) => `${x(one.x)},${y(one.y)}`).join(' ')" />
      <circle v-if="now[place]" :cx="x(now[place]!.x)" :cy="y(now[place]!.y)" r="4.5" />
    </g>
  </svg>
</template>

<style scoped lang="scss">
svg {
  display: block;
  max-width: 100%;
  margin: 0 auto;
  font-size: 10px;
  fill: var(--quiet);
}
.grid line {
  stroke: var(--rule);
}
.grid .plumb {
  stroke: var(--quiet);
  stroke-dasharray: 4 3;
}
polyline {
  fill: none;
  stroke-width: 2;
}
.lift-0 {
  stroke: var(--trace);
  circle {
    fill: var(--trace);
  }
}
/* Told by its dashes as well as by its colour. */
.lift-1 {
  stroke: var(--look);
  polyline {
    stroke-dasharray: 7 4;
  }
  circle {
    fill: var(--panel);
    stroke-width: 2;
  }
}
.lift-2 {
  stroke: var(--bs-body-color);
  polyline {
    stroke-dasharray: 2 4;
  }
  circle {
    fill: var(--bs-body-color);
  }
}
.lift-3 {
  stroke: var(--quiet);
  polyline {
    stroke-dasharray: 9 3 2 3;
  }
  circle {
    fill: var(--panel);
    stroke-width: 2;
  }
}
</style>
