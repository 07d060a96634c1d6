<script setup lang="ts">
import uPlot from 'uplot'
import 'uplot/dist/uPlot.min.css'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import type { AnalysisDocument, Lift } from '@/api/client'
import { words } from '@/format/quantity'

/** Height, forward/back and speed of the bar on the clip's own clock. A click goes to that frame. */
const props = defineProps<{ analysis: AnalysisDocument; lift: Lift; frame: number }>()
const emit = defineEmits<{ go: [frame: number] }>()

const UNSURE_BELOW = 0.5
const box = ref<HTMLElement | null>(null)
const plots: uPlot[] = []
const ROWS = [
  { label: 'Height', unit: 'cm', values: (lift: Lift) => lift.bar.y_m.map((v) => (v === null ? null : v * 100)) },
  {
    label: 'Forward +, back −',
    unit: 'cm',
    values: (lift: Lift) => lift.bar.x_m.map((v) => (v === null ? null : v * 100)),
  },
  { label: 'Speed up +, down −', unit: 'm/s', values: (lift: Lift) => lift.bar.vy_m_s },
]
const time = computed(() => props.analysis.clip.frame_time_s)
const events = computed(() => Object.entries(props.lift.events).map(([name, event]) => ({ name, time: event.time_s })))

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

function colour(name: string) {
  return getComputedStyle(document.documentElement).getPropertyValue(name).trim()
}

function build() {
  for (const plot of plots.splice(0)) plot.destroy()
  const host = box.value
  if (!host) return
  host.replaceChildren()
  const x = props.lift.bar.time_s as number[]
  const each = Math.max(Math.floor(host.clientHeight / ROWS.length), 58)
  ROWS.forEach((row, index) => {
    const values = row.values(props.lift)
    const bottom = index === ROWS.length - 1
    const options: uPlot.Options = {
      width: host.clientWidth,
      height: each,
      // Room at the right for half of the last time.
      padding: [17, 18, bottom ? 0 : 6, 0],
      legend: { show: false },
      cursor: { y: false, x: false, points: { show: false }, drag: { x: false, y: false } },
      scales: { x: { time: false } },
      axes: [
        {
          show: bottom,
          size: 20,
          stroke: colour('--quiet'),
          grid: { show: false },
          ticks: { show: false },
          font: '11px "Archivo Variable"',
          values: (_, splits) => splits.map((s) => `${s.toFixed(1)} s`),
        },
        {
          size: 40,
          stroke: colour('--quiet'),
          grid: { stroke: colour('--rule'), width: 0.5 },
          ticks: { show: false },
          font: '11px "Archivo Variable"',
          space: 13,
          values: (_, splits) => splits.map((s) => String(s).replace('-', '−')),
        },
      ],
      series: [{}, { stroke: colour('--trace'), width: 1.6, pxAlign: 0, points: { show: false } }],
      hooks: { draw: [marks, pointAtFrame] },
    }
    const plot = new uPlot(options, [x, values as number[]], host)
    plot.over.addEventListener('click', (event) => emit('go', nearest(plot.posToVal(event.offsetX, 'x'))))
    plot.over.title = 'Click to go to this frame'
    const caption = document.createElement('span')
    caption.className = 'caption'
    caption.textContent = `${row.label}, ${row.unit}`
    plot.root.append(caption)
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
watch(() => props.lift, build)
watch(() => props.frame, pointAtFrame)
</script>

<template>
  <div
    ref="box"
    class="traces"
    data-test="traces"
    role="img"
    :aria-label="`Height, forward and back, and speed of the bar; events: ${events.map((e) => words(e.name)).join(', ')}`"
  />
</template>

<style scoped lang="scss">
.traces {
  height: 100%;
  contain: strict;
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
  :deep(.caption) {
    position: absolute;
    left: 48px;
    top: 1px;
    font-size: 0.72rem;
    color: var(--quiet);
    background: color-mix(in srgb, var(--panel) 75%, transparent);
    padding: 0 0.25rem;
    pointer-events: none;
  }
}
</style>
