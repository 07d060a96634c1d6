import { onBeforeUnmount, ref, watch, type Ref } from 'vue'

// Further off than this (s) the sound is put back to where the picture is; slower than this it is only noise.
const APART_S = 0.12
const SLOWEST = 0.25

/** The clip's sound beside its picture while that plays; off until asked for. */
export function useSound(
  url: Ref<string>,
  times: Ref<readonly number[] | null>,
  shown: Ref<number>,
  playing: Ref<boolean>,
  speed: Ref<number>,
) {
  const on = ref(false)
  const trouble = ref('')
  let audio: HTMLAudioElement | null = null
  const at = () => times.value?.[shown.value] ?? 0

  function silence() {
    audio?.pause()
    audio = null
  }
  async function sound() {
    if (!on.value || !playing.value || speed.value < SLOWEST) return audio?.pause()
    if (!audio) {
      audio = new Audio(url.value)
      audio.onerror = () => {
        trouble.value = 'This clip has no sound that can be played.'
        on.value = false
      }
    }
    audio.currentTime = at()
    audio.playbackRate = speed.value
    // Stopped again before it began: no trouble.
    await audio.play().catch(() => null)
  }
  watch([on, playing, speed], sound)
  watch(shown, () => {
    if (audio && !audio.paused && Math.abs(audio.currentTime - at()) > APART_S) audio.currentTime = at()
  })
  watch(url, () => {
    silence()
    trouble.value = ''
    on.value = false
  })
  onBeforeUnmount(silence)
  return { on, trouble }
}
