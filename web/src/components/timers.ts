/** Timers that count real seconds: they read the clock each time they are looked at and never add up ticks. */
import { onScopeDispose, ref } from 'vue'

/** Seconds since `start`, looked at about twenty times a second while it runs. */
export function useClock(now: () => number = () => performance.now()) {
  const seconds = ref(0)
  const running = ref(false)
  let began = 0
  let timer: ReturnType<typeof setInterval> | undefined

  function look() {
    seconds.value = (now() - began) / 1000
  }
  function start() {
    stop()
    began = now()
    seconds.value = 0
    running.value = true
    timer = setInterval(look, 50)
  }
  function stop() {
    if (timer === undefined) return
    look()
    clearInterval(timer)
    timer = undefined
    running.value = false
  }
  onScopeDispose(stop)
  return { seconds, running, start, stop, look }
}

/** A rest as minutes and seconds, never below nothing. */
export function left(seconds: number): string {
  const whole = Math.max(Math.ceil(seconds), 0)
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, '0')}`
}
