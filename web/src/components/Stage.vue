<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import Body from '@/components/Body.vue'
import Distances from '@/components/Distances.vue'
import FromFront from '@/components/FromFront.vue'
import Ghost from '@/components/Ghost.vue'
import Marks from '@/components/Marks.vue'
import Readings from '@/components/Readings.vue'
import { inside, lineWidth, transform, WHOLE, zoomed, type View } from './closer'
import { barReading, fromSide, jointAt } from './curves'
import type { LaidOver } from './laidOver'
import { SHAPES, type Ink, type Shape } from '@/components/marks'
import type { Picking } from '@/components/picking'
import { quantity, words } from '@/format/quantity'
import type { Angle } from '@/stores/looks'
import type { AnalysisDocument, Finding, Lift, Schemas } from '@/api/client'

/**
 * The footage with what was measured drawn over it. Everything drawn belongs to `frame`, the frame that stands on the canvas.
 */
const props = defineProps<{
  analysis: AnalysisDocument
  lift: Lift | null
  frame: number
  corrected: number[]
  showPath: boolean
  showPlumb: boolean
  showBody: boolean
  /** The angles that stand beside their joints. */
  angles?: readonly Angle[]
  showDistances?: boolean
  showMidFoot?: boolean
  showBalance?: boolean
  showOwnStart?: boolean
  /** The finding whose numbers are drawn where they were measured. */
  finding?: Finding | null
  labelOf?: (measure: string) => string
  /** What the coach drew, and the shape that is being drawn. */
  marks?: Schemas['Mark'][]
  shape?: Shape | null
  ink?: Ink
  /** Another lift laid over this one. */
  other?: LaidOver | null
  jointsSet: string[]
  movable: boolean
  /** Two points are being picked: what has been clicked so far. */
  picking: Picking
  picked: { x: number; y: number }[]
  /** Shown as in a mirror, but for what is written. */
  mirrored?: boolean
  /** What the closer view follows: the bar, a joint of the side towards the camera, or nothing. */
  follow?: string
  /** Looked at as it was once, whatever is followed or enlarged now. */
  then?: View | null
}>()
const emit = defineEmits<{
  move: [x: number, y: number]
  moveJoint: [joint: string, x: number, y: number]
  pick: [x: number, y: number]
  drawn: [shape: Shape, points: number[][]]
  /** Something else is enlarged. */
  looked: [view: View]
}>()
const canvas = defineModel<HTMLCanvasElement | null>('canvas', { required: true })

const svg = ref<SVGSVGElement | null>(null)
const view = ref<View>(WHOLE)
/** Where what is followed is in this frame, as shares of the picture. */
const followed = computed(() => {
  if (!props.follow) return null
  const held = props.follow === 'bar' ? at(props.frame) : jointAt(props.analysis, props.follow, props.frame)
  return held && { x: held.x / width.value, y: held.y / height.value }
})
const own = computed(() =>
  followed.value && view.value.zoom > 1 ? inside({ ...view.value, ...followed.value }) : view.value,
)
watch(own, (view) => emit('looked', view))
const seen = computed(() => props.then ?? own.value)
const nearer = computed(() => seen.value.zoom > 1)
function wheel(event: WheelEvent) {
  const point = toPicture(event)
  view.value = zoomed(seen.value, event.deltaY < 0 ? 1.25 : 0.8, point.x / width.value, point.y / height.value)
}
/** Closer or further by keys, about what is in the middle. */
function closer(factor: number) {
  view.value = factor === 0 ? WHOLE : zoomed(seen.value, factor, seen.value.x, seen.value.y)
}
let panFrom: { x: number; y: number; view: View } | null = null
function panStart(event: PointerEvent) {
  if (!nearer.value || props.picking || props.follow) return
  panFrom = { x: event.clientX, y: event.clientY, view: seen.value }
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
}
function pan(event: PointerEvent) {
  if (!panFrom) return
  const box = svg.value!.getBoundingClientRect()
  view.value = inside({
    zoom: panFrom.view.zoom,
    x: panFrom.view.x - ((props.mirrored ? -1 : 1) * (event.clientX - panFrom.x)) / box.width,
    y: panFrom.view.y - (event.clientY - panFrom.y) / box.height,
  })
}
defineExpose({ closer })
const held = ref<{ x: number; y: number } | null>(null)

const width = computed(() => props.analysis.clip.width)
const height = computed(() => props.analysis.clip.height)
/** The longer side of the picture on the screen, px. */
const long = ref(0)
const watcher = new ResizeObserver(() => {
  const { clientWidth, clientHeight } = svg.value!.parentElement!
  long.value = Math.max(clientWidth, clientHeight)
})
onMounted(() => watcher.observe(svg.value!))
onBeforeUnmount(() => watcher.disconnect())
const stroke = computed(() => lineWidth(Math.max(width.value, height.value), long.value, seen.value.zoom))

const at = (frame: number) => {
  const x = props.analysis.disc.x_px?.[frame]
  const y = props.analysis.disc.y_px?.[frame]
  return x == null || y == null ? null : { x, y }
}
const disc = computed(() => held.value ?? at(props.frame))
const radius = computed(() => props.analysis.disc.radius_px?.[props.frame] ?? 40)

/** The fastest that the bar goes up; what is faster on its way down after the lift shares that shade. */
const top = computed(() => Math.max(0.1, ...(props.lift?.bar.vy_m_s ?? []).map((v) => v ?? 0)))
/** The path in short pieces, each with its own speed. */
const pieces = computed(() => {
  const lift = props.lift
  if (!lift) return []
  const out: { d: string; shade: string }[] = []
  const last = Math.min(lift.events.release?.frame ?? lift.end_frame, lift.end_frame)
  for (let frame = lift.start_frame; frame < last; frame++) {
    const a = at(frame)
    const b = at(frame + 1)
    if (!a || !b) continue
    const speed = Math.hypot(
      lift.bar.vx_m_s[frame - lift.bar.first_frame] ?? 0,
      lift.bar.vy_m_s[frame - lift.bar.first_frame] ?? 0,
    )
    out.push({ d: `M${a.x} ${a.y}L${b.x} ${b.y}`, shade: shade(speed / top.value) })
  }
  return out
})

/** Slow is a cool grey-blue, fast a light yellow: lightness rises with speed, so it reads without colour too. */
function shade(share: number): string {
  const s = Math.min(Math.max(share, 0), 1)
  return `oklch(${(52 + 42 * s).toFixed(1)}% ${(0.06 + 0.1 * s).toFixed(3)} ${(250 - 150 * s).toFixed(0)})`
}

const plumb = computed(() => {
  const lift = props.lift
  if (!lift || !props.analysis.scale) return null
  const { lift_off, dip_start, press_start } = lift.events
  const start = at((lift_off ?? dip_start ?? press_start)?.frame ?? lift.start_frame)
  if (!start) return null
  const lean = (props.analysis.scale.plumb_deg * Math.PI) / 180
  const up = start.y
  const down = height.value - start.y
  return {
    x1: start.x + Math.tan(lean) * up,
    y1: 0,
    x2: start.x - Math.tan(lean) * down,
    y2: height.value,
    startX: start.x,
    startY: start.y,
  }
})

/** A ruler of 10 cm steps along the foot of the plumb line. */
const ruler = computed(() => {
  if (!plumb.value || !props.analysis.scale) return []
  const step = 0.1 / props.analysis.scale.m_per_px
  const below = plumb.value.startY + (props.analysis.scale.disc_diameter_m / 2 + 0.03) / props.analysis.scale.m_per_px
  const y = Math.min(below, height.value - 11 * stroke.value)
  // Where two labels would not stand beside each other, the ends alone have one.
  const each = step > 9 * stroke.value
  return [-3, -2, -1, 0, 1, 2, 3].map((n) => ({
    x: plumb.value!.startX + n * step,
    y,
    label: each || n % 3 === 0 ? `${Math.abs(n) * 10}` : '',
  }))
})

/** Until here the start is still to be seen: the bar passes the knees, or rises. */
const offTheFloor = computed(
  () => (props.lift?.events.knee ?? props.lift?.events.lift_off)?.frame ?? props.lift?.start_frame ?? 0,
)
const reading = computed(() => props.lift && barReading(props.lift, props.frame))

function toPicture(event: { clientX: number; clientY: number }) {
  const box = svg.value!.getBoundingClientRect()
  return {
    x: ((props.mirrored ? box.right - event.clientX : event.clientX - box.left) / box.width) * width.value,
    y: ((event.clientY - box.top) / box.height) * height.value,
  }
}
function pick(event: PointerEvent) {
  if (!props.picking) return
  const point = toPicture(event)
  emit('pick', point.x, point.y)
}
let grip = { x: 0, y: 0 }
function take(event: PointerEvent) {
  if (!props.movable || props.picking || !disc.value) return
  const point = toPicture(event)
  grip = { x: disc.value.x - point.x, y: disc.value.y - point.y }
  held.value = { ...disc.value }
  ;(event.target as Element).setPointerCapture(event.pointerId)
}
function drag(event: PointerEvent) {
  if (!held.value) return
  const point = toPicture(event)
  held.value = {
    x: Math.min(Math.max(point.x + grip.x, 0), width.value - 1),
    y: Math.min(Math.max(point.y + grip.y, 0), height.value - 1),
  }
}
function drop() {
  if (!held.value) return
  const { x, y } = held.value
  const before = at(props.frame)
  held.value = null
  if (!before || Math.hypot(before.x - x, before.y - y) > 0.4) emit('move', x, y)
}
function nudge(event: KeyboardEvent) {
  const by: Record<string, [number, number]> = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, -1],
    ArrowDown: [0, 1],
  }
  const move = by[event.key]
  if (!move || !event.altKey || !disc.value || !props.movable) return
  event.preventDefault()
  event.stopPropagation()
  emit('move', disc.value.x + move[0], disc.value.y + move[1])
}
</script>

<template>
  <div class="area">
    <div
      :class="['stage', { mirrored }]"
      :style="{ aspectRatio: `${width} / ${height}`, '--shape': width / height, transform: transform(seen) }"
      :data-zoom="seen.zoom"
      @wheel.prevent="wheel"
    >
      <canvas
        :ref="(element) => (canvas = element as HTMLCanvasElement | null)"
        :width="width"
        :height="height"
        aria-label="Footage"
      />
      <svg
        ref="svg"
        :viewBox="`0 0 ${width} ${height}`"
        role="group"
        :aria-label="`Frame ${frame} with the bar's path`"
        :data-frame="frame"
        :class="{ picking: picking !== null }"
        @pointerdown="(event) => (pick(event), panStart(event))"
        @pointermove="pan"
        @pointerup="panFrom = null"
      >
        <g v-if="showPlumb && plumb" class="plumb" :stroke-width="stroke * 0.7">
          <line
            v-bind="{ x1: plumb.x1, y1: plumb.y1, x2: plumb.x2, y2: plumb.y2 }"
            :stroke-dasharray="`${stroke * 4} ${stroke * 3}`"
          />
          <g v-for="tick in ruler" :key="tick.x">
            <line :x1="tick.x" :x2="tick.x" :y1="tick.y - stroke * 2" :y2="tick.y + stroke * 2" />
            <text :x="tick.x" :y="tick.y + stroke * 8" :font-size="stroke * 6">{{ tick.label }}</text>
          </g>
          <text
            v-if="ruler.length"
            :x="ruler.at(-1)!.x + stroke * 9"
            :y="ruler[0]!.y + stroke * 8"
            :font-size="stroke * 6"
          >
            cm
          </text>
        </g>
        <FromFront v-if="showPath && !fromSide(analysis)" :analysis="analysis" :frame="frame" :stroke="stroke" />
        <g v-else-if="showPath" v-memo="[pieces, stroke]" fill="none" stroke-linecap="round" class="path">
          <path class="under" :d="pieces.map((piece) => piece.d).join('')" :stroke-width="stroke * 2.4" />
          <path
            v-for="(piece, index) in pieces"
            :key="index"
            :d="piece.d"
            :stroke="piece.shade"
            :stroke-width="stroke * 1.5"
          />
        </g>
        <OwnStart
          v-if="showOwnStart && lift && frame <= offTheFloor"
          :analysis="analysis"
          :lift="lift"
          :stroke="stroke"
        />
        <Ghost v-if="other && lift" :analysis="analysis" :lift="lift" :frame="frame" :stroke="stroke" :other="other" />
        <Body
          v-if="showBody"
          :analysis="analysis"
          :frame="frame"
          :stroke="stroke"
          :movable="movable && !picking"
          :set="jointsSet"
          :to-picture="toPicture"
          @move="(joint, x, y) => emit('moveJoint', joint, x, y)"
        />
        <g v-if="disc && fromSide(analysis)" class="disc" :class="{ movable, corrected: corrected.includes(frame) }">
          <circle class="rim" :cx="disc.x" :cy="disc.y" :r="radius" :stroke-width="stroke * 0.6" />
          <circle class="bar" :cx="disc.x" :cy="disc.y" :r="stroke * 2.6" :stroke-width="stroke * 0.9" />
          <circle
            class="handle"
            :cx="disc.x"
            :cy="disc.y"
            :r="Math.max(radius * 0.28, stroke * 7)"
            tabindex="0"
            role="slider"
            aria-label="Disc centre. Drag it, or move it with Alt and the arrow keys"
            :aria-valuetext="`${Math.round(disc.x)}, ${Math.round(disc.y)} pixels`"
            :aria-valuenow="frame"
            @pointerdown.stop="take"
            @pointermove="drag"
            @pointerup="drop"
            @keydown="nudge"
          />
        </g>
        <Readings
          v-if="lift && (angles?.length || showMidFoot || showBalance)"
          :analysis="analysis"
          :lift="lift"
          :frame="frame"
          :stroke="stroke"
          :angles="angles ?? []"
          :mid-foot="showMidFoot ?? false"
          :balance="showBalance ?? false"
        />
        <Distances v-if="lift && showDistances" :analysis="analysis" :lift="lift" :frame="frame" :stroke="stroke" />
        <Callouts
          v-if="finding"
          :frame="frame"
          :width="width"
          :stroke="stroke"
          :finding="finding"
          :label-of="labelOf ?? words"
        />
        <Marks
          v-if="marks?.length || shape"
          :marks="(marks ?? []).filter((mark) => mark.frame === frame)"
          :frame="frame"
          :width="width"
          :height="height"
          :stroke="stroke"
          :shape="shape ?? null"
          :ink="ink ?? 'white'"
          :to-picture="toPicture"
          @drawn="(shape, points) => emit('drawn', shape, points)"
        />
        <g v-if="picking" class="picked" :stroke-width="stroke * 0.8">
          <rect
            v-if="picked.length === 2 && picking === 'lifter'"
            fill="none"
            :x="Math.min(picked[0]!.x, picked[1]!.x)"
            :y="Math.min(picked[0]!.y, picked[1]!.y)"
            :width="Math.abs(picked[0]!.x - picked[1]!.x)"
            :height="Math.abs(picked[0]!.y - picked[1]!.y)"
          />
          <line
            v-else-if="picked.length === 2"
            :x1="picked[0]!.x"
            :y1="picked[0]!.y"
            :x2="picked[1]!.x"
            :y2="picked[1]!.y"
          />
          <path
            v-for="(point, index) in picked"
            :key="index"
            :d="`M${point.x - stroke * 5} ${point.y}h${stroke * 10}M${point.x} ${point.y - stroke * 5}v${stroke * 10}`"
          />
        </g>
      </svg>
    </div>
    <div class="reading">
      <span class="frame-no" data-test="frame">Frame {{ frame }}</span>
      <template v-if="reading">
        <span>{{ reading.height }}</span><span>{{ reading.aside }}</span
        ><span>{{ reading.speed }}</span>
      </template>
      <span v-if="corrected.includes(frame)">set by you</span>
    </div>
    <p v-if="shape" class="how">{{ SHAPES.find((one) => one.id === shape)!.how }}</p>
    <div v-if="showPath && lift && fromSide(analysis)" class="legend" aria-hidden="true">
      0<i :style="{ background: `linear-gradient(90deg, ${[0, 0.25, 0.5, 0.75, 1].map(shade).join(', ')})` }" />{{
        quantity(top, 'm/s').figure
      }}
      m/s
    </div>
  </div>
</template>

<style scoped lang="scss">
.area {
  position: absolute;
  inset: 0;
  container-type: size;
  display: grid;
  place-items: center;
}
.stage {
  position: relative;
  width: min(100cqw, 100cqh * var(--shape));
  background: #000;
  user-select: none;
}
.mirrored {
  /* Not a transform, which looking closer would replace. */
  scale: -1 1;
  :deep(text) {
    transform-box: fill-box;
    transform-origin: center;
    transform: scaleX(-1);
  }
}
canvas,
svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.plumb {
  stroke: #fff;
  opacity: 0.75;
  text {
    fill: #fff;
    stroke: none;
    text-anchor: middle;
  }
}
.path .under {
  stroke: rgba(0, 0, 0, 0.55);
}
.picking {
  cursor: crosshair;
  .disc {
    pointer-events: none;
  }
}
.picked {
  stroke: #fff;
  fill: none;
  pointer-events: none;
}
.disc {
  .rim {
    fill: none;
    stroke: rgba(255, 255, 255, 0.5);
  }
  .bar {
    fill: none;
    stroke: #fff;
  }
  .handle {
    fill: transparent;
    outline-offset: 0;
    &:focus-visible {
      stroke: #fff;
      stroke-dasharray: 4 4;
      outline: none;
    }
  }
  &.movable .handle {
    cursor: grab;
  }
  &.corrected .bar {
    fill: #fff;
  }
}
.reading,
.legend,
.how {
  position: absolute;
  font-size: 0.8rem;
  color: #f3f3ef;
  background: rgba(10, 12, 13, 0.62);
  padding: 0.12rem 0.5rem;
  pointer-events: none;
}
.reading {
  left: 0;
  top: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 0 0.9rem;
  .frame-no {
    font-weight: 640;
    min-width: 4.8rem;
  }
}
.how {
  left: 0;
  bottom: 0;
  margin: 0;
}
.legend {
  right: 0;
  top: 0;
  display: flex;
  align-items: center;
  gap: 0.35rem;
  i {
    width: 5rem;
    height: 5px;
  }
}
/* Beside others a picture is small: what is read stays, the scale of the shades goes. */
@container (max-width: 560px) {
  .legend {
    display: none;
  }
}
</style>
