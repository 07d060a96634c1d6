<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { quantity, spoken } from '@/format/quantity'

/** One measure of many lifts against their load: made lifts as rings, missed ones as crosses, the newest filled. */
type Series = Schemas['Series']
const props = defineProps<{
  series: Series
  limit: number | null
  /** Lifts that are marked, as clip:place. */
  marked?: string[]
}>()
const emit = defineEmits<{ open: [clip: string] }>()

const WIDE = 640
const HIGH = 300
const EDGE = { left: 56, right: 14, top: 14, bottom: 40 }
const measure = computed(() => props.series.measure)
const told = computed(() => props.series.measures.find((one) => one.measure === measure.value))
const points = computed(() =>
  props.series.lifts.flatMap((one) => (one.value === null ? [] : [{ ...one, value: one.value, sd: one.sd ?? 0 }])),
)
const newest = computed(() =>
  points.value
    .map((one) => one.on)
    .sort()
    .at(-1),
)
const line = computed(() => (measure.value === 'peak_velocity' ? (props.series.profile?.line ?? []) : []))
const band = computed(() => props.series.bands.find((one) => one.measure === measure.value) ?? null)

/** Round steps for an axis, about `count` of them. */
function steps(low: number, high: number, count: number): number[] {
  const rough = (high - low) / count || 1
  const size = 10 ** Math.floor(Math.log10(rough))
  const step = [1, 2, 5, 10].map((one) => one * size).find((one) => one >= rough)!
  const first = Math.ceil(low / step) * step
  return Array.from({ length: Math.floor((high - first) / step + 1e-9) + 1 }, (_, i) => first + i * step)
}
function span(values: number[], share: number): [number, number] {
  const [low, high] = [Math.min(...values), Math.max(...values)]
  const more = share * (high - low || Math.abs(high) || 1)
  return [low - more, high + more]
}
const loads = computed(() =>
  span(
    points.value.map((one) => one.load_kg),
    0.06,
  ),
)
const values = computed(() =>
  span(
    [
      ...points.value.flatMap((one) => [one.value - one.sd, one.value + one.sd]),
      ...line.value.map((corner) => corner[1]!),
      ...(props.limit === null ? [] : [props.limit]),
      ...(band.value ? [band.value.low, band.value.high] : []),
    ],
    0.08,
  ),
)
const x = (load: number) =>
  EDGE.left + ((load - loads.value[0]) / (loads.value[1] - loads.value[0])) * (WIDE - EDGE.left - EDGE.right)
const y = (value: number) =>
  HIGH -
  EDGE.bottom -
  ((value - values.value[0]) / (values.value[1] - values.value[0])) * (HIGH - EDGE.top - EDGE.bottom)
const unit = computed(() => quantity(0, told.value?.unit ?? '').unit)
// Lengths kept in metres are shown in centimetres: axis and points alike.
const figure = (value: number) => quantity(value, told.value?.unit ?? '').figure
const says = (one: (typeof points.value)[number]) =>
  `${one.on}: ${one.load_kg} kg, ${spoken(one.value, told.value?.unit ?? '')}${one.made === false ? ', missed' : ''}`
</script>

<template>
  <svg :viewBox="`0 0 ${WIDE} ${HIGH}`" role="group" :aria-label="`${told?.label} against load`">
    <rect
      v-if="band"
      class="band"
      :x="EDGE.left"
      :width="WIDE - EDGE.left - EDGE.right"
      :y="y(band.high)"
      :height="y(band.low) - y(band.high)"
    />
    <g v-for="value in steps(values[0], values[1], 5)" :key="`y${value}`" class="tick">
      <line :x1="EDGE.left" :x2="WIDE - EDGE.right" :y1="y(value)" :y2="y(value)" />
      <text :x="EDGE.left - 7" :y="y(value) + 4" text-anchor="end">{{ figure(value) }}</text>
    </g>
    <g v-for="load in steps(loads[0], loads[1], 8)" :key="`x${load}`" class="tick">
      <text :x="x(load)" :y="HIGH - EDGE.bottom + 16" text-anchor="middle">{{ Number(load.toFixed(2)) }}</text>
    </g>
    <text class="name" :x="WIDE - EDGE.right" :y="HIGH - 6" text-anchor="end">load, kg</text>
    <text class="name" :x="EDGE.left - 48" :y="HIGH - 6">{{ told?.label }}{{ unit ? `, ${unit}` : '' }}</text>
    <template v-if="limit !== null">
      <line class="limit" :x1="EDGE.left" :x2="WIDE - EDGE.right" :y1="y(limit)" :y2="y(limit)" />
      <text class="limit-name" :x="EDGE.left + 4" :y="y(limit) - 4">
        watched beyond {{ spoken(limit, told?.unit ?? '') }}
      </text>
    </template>
    <polyline v-if="line.length" class="curve" :points="line.map((one) => `${x(one[0]!)},${y(one[1]!)}`).join(' ')" />
    <a
      v-for="(one, place) in points"
      :key="place"
      :href="`/clips/${one.clip}`"
      :aria-label="says(one)"
      :class="{ missed: one.made === false, newest: one.on === newest }"
      @click.prevent="emit('open', one.clip)"
    >
      <title>{{ says(one) }}</title>
      <circle
        v-if="marked?.includes(`${one.clip}:${one.place}`)"
        class="marked"
        :cx="x(one.load_kg)"
        :cy="y(one.value)"
        r="10"
      />
      <line
        class="doubt"
        :x1="x(one.load_kg)"
        :x2="x(one.load_kg)"
        :y1="y(one.value - one.sd)"
        :y2="y(one.value + one.sd)"
      />
      <path
        v-if="one.made === false"
        :d="`M${x(one.load_kg) - 5} ${y(one.value) - 5} l10 10 M${x(one.load_kg) + 5} ${y(one.value) - 5} l-10 10`"
      />
      <circle v-else :cx="x(one.load_kg)" :cy="y(one.value)" r="5" />
    </a>
  </svg>
</template>

<style scoped lang="scss">
svg {
  display: block;
  width: 100%;
  font-size: 12px;
  fill: var(--quiet);
}
.tick line {
  stroke: var(--rule);
  stroke-width: 0.6;
}
.name {
  font-weight: 600;
}
.band {
  fill: var(--good);
  opacity: 0.1;
}
.curve {
  fill: none;
  stroke: var(--trace);
  stroke-width: 2;
}
.limit {
  stroke: var(--look);
  stroke-dasharray: 5 4;
}
.limit-name {
  fill: var(--look);
}
a {
  circle {
    fill: var(--panel);
    stroke: var(--trace);
    stroke-width: 2;
  }
  &.newest circle {
    fill: var(--trace);
  }
  circle.marked {
    fill: none;
    stroke: var(--look);
    stroke-dasharray: 4 3;
  }
  path {
    fill: none;
    stroke: var(--look);
    stroke-width: 2.4;
  }
  .doubt {
    stroke: var(--trace);
    stroke-width: 1;
    opacity: 0.6;
  }
  &:focus-visible {
    outline: 2px solid var(--trace);
  }
}
</style>
