<script setup lang="ts">
import { computed } from 'vue'
import { curve, jointAt, nearSide, type CurveId } from './curves'
import type { AnalysisDocument, Lift } from '@/api/client'

/** Angles of the side towards the camera beside their joints, and the line through the middle of the foot. */
const props = defineProps<{
  analysis: AnalysisDocument
  lift: Lift
  frame: number
  stroke: number
  angles: boolean
  midFoot: boolean
}>()

const ANGLES: { id: CurveId; joint: string }[] = [
  { id: 'trunk', joint: 'shoulder' },
  { id: 'hip', joint: 'hip' },
  { id: 'knee', joint: 'knee' },
]
const behind = computed(() => (nearSide(props.analysis) === 'left' ? 1 : -1))
const place = (part: string) => jointAt(props.analysis, part, props.frame)
const curves = computed(() => ANGLES.map(({ id }) => curve(id, props.analysis, props.lift)))
const told = computed(() =>
  ANGLES.flatMap(({ id, joint }, index) => {
    const row = props.frame - props.lift.bar.first_frame
    const value = curves.value[index]!.values[row]
    const sd = curves.value[index]!.sd?.[row] ?? 0
    const at = place(joint)
    return at && value != null ? [{ id, ...at, says: `${value.toFixed(0)}° ± ${sd.toFixed(0)}` }] : []
  }),
)
const foot = computed(() => {
  const [heel, toe] = [place('heel'), place('toe')]
  if (!heel || !toe || !props.analysis.scale) return null
  const [x, y] = [(heel.x + toe.x) / 2, Math.max(heel.y, toe.y)]
  const lean = Math.tan((props.analysis.scale.plumb_deg * Math.PI) / 180)
  return { x1: x, y1: y, x2: x + lean * y, y2: 0 }
})
</script>

<template>
  <g class="readings">
    <template v-if="midFoot && foot">
      <line v-bind="foot" :stroke-width="stroke * 0.8" :stroke-dasharray="`${stroke} ${stroke * 2.5}`" />
      <text :x="foot.x1 - stroke * 4" :y="foot.y1 + stroke * 2" text-anchor="end" :font-size="stroke * 6.5">
        mid-foot
      </text>
    </template>
    <template v-if="angles">
      <text
        v-for="one in told"
        :key="one.id"
        :x="one.x + behind * stroke * 7"
        :y="one.y + stroke * 2.5"
        :text-anchor="behind < 0 ? 'end' : 'start'"
        :font-size="stroke * 7.5"
        :data-angle="one.id"
      >
        {{ one.id }}: {{ one.says }}
      </text>
    </template>
  </g>
</template>

<style scoped lang="scss">
.readings {
  stroke: #fff;
  pointer-events: none;
}
text {
  fill: #fff;
  stroke: rgba(0, 0, 0, 0.65);
  stroke-width: 0.22em;
  paint-order: stroke;
}
</style>
