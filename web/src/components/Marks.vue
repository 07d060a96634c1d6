<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { angleOf, outline, thinned, type Ink, type Shape } from './marks'
import type { Schemas } from '@/api/client'

/** What the coach drew at a frame, and the pen while one is held. */
const props = defineProps<{
  marks: Schemas['DrawnMark'][]
  width: number
  height: number
  stroke: number
  /** With a pen: its shape and colour, the frame that is drawn into, and where in the picture a pointer is. */
  shape?: Shape | null
  ink?: Ink
  frame?: number
  toPicture?: (event: PointerEvent) => { x: number; y: number }
}>()
const emit = defineEmits<{ drawn: [shape: Shape, points: number[][]] }>()

const SHORT = 4
const held = ref<number[][]>([])
watch(
  () => [props.shape, props.frame],
  () => (held.value = []),
)
const all = computed(() => [
  ...props.marks.map(({ shape, points, ink }) => ({ shape, points, ink: ink ?? 'white' })),
  ...(props.shape && held.value.length > 1
    ? [{ shape: props.shape, points: held.value, ink: props.ink ?? 'white' }]
    : []),
])
const size = computed(() => props.stroke * 9)

function point(event: PointerEvent): number[] {
  const { x, y } = props.toPicture!(event)
  return [Math.min(Math.max(x, 0), props.width), Math.min(Math.max(y, 0), props.height)]
}
function down(event: PointerEvent) {
  if (props.shape === 'angle') {
    held.value = [...held.value, point(event)]
    if (held.value.length === 3) finish()
    return
  }
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  held.value = [point(event)]
}
function move(event: PointerEvent) {
  if (!held.value.length || props.shape === 'angle') return
  const next = point(event)
  if (props.shape !== 'stroke') held.value = [held.value[0]!, next]
  else if (Math.hypot(next[0]! - held.value.at(-1)![0]!, next[1]! - held.value.at(-1)![1]!) > props.stroke)
    held.value.push(next)
}
function finish() {
  const points = held.value
  held.value = []
  const [first, last] = [points[0], points.at(-1)]
  if (!first || !last || points.length < 2) return
  if (props.shape !== 'stroke' && Math.hypot(last[0]! - first[0]!, last[1]! - first[1]!) < SHORT) return
  emit('drawn', props.shape!, thinned(points))
}
const up = () => props.shape !== 'angle' && finish()
</script>

<template>
  <g class="marks" fill="none" stroke-linecap="round" stroke-linejoin="round">
    <template v-for="(mark, index) in all" :key="index">
      <path class="under" :d="outline(mark.shape, mark.points, stroke * 7)" :stroke-width="stroke * 2.6" />
      <path
        :class="mark.ink"
        :d="outline(mark.shape, mark.points, stroke * 7)"
        :stroke-width="stroke * 1.3"
        :data-mark="mark.shape"
      />
      <text
        v-if="mark.shape === 'angle' && mark.points.length === 3"
        :x="mark.points[1]![0]! + stroke * 4"
        :y="mark.points[1]![1]! - stroke * 4"
        :font-size="size"
      >
        {{ angleOf(mark.points).toFixed(0) }}°
      </text>
    </template>
    <rect
      v-if="shape"
      class="pen"
      x="0"
      y="0"
      :width="width"
      :height="height"
      @pointerdown.stop="down"
      @pointermove="move"
      @pointerup="up"
    />
  </g>
</template>

<style scoped lang="scss">
.marks {
  stroke: #fff;
  pointer-events: none;
}
.amber {
  stroke: #ffb000;
}
.sky {
  stroke: #56c4ff;
}
.under {
  stroke: rgba(0, 0, 0, 0.6);
}
text {
  fill: #fff;
  stroke: rgba(0, 0, 0, 0.6);
  stroke-width: 0.25em;
  paint-order: stroke;
}
.pen {
  fill: transparent;
  stroke: none;
  pointer-events: all;
  cursor: crosshair;
}
</style>
