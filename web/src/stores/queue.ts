import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { api, ask, csrfToken, Refusal, sentence, type Athlete, type Clip } from '@/api/client'
import { newKey } from '@/api/key'

export type Waiting = 'working' | 'failed' | 'look' | 'handed'

/** What a clip waits for. */
export function waitsFor(clip: Clip): Waiting {
  if (clip.job.state === 'failed') return 'failed'
  if (!clip.measured) return 'working'
  return clip.reviewed ? 'handed' : 'look'
}

// An athlete's next session is mostly so far off: what is said later than that is said too late for it.
export const LATE_DAYS = 2
const DAY_MS = 86_400_000

/** How many whole days ago a clip came in, once that is too long to wait for the coach; 0 before. */
export function lateDays(clip: Clip): number {
  const days = Math.floor((Date.now() - Date.parse(clip.added_at)) / DAY_MS)
  return days >= LATE_DAYS ? days : 0
}

/** Clips as a coach goes through them: first what has waited too long, longest first, then what came in last. */
export function inTurn(clips: Clip[]): Clip[] {
  const late = clips.filter(lateDays).sort((a, b) => Date.parse(a.added_at) - Date.parse(b.added_at))
  return [...late, ...clips.filter((clip) => !lateDays(clip))]
}

/** The next clip after this one that waits for the coach; after the last one the first. */
export function nextInTurn(clips: Clip[], after: string): Clip | undefined {
  const turn = inTurn(clips)
  const at = turn.findIndex((clip) => clip.id === after)
  return [...turn.slice(at + 1), ...turn.slice(0, Math.max(at, 0))].find((clip) => waitsFor(clip) === 'look')
}

/** Facts about a clip that is on its way in. */
export interface Facts {
  athlete: number
  lift: string
  load: number | null
  load_unit: 'kg' | 'lb'
  made: boolean | null
  filmed_on: string | null
}

/** The clips that came in, and those on their way. */
export const useQueue = defineStore('queue', () => {
  const clips = shallowRef<Clip[]>([])
  const athletes = shallowRef<Athlete[]>([])
  const loaded = ref(false)
  const trouble = ref('')
  const busy = computed(() => clips.value.some((clip) => ['queued', 'running'].includes(clip.job.state)))

  async function refresh() {
    try {
      const [freshClips, freshAthletes] = await Promise.all([ask(api.GET('/api/clips')), ask(api.GET('/api/athletes'))])
      clips.value = freshClips
      athletes.value = freshAthletes
      trouble.value = ''
      loaded.value = true
    } catch (error) {
      trouble.value = (error as Error).message
    }
  }

  /** How far what is under way is; the whole list only when something has begun, ended or come in. */
  async function look() {
    try {
      const under = new Map((await ask(api.GET('/api/clips/progress'))).map(({ clip, job }) => [clip, job]))
      const busyOnes = clips.value.filter((clip) => ['queued', 'running'].includes(clip.job.state))
      const same = busyOnes.length === under.size && busyOnes.every((clip) => under.has(clip.id))
      if (!same) return await refresh()
      clips.value = clips.value.map((clip) => (under.has(clip.id) ? { ...clip, job: under.get(clip.id)! } : clip))
      trouble.value = ''
    } catch (error) {
      trouble.value = (error as Error).message
    }
  }

  /** A file that is sent again after the connection broke is the same one. */
  const keys = new WeakMap<File, string>()
  /** Send one file; `onProgress` gets the share sent. Fetch cannot report progress of an upload, so this is an XMLHttpRequest. */
  function send(file: File, facts: Facts, onProgress: (share: number) => void): Promise<void> {
    const form = new FormData()
    form.set('file', file)
    for (const [name, value] of Object.entries(facts)) if (value !== null) form.set(name, String(value))
    return new Promise((resolve, reject) => {
      const request = new XMLHttpRequest()
      request.open('POST', '/api/clips')
      request.setRequestHeader('X-CSRFToken', csrfToken())
      if (!keys.has(file)) keys.set(file, newKey())
      request.setRequestHeader('Idempotency-Key', keys.get(file)!)
      request.responseType = 'json'
      request.upload.onprogress = (event) => onProgress(event.lengthComputable ? event.loaded / event.total : 0)
      request.onerror = () => reject(new Refusal('The connection broke while sending. Nothing is lost; send it again.'))
      request.onload = async () => {
        if (request.status !== 201) return reject(new Refusal(sentence(request.response, request.status)))
        await refresh()
        resolve()
      }
      request.send(form)
    })
  }

  /** Ask for something to be done with a clip, and say so when it is refused: whoever clicked waits for an answer. */
  async function change(what: Promise<unknown>) {
    let refused = ''
    try {
      await what
    } catch (error) {
      refused = (error as Error).message
    }
    await refresh()
    if (refused) trouble.value = refused
  }
  const retry = (id: string) => change(ask(api.POST('/api/clips/{id}/retry', { params: { path: { id } } })))
  const stop = (id: string) => change(ask(api.POST('/api/clips/{id}/stop', { params: { path: { id } } })))

  return { clips, athletes, loaded, trouble, busy, refresh, look, send, retry, stop }
})
