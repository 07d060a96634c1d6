import { computed, onBeforeUnmount, ref, shallowRef, watch, type Ref } from 'vue'
import { openSource, type FrameSource } from './source'

/**
 * The footage on a canvas, one frame at a time. `shown` is the frame that stands on the canvas now and the only frame number anything
 * else on the screen may use: it changes after the drawing, never before.
 */
export function useFootage(
  canvas: Ref<HTMLCanvasElement | null>,
  url: Ref<string>,
  times: Ref<readonly number[] | null>,
) {
  const shown = ref(0)
  const playing = ref(false)
  const ready = ref(false)
  const trouble = ref('')
  const source = shallowRef<FrameSource | null>(null)
  const last = computed(() => Math.max((times.value?.length ?? 1) - 1, 0))
  let wanted = 0
  let stepping = false
  /** What stands on the canvas is surely the frame that is said: a video may show its next picture before it says so while it plays. */
  let sure = true
  let stop: AbortController | null = null
  let played: Promise<void> = Promise.resolve()

  watch(
    [url, () => Boolean(times.value), canvas],
    async ([address, has, surface]) => {
      void pause()
      source.value?.close()
      source.value = null
      ready.value = false
      if (!has || !surface) return
      try {
        const opened = await openSource(address, times.value!)
        if (address !== url.value) return opened.close()
        source.value = opened
        shown.value = await opened.draw(Math.min(wanted, last.value), surface)
        ready.value = true
        trouble.value = ''
      } catch (error) {
        trouble.value = (error as Error).message
      }
    },
    { immediate: true },
  )

  /** Go to a frame. */
  function go(frame: number) {
    void pause()
    wanted = Math.min(Math.max(Math.round(frame), 0), last.value)
    return draw()
  }

  /** Draw what is wanted. One drawing is under way at a time; while it is, only the newest wish is kept. */
  async function draw() {
    if (stepping || !source.value || !canvas.value) return
    stepping = true
    try {
      while ((wanted !== shown.value || !sure) && source.value) {
        const drawn = await source.value.draw(wanted, canvas.value)
        sure = true
        if (drawn === shown.value && drawn !== wanted) break
        shown.value = drawn
        trouble.value = ''
      }
    } catch (error) {
      trouble.value = (error as Error).message
    } finally {
      stepping = false
    }
  }

  /** One step from where the hand already is, so that quick presses are not swallowed. */
  const step = (by: number) => go((stepping ? wanted : shown.value) + by)

  /** Play on from here; given a stretch of frames, that stretch over and over. Resolves when it has stopped and the frame stands. */
  function play(speed = 1, stretch: readonly [number, number] | null = null): Promise<void> {
    // A stretch of one frame would be over before it has begun, and begun again for ever.
    const over = stretch && stretch[1] > stretch[0] ? stretch : null
    if (source.value && canvas.value && !playing.value) played = playOn(source.value, canvas.value, speed, over)
    return played
  }

  async function playOn(
    footage: FrameSource,
    surface: HTMLCanvasElement,
    speed: number,
    stretch: readonly [number, number] | null,
  ) {
    const outside = stretch && (shown.value < stretch[0] || shown.value >= stretch[1])
    let from = outside ? stretch[0] : !stretch && shown.value >= last.value ? 0 : shown.value
    const mine = new AbortController()
    stop = mine
    playing.value = true
    try {
      do {
        const round = new AbortController()
        const end = () => round.abort()
        mine.signal.addEventListener('abort', end)
        sure = false
        await footage.play(
          from,
          speed,
          surface,
          (frame) => {
            shown.value = wanted = frame
            if (stretch && frame >= stretch[1]) round.abort()
          },
          round.signal,
        )
        mine.signal.removeEventListener('abort', end)
        from = stretch?.[0] ?? 0
      } while (stretch && !mine.signal.aborted && source.value)
      await draw()
    } catch (error) {
      // Leaving the page closes the source under a playing clip; that is no trouble to speak of.
      if (!mine.signal.aborted) trouble.value = (error as Error).message
    }
    playing.value = false
  }

  /** Stop playing; resolves when the frame where it stopped stands on the canvas. */
  function pause(): Promise<void> {
    stop?.abort()
    return played
  }

  onBeforeUnmount(() => {
    void pause()
    source.value?.close()
    source.value = null
  })

  return { shown, last, playing, ready, trouble, go, step, play, pause }
}
