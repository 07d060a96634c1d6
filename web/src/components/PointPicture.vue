<script setup lang="ts">
import { computed } from 'vue'
import Marks from '@/components/Marks.vue'
import type { Handed } from '@/api/client'

/** A frame that something is said of, with the bar's way to it, what was measured, and what the coach drew. */
const props = defineProps<{
  drawing: NonNullable<Handed['points'][number]['drawing']>
  picture: string
  says: string
  /** Whether it is said what the lines are: once is enough on a page. */
  explained?: boolean
}>()

const trail = computed(() => props.drawing.path.map(([x, y]) => `${x},${y}`).join(' '))
/**
 * The part of the picture worth a phone's width: the bar, as far as it went, and the lifter from head to foot. Where nobody was seen, as
 * much above the bar and below it as a lifter at a bar on the floor takes.
 */
const ABOVE = { bar: 1.2, head: 0.9, unseen: 4.2 }
const BELOW = { bar: 1.5, foot: 0.5 }
const part = computed(() => {
  const d = props.drawing
  if (!d.bar || !d.radius) return { x: 0, y: 0, width: d.width, height: d.height }
  const [lifter, drawn] = [d.lifter ?? [], (d.marks ?? []).flatMap((mark) => mark.points)]
  const [barX, radius] = [d.bar[0]!, d.radius]
  const bar = [d.bar, ...d.path].map((point) => point[1]!)
  const y = (points: number[][], by: number) => points.map((point) => point[1]! + by * radius)
  const xs = [barX - 4.6 * radius, barX + 4.6 * radius, ...[...lifter, ...drawn].map((point) => point[0]!)]
  const above = lifter.length ? ABOVE.bar : ABOVE.unseen
  const tops = [Math.min(...bar) - above * radius, ...y(lifter, -ABOVE.head), ...y(drawn, 0)]
  const feet = [Math.max(...bar) + BELOW.bar * radius, ...y(lifter, BELOW.foot), ...y(drawn, 0)]
  const [left, top] = [Math.max(Math.min(...xs), 0), Math.max(Math.min(...tops), 0)]
  return {
    x: left,
    y: top,
    width: Math.min(Math.max(...xs), d.width) - left,
    height: Math.min(Math.max(...feet), d.height) - top,
  }
})
const stroke = computed(() => part.value.width / 220)
const line = computed(() => (props.drawing.line ?? []).map(([x, y]) => `${x},${y}`).join(' '))
</script>

<template>
  <figure>
    <svg :viewBox="`${part.x} ${part.y} ${part.width} ${part.height}`" role="img" :aria-label="`Picture: ${says}`">
      <image :href="picture" :width="drawing.width" :height="drawing.height" />
      <line
        v-if="drawing.plumb_x !== null"
        :x1="drawing.plumb_x"
        :x2="drawing.plumb_x"
        y1="0"
        :y2="drawing.height"
        class="upright"
        :stroke-width="stroke * 0.7"
        :stroke-dasharray="`${stroke * 4} ${stroke * 3}`"
      />
      <polyline :points="trail" class="trail" :stroke-width="stroke * 1.2" />
      <circle
        v-if="drawing.bar"
        :cx="drawing.bar[0]"
        :cy="drawing.bar[1]"
        :r="stroke * 2.4"
        class="bar"
        :stroke-width="stroke * 0.8"
      />
      <polyline v-if="line" :points="line" class="under" :stroke-width="stroke * 3" />
      <polyline v-if="line" :points="line" class="line" :stroke-width="stroke * 1.6" data-test="measured" />
      <Marks :marks="drawing.marks ?? []" :width="drawing.width" :height="drawing.height" :stroke="stroke" />
    </svg>
    <figcaption v-if="explained" class="quiet">
      Dashed: straight up from where the bar started. Coloured: the way it went. Ring: the bar now.
      {{ line ? 'White: what was measured.' : '' }}
    </figcaption>
  </figure>
</template>

<style scoped lang="scss">
figure {
  margin: 0 0 0.5rem;
  svg {
    width: 100%;
    display: block;
    max-height: 62vh;
    background: #000;
  }
  figcaption {
    font-size: 0.8em;
    margin-top: 0.2em;
  }
}
.upright,
.line,
.bar {
  stroke: #fff;
  fill: none;
  stroke-linejoin: round;
}
.under {
  stroke: rgba(0, 0, 0, 0.65);
  fill: none;
  stroke-linejoin: round;
}
.trail {
  fill: none;
  stroke: #ffc46b;
  stroke-linejoin: round;
}
</style>
