import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { api, ask, csrfToken, Refusal, sentence, type Athlete, type Clip, type Schemas } from '@/api/client'
import { newKey } from '@/api/key'

export type Waiting = Schemas['WaitingEnum']
/** Clips that wait for the same: how many there are, and those of them that were fetched, in turn. */
export interface Group {
  waiting: Waiting
  count: number
  clips: Clip[]
}

// The server says which these are (`overdue`).
export const LATE_DAYS = 2
const DAY_MS = 86_400_000
// So many more of a sort are shown on asking.
const MORE = 100

/** How many whole days a clip has waited. */
export const daysWaited = (clip: Clip) => Math.floor((Date.now() - Date.parse(clip.added_at)) / DAY_MS)
const underWay = (clip: Clip) => ['queued', 'running'].includes(clip.job.state)

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
  const groups = shallowRef<Group[]>([])
  const clips = computed(() => groups.value.flatMap((group) => group.clips))
  const athletes = ref<Athlete[]>([])
  const loaded = ref(false)
  const trouble = ref('')
  const busy = computed(() => clips.value.some(underWay))
  /** How many are to be shown of a sort of which more were asked for. */
  const wanted = new Map<Waiting, number>()

  async function pages(waiting: Waiting, most: number): Promise<Clip[]> {
    const found: Clip[] = []
    let cursor: string | undefined
    do {
      const query = { waiting, page_size: MORE, ...(cursor ? { cursor } : {}) }
      const page = await ask(api.GET('/api/clips', { params: { query } }))
      found.push(...page.results)
      cursor = (page.next && new URL(page.next, location.href).searchParams.get('cursor')) || undefined
    } while (cursor && found.length < most)
    return found
  }
  async function refresh() {
    try {
      const [told, freshAthletes] = await Promise.all([ask(api.GET('/api/clips/queue')), ask(api.GET('/api/athletes'))])
      const whole = told.map(async (group) => {
        const most = Math.min(wanted.get(group.waiting) ?? 0, group.count)
        return most > group.clips.length ? { ...group, clips: await pages(group.waiting, most) } : group
      })
      groups.value = await Promise.all(whole)
      athletes.value = freshAthletes
      trouble.value = ''
      loaded.value = true
    } catch (error) {
      trouble.value = (error as Error).message
    }
  }
  /** Show more of a sort. */
  async function more(waiting: Waiting) {
    const there = groups.value.find((group) => group.waiting === waiting)?.clips.length ?? 0
    wanted.set(waiting, there + MORE)
    await refresh()
  }

  /** What is under way and was not shown when the list was fetched last: further down than it goes. */
  let elsewhere = new Set<string>()
  /** How far what is under way is; the whole list only when something has begun, ended or come in. */
  async function look() {
    try {
      const under = new Map((await ask(api.GET('/api/clips/progress'))).map(({ clip, job }) => [clip, job]))
      const shown = new Set(clips.value.map((clip) => clip.id))
      const unseen = [...under.keys()].filter((id) => !shown.has(id))
      const same =
        clips.value.every((clip) => underWay(clip) === under.has(clip.id)) && unseen.every((id) => elsewhere.has(id))
      elsewhere = new Set(unseen)
      if (!same) return await refresh()
      const now = (clip: Clip) => (under.has(clip.id) ? { ...clip, job: under.get(clip.id)! } : clip)
      groups.value = groups.value.map((group) => ({ ...group, clips: group.clips.map(now) }))
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

  return { groups, clips, athletes, loaded, trouble, busy, refresh, more, look, send, retry, stop }
})
