import { del, entries, set } from 'idb-keyval'
import { ref } from 'vue'
import type { Schemas } from '@/api/client'
import type { View } from '@/components/closer'
import type { Drawn } from '@/stores/looks'
import { newKey } from '@/api/key'

/** What stood on the stage: seconds since the beginning, and the frame. */
export type Trail = [number, number][]
/** How the stage is looked at: what is enlarged, and what is drawn over it. */
export interface Look extends View {
  drawn: Drawn[]
}

/** The frame of a trail that is on show at a time. */
export function frameThen(trail: readonly (readonly number[])[], time: number): number | null {
  const row = trail.findLast(([at]) => at! <= time + 1e-6) ?? trail[0]
  return row ? row[1]! : null
}

/** How the stage was looked at at a time; null where that was not kept. */
export const lookThen = (looked: Schemas['Note']['looked'], time: number): Look | null =>
  looked.findLast(({ s }) => s <= time + 1e-6) ?? looked[0] ?? null

const MOST_S = 180
const MICROPHONE = 'The microphone cannot be used: allow it for this page, or write the note instead.'

/** What was said, of which clip, the frames shown meanwhile, and how they were looked at (not in what an earlier version left unsent). */
export interface Spoken {
  key: string
  clip: string
  sound: Blob
  shown: Trail
  looked?: Schemas['Note']['looked']
}

const PLACE = 'voice-'
/** Recordings that the server does not have yet; they outlive the page. A browser that keeps nothing holds them while it is open. */
export const unsent = {
  put: (one: Spoken) => set(PLACE + one.key, one).catch(() => undefined),
  drop: (one: Spoken) => del(PLACE + one.key).catch(() => undefined),
  async of(clip: string): Promise<Spoken[]> {
    const rows = await entries<string, Spoken>().catch(() => [])
    return rows.filter(([key, one]) => String(key).startsWith(PLACE) && one.clip === clip).map(([, one]) => one)
  },
}

/** Recordings of the coach's voice. Each is kept in the browser until it is sent, and goes to the clip it was made of. */
export function useVoice(send: (spoken: Spoken) => Promise<boolean>) {
  const recording = ref(false)
  const trouble = ref('')
  /** Recorded and not yet at the server. */
  const held = ref<Spoken[]>([])
  let recorder: MediaRecorder | null = null
  let began = 0
  let shown: Trail = []
  let looked: Schemas['Note']['looked'] = []
  let limit = 0

  let asking = false
  async function begin(clip: string, frame: number, look: Look) {
    if (asking || recording.value) return
    asking = true
    trouble.value = ''
    try {
      const stream = await navigator.mediaDevices.getUserMedia({ audio: true })
      const parts: Blob[] = []
      const mine = new MediaRecorder(stream)
      recorder = mine
      shown = [[0, frame]]
      looked = [{ s: 0, ...look }]
      mine.ondataavailable = (event) => parts.push(event.data)
      mine.onstart = () => (began = performance.now())
      mine.onstop = async () => {
        stream.getTracks().forEach((track) => track.stop())
        const spoken = { key: newKey(), clip, sound: new Blob(parts, { type: mine.mimeType }), shown, looked }
        held.value = [...held.value, spoken]
        await unsent.put(spoken)
        await keep(spoken)
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
  /** It is looked at more closely, or with other things drawn over it. */
  function lookAt(look: Look) {
    if (recording.value && began) looked.push({ s: (performance.now() - began) / 1000, ...look })
  }
  function end() {
    window.clearTimeout(limit)
    recording.value = false
    if (recorder?.state === 'recording') recorder.stop()
    recorder = null
    began = 0
  }
  const onTheWay = new Set<string>()
  async function keep(spoken: Spoken) {
    if (onTheWay.has(spoken.key)) return
    onTheWay.add(spoken.key)
    try {
      if (await send(spoken)) await leave(spoken)
    } finally {
      onTheWay.delete(spoken.key)
    }
  }
  async function leave(spoken: Spoken) {
    held.value = held.value.filter((one) => one.key !== spoken.key)
    await unsent.drop(spoken)
  }
  /** What was recorded of a clip and could not be sent the last time it was open. */
  async function findHeld(clip: string) {
    const found = await unsent.of(clip)
    held.value = [...held.value.filter((one) => !found.some((same) => same.key === one.key)), ...found]
  }
  return { recording, trouble, held, begin, see, lookAt, end, keep, leave, findHeld }
}
