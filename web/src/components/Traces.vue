<script setup lang="ts">
import uPlot from 'uplot'
import 'uplot/dist/uPlot.min.css'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { curve, CURVES, limitsOn, onClock, type CurveId, type LimitLine, gridLines } from './curves'
import type { LaidOver } from './laidOver'
import type { AnalysisDocument, Lift } from '@/api/client'
import { words } from '@/format/quantity'

/**
 * Three traces of the lift on the clip's own clock, of bar and body, as the coach chooses. A click goes to that frame. Another lift that
 * is laid over this one is drawn dashed.
 */
const props = defineProps<{
  analysis: AnalysisDocument
  lift: Lift
  frame: number
  other?: LaidOver | null
  /** How loud every frame of the clip is, where that was asked for. */
  loudness?: readonly number[] | null
}>()
const emit = defineEmits<{ go: [frame: number] }>()
const shown = defineModel<CurveId[]>('shown', { required: true })

const UNSURE_BELOW = 0.5
const box = ref<HTMLElement | null>(null)
const plots: uPlot[] = []
const told = (id: CurveId) => CURVES.find((one) => one.id === id)!
const time = computed(() => props.analysis.clip.frame_time_s)
const events = computed(() => Object.entries(props.lift.events).map(([name, event]) => ({ name, time: event.time_s })))
function choose(place: number, id: string) {
  shown.value = shown.value.map((one, i) => (i === place ? (id as CurveId) : one))
}

/** Stretches in which the disc was hardly seen or not at all, s: the coach looks there first. */
const unsure = computed(() => {
  const out: [number, number][] = []
  const { confidence } = props.analysis.disc
  const half = 0.5 / props.analysis.clip.capture_rate_hz
  for (let frame = props.lift.start_frame; frame <= props.lift.end_frame; frame++) {
    if ((confidence?.[frame] ?? 0) >= UNSURE_BELOW) continue
    const when = time.value[frame]!
    const last = out.at(-1)
    if (last && when - last[1] < 3 * half) last[1] = when + half
    else out.push([when - half, when + half])
  }
  return out
})

const QUIET = 10
/** Where nothing is known there is still a scale, so that the traces stay below each other; a quiet room is not drawn as a loud one. */
function scaleOf(id: CurveId, values: (number | null)[]): uPlot.Scales {
  const known = values.filter((v) => v !== null)
  if (!known.length) return { y: { range: [0, 1] } }
  return id === 'sound' ? { y: { range: [0, Math.max(QUIET, ...known)] } } : {}
}

function colour(name: string) {
  return getComputedStyle(document.documentElement).getPropertyValue(name).trim()
}

function build() {
  for (const plot of plots.splice(0)) plot.destroy()
  const host = box.value
  if (!host) return
  host.replaceChildren()
  const x = props.lift.bar.time_s as number[]
  const each = Math.max(Math.floor(host.clientHeight / shown.value.length), 58)
  // On a large screen words are larger, and what is drawn grows with them.
  const grown = parseFloat(getComputedStyle(document.documentElement).fontSize) / 16
  const font = `${11 * grown}px "Archivo Variable"`
  shown.value.forEach((id, index) => {
    const { values, sd } = curve(id, props.analysis, props.lift, props.loudness)
    const other = props.other
    const theirs = other && onClock(x, other.lift, curve(id, other.analysis, other.lift).values, other.time)
    const limits = limitsOn(id, props.analysis, props.lift)
    const edge = (sign: number) => values.map((v, row) => (v === null || !sd ? null : v + sign * (sd[row] ?? 0)))
    const bottom = index === shown.value.length - 1
    const options: uPlot.Options = {
      width: host.clientWidth,
      height: each,
      // Room at the right for half of the last time.
      padding: [17 * grown, 18 * grown, bottom ? 0 : 6 * grown, 0],
      legend: { show: false },
      cursor: { y: false, x: false, points: { show: false }, drag: { x: false, y: false } },
      scales: { x: { time: false }, ...scaleOf(id, values) },
      axes: [
        {
          show: bottom,
          size: 20 * grown,
          stroke: colour('--quiet'),
          grid: { show: false },
          ticks: { show: false },
          font,
          space: 50 * grown,
          // Steps that a tenth of a second can say.
          incrs: [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 30, 60],
          values: (_, splits) => splits.map((s) => `${s.toFixed(1)} s`),
        },
        {
          size: 40 * grown,
          stroke: colour('--quiet'),
          grid: { stroke: colour('--rule'), width: 0.5 },
          ticks: { show: false },
          font,
          space: 13 * grown,
          splits: (_, __, low, high, step) => gridLines(low, high, step),
          values: (_, splits) => splits.map((s) => String(s).replace('-', '−')),
        },
      ],
      series: [
        {},
        { stroke: colour('--trace'), width: 1.6 * grown, pxAlign: 0, points: { show: false } },
        { width: 0, points: { show: false } },
        { width: 0, points: { show: false } },
        { stroke: colour('--quiet'), width: 1.4, dash: [5, 4], pxAlign: 0, points: { show: false } },
      ],
      bands: [{ series: [2, 3], fill: `color-mix(in srgb, ${colour('--trace')} 22%, transparent)` }],
      hooks: { draw: [(plot) => drawLimits(plot, limits), marks, pointAtFrame] },
    }
    const rows = [x, values, edge(1), edge(-1), theirs ?? x.map(() => null)]
    const plot = new uPlot(options, rows as uPlot.AlignedData, host)
    plot.over.addEventListener('click', (event) => emit('go', nearest(plot.posToVal(event.offsetX, 'x'))))
    plot.over.title = 'Click to go to this frame'
    const now = document.createElement('i')
    now.className = 'now'
    plot.over.append(now)
    plots.push(plot)
  })
}

/** The line at the frame on show is an element of its own: moving it costs nothing, drawing three traces again does. */
function pointAtFrame() {
  const when = time.value[props.frame] ?? 0
  for (const plot of plots) {
    const line = plot.over.querySelector<HTMLElement>('.now')!
    const x = plot.valToPos(when, 'x')
    line.hidden = x < -1 || x > plot.over.clientWidth + 1
    line.style.transform = `translateX(${x}px)`
  }
}

function marks(plot: uPlot) {
  const { ctx, bbox } = plot
  const line = (when: number, style: string, width: number, dash: number[] = []) => {
    const x = plot.valToPos(when, 'x', true)
    if (x < bbox.left - 1 || x > bbox.left + bbox.width + 1) return
    ctx.beginPath()
    ctx.setLineDash(dash)
    ctx.lineWidth = width * devicePixelRatio
    ctx.strokeStyle = style
    ctx.moveTo(x, bbox.top)
    ctx.lineTo(x, bbox.top + bbox.height)
    ctx.stroke()
  }
  ctx.save()
  const quiet = colour('--quiet')
  ctx.globalAlpha = 0.18
  ctx.fillStyle = quiet
  for (const [from, to] of unsure.value) {
    const left = plot.valToPos(from, 'x', true)
    ctx.fillRect(left, bbox.top, Math.max(plot.valToPos(to, 'x', true) - left, devicePixelRatio), bbox.height)
  }
  ctx.globalAlpha = 1
  for (const event of events.value) line(event.time, quiet, 0.6, [2 * devicePixelRatio, 3 * devicePixelRatio])
  ctx.restore()
}

/** Where a limit lies at the moment its number is taken: from there on it is watched, from the thicker line on it is a fault. */
function drawLimits(plot: uPlot, limits: LimitLine[]) {
  const { ctx, bbox } = plot
  ctx.save()
  ctx.beginPath()
  ctx.rect(bbox.left, bbox.top, bbox.width, bbox.height)
  ctx.clip()
  ctx.strokeStyle = colour('--bs-body-color')
  for (const limit of limits) {
    const x = plot.valToPos(limit.time, 'x', true)
    for (const [value, width] of [
      [limit.watch, 1],
      [limit.fault, 2.2],
    ] as const) {
      const y = plot.valToPos(value, 'y', true)
      const reach = 9 * devicePixelRatio
      const away = (limit.above ? -4 : 4) * devicePixelRatio
      ctx.lineWidth = width * devicePixelRatio
      ctx.beginPath()
      ctx.moveTo(x - reach, y + away)
      ctx.lineTo(x - reach, y)
      ctx.lineTo(x + reach, y)
      ctx.lineTo(x + reach, y + away)
      ctx.stroke()
    }
  }
  ctx.restore()
}

function nearest(when: number): number {
  const times = time.value
  let best = 0
  for (let i = 1; i < times.length; i++) if (Math.abs(times[i]! - when) < Math.abs(times[best]! - when)) best = i
  return best
}

let watcher: ResizeObserver | null = null
let looks: MutationObserver | null = null
onMounted(() => {
  build()
  watcher = new ResizeObserver(build)
  watcher.observe(box.value!)
  looks = new MutationObserver(build)
  looks.observe(document.documentElement, { attributeFilter: ['data-bs-theme'] })
})
onBeforeUnmount(() => {
  watcher?.disconnect()
  looks?.disconnect()
  for (const plot of plots) plot.destroy()
})
watch(() => [props.lift, props.other, props.loudness, shown.value], build)
watch(() => props.frame, pointAtFrame)
</script>

<template>
  <div class="traces" data-test="traces">
    <div
      ref="box"
      class="box"
      role="img"
      :aria-label="`${shown.map((id) => told(id).label).join('; ')}. Positions: ${events.map((e) => words(e.name)).join(', ')}`"
    />
    <select
      v-for="(id, place) in shown"
      :key="place"
      class="caption"
      :style="{ top: `${(place * 100) / shown.length}%` }"
      :value="id"
      :aria-label="`Trace ${place + 1}`"
      @change="choose(place, ($event.target as HTMLSelectElement).value)"
    >
      <option v-for="one in CURVES" :key="one.id" :value="one.id">{{ one.label }}, {{ one.unit }}</option>
    </select>
  </div>
</template>

<style scoped lang="scss">
.traces {
  height: 100%;
  contain: strict;
}
.box {
  height: 100%;
  overflow: hidden;
  cursor: crosshair;
  :deep(.uplot) {
    position: relative;
    font-family: inherit;
  }
  :deep(.now) {
    position: absolute;
    top: 0;
    bottom: 0;
    left: -0.7px;
    width: 1.4px;
    background: var(--bs-body-color);
    pointer-events: none;
    will-change: transform;
  }
}
.caption {
  position: absolute;
  left: 2.75rem;
  margin-top: 0;
  font-size: 0.74rem;
  color: var(--quiet);
  background: color-mix(in srgb, var(--panel) 75%, transparent);
  border: 0;
  padding: 0 0.1rem;
  field-sizing: content;
  &:hover,
  &:focus {
    color: var(--bs-body-color);
  }
}
</style>
