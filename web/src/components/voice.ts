import { ref } from 'vue'

/** What stood on the stage: seconds since the beginning, and the frame. */
export type Trail = [number, number][]

/** The frame of a trail that is on show at a time. */
export function frameThen(trail: readonly (readonly number[])[], time: number): number | null {
  const row = trail.findLast(([at]) => at! <= time + 1e-6) ?? trail[0]
  return row ? row[1]! : null
}

const MOST_S = 180
const MICROPHONE = 'The microphone cannot be used: allow it for this page, or write the note instead.'

/** A recording of the coach's voice together with the frames shown meanwhile. What could not be sent is held until it is. */
export function useVoice(send: (sound: Blob, shown: Trail) => Promise<boolean>) {
  const recording = ref(false)
  const trouble = ref('')
  /** Recorded and not yet at the server. */
  const held = ref<{ sound: Blob; shown: Trail } | null>(null)
  let recorder: MediaRecorder | null = null
  let began = 0
  let shown: Trail = []
  let limit = 0

  let asking = false
  async function begin(frame: number) {
    if (asking || recording.value) return
    asking = true
    trouble.value = ''
    try {
      const stream = await navigator.mediaDevices.getUserMedia({ audio: true })
      const parts: Blob[] = []
      const mine = new MediaRecorder(stream)
      recorder = mine
      shown = [[0, frame]]
      mine.ondataavailable = (event) => parts.push(event.data)
      mine.onstart = () => (began = performance.now())
      mine.onstop = () => {
        stream.getTracks().forEach((track) => track.stop())
        held.value = { sound: new Blob(parts, { type: mine.mimeType }), shown }
        void keep()
      }
      mine.start()
      recording.value = true
      limit = window.setTimeout(end, (MOST_S - 1) * 1000)
    } catch {
      trouble.value = MICROPHONE
    } finally {
      asking = false
    }
  }
  /** Another frame is on the stage. */
  function see(frame: number) {
    if (recording.value && began) shown.push([(performance.now() - began) / 1000, frame])
  }
  function end() {
    window.clearTimeout(limit)
    recording.value = false
    if (recorder?.state === 'recording') recorder.stop()
    recorder = null
    began = 0
  }
  async function keep() {
    if (held.value && (await send(held.value.sound, held.value.shown))) held.value = null
  }
  return { recording, trouble, held, begin, see, end, keep, leave: () => (held.value = null) }
}
