<script setup lang="ts">
import { computed } from 'vue'
import { clear, curve, fromSide, jointAt, jointOf, middleOfFeet, nearSide } from './curves'
import type { AnalysisDocument, Lift } from '@/api/client'
import type { Angle } from '@/stores/looks'

/** Angles of the side towards the camera beside their joints, the line through the middle of the feet, and where the weight is over it. */
const props = defineProps<{
  analysis: AnalysisDocument
  lift: Lift
  frame: number
  stroke: number
  /** Those that are to stand beside their joints. */
  angles: readonly Angle[]
  midFoot: boolean
  balance: boolean
}>()

const JOINTS: Record<Angle, string> = { trunk: 'shoulder', elbow: 'elbow', hip: 'hip', knee: 'knee', shin: 'ankle' }
/** Which way is behind the lifter: 1 to the right of the picture, −1 to the left. */
const behind = computed(() => (nearSide(props.analysis) === 'left' ? 1 : -1))
const place = (part: string) => jointAt(props.analysis, part, props.frame)
const curves = computed(() => props.angles.map((id) => ({ id, ...curve(id, props.analysis, props.lift) })))
const told = computed(() =>
  curves.value.flatMap(({ id, values, sd: sds }) => {
    const row = props.frame - props.lift.bar.first_frame
    const value = values[row]
    const sd = sds?.[row] ?? 0
    const at = place(JOINTS[id])
    return at && value != null ? [{ id, ...at, says: `${value.toFixed(0)}° ± ${sd.toFixed(0)}` }] : []
  }),
)
/** In the start position hip and knee are at one height. */
const written = computed(() => clear(told.value, props.stroke * 8.5))
/** Under the line in which distances of the feet stand, as far as the picture goes. */
const below = (y: number) => Math.min(y + props.stroke * 10, props.analysis.clip.height - props.stroke * 2)
const foot = computed(() => {
  const middle = middleOfFeet(props.analysis, props.frame)
  if (!middle || !props.analysis.scale || !fromSide(props.analysis)) return null
  const { x, y } = middle
  const lean = Math.tan((props.analysis.scale.plumb_deg * Math.PI) / 180)
  return { x1: x, y1: y, x2: x + lean * y, y2: 0 }
})
/** The middle of both feet in the picture, and the line down which lifter and bar together press. */
const weight = computed(() => {
  const { balance, bar } = props.lift
  const row = props.frame - bar.first_frame
  const [off, sd] = [balance?.x_m[row], balance?.sd_m[row]]
  const scale = props.analysis.scale
  const feet = ['left_heel', 'left_toe', 'right_heel', 'right_toe'].map((joint) =>
    jointOf(props.analysis, joint, props.frame),
  )
  if (off == null || !scale || feet.some((foot) => !foot)) return null
  const known = feet as { x: number; y: number }[]
  const m_per_px = scale.body_m_per_px ?? scale.m_per_px
  const x = known.reduce((sum, foot) => sum + foot.x, 0) / 4 + ((behind.value < 0 ? 1 : -1) * off) / m_per_px
  const y = Math.max(...known.map((foot) => foot.y))
  const toe = behind.value < 0 ? Math.max(...known.map((foot) => foot.x)) : Math.min(...known.map((foot) => foot.x))
  const rise = 0.5 / m_per_px
  const lean = Math.tan((scale.plumb_deg * Math.PI) / 180)
  const says = `weight ${Math.abs(100 * off).toFixed(0)} cm ${off >= 0 ? 'ahead' : 'behind'} ± ${(100 * (sd ?? 0)).toFixed(0)}`
  return { line: { x1: x, y1: y, x2: x + lean * rise, y2: y - rise }, says, half: (sd ?? 0) / m_per_px, toe }
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
    <template v-if="balance && weight">
      <line v-bind="weight.line" :stroke-width="stroke * 1.2" />
      <line
        :x1="weight.line.x1 - weight.half"
        :x2="weight.line.x1 + weight.half"
        :y1="weight.line.y1 + stroke * 3"
        :y2="weight.line.y1 + stroke * 3"
        :stroke-width="stroke * 1.6"
      />
      <path
        class="foot"
        :d="`M${weight.line.x1} ${weight.line.y1}l${-stroke * 3} ${-stroke * 6}h${stroke * 6}z`"
        stroke="none"
      />
      <text
        :x="weight.toe - behind * stroke * 5"
        :y="below(weight.line.y1)"
        :text-anchor="behind < 0 ? 'start' : 'end'"
        :font-size="stroke * 6.5"
        data-test="weight"
      >
        {{ weight.says }}
      </text>
    </template>
    <text
      v-for="one in written"
      :key="one.id"
      :x="one.x + behind * stroke * 7"
      :y="one.y + stroke * 2.5"
      :text-anchor="behind < 0 ? 'end' : 'start'"
      :font-size="stroke * 7.5"
      :data-angle="one.id"
    >
      {{ one.id }}: {{ one.says }}
    </text>
  </g>
</template>

<style scoped lang="scss">
.readings {
  stroke: #fff;
  pointer-events: none;
}
.foot {
  fill: #fff;
}
text {
  fill: #fff;
  stroke: rgba(0, 0, 0, 0.65);
  stroke-width: 0.22em;
  paint-order: stroke;
}
</style>
