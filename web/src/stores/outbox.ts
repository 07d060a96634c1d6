/**
 * What an athlete entered, kept on the phone until the server has it. Every row carries a key of its own, so that one sent twice on a bad
 * connection is kept once; a row leaves the phone only when the server has said that it has it.
 */
import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { api, ask, Refusal, type Schemas } from '@/api/client'

export type Work = Schemas['Work']
export type Entries = Schemas['EntriesRequest']
type Kind = keyof Entries & ('done' | 'reports' | 'days' | 'said')
type Row<K extends Kind> = NonNullable<Entries[K]>[number]
interface Kept {
  kind: Kind
  row: { key: string } & Record<string, unknown>
}

export const useOutbox = defineStore('outbox', () => {
  const token = ref('')
  const work = ref<Work | null>(null)
  const waiting = ref<Kept[]>([])
  const trouble = ref('')
  const offline = ref(false)
  let sending: Promise<void> | null = null

  const place = (what: string) => `atleta.${what}.${token.value}`
  const keep = () => localStorage.setItem(place('waiting'), JSON.stringify(waiting.value))
  const remember = (fresh: Work) => {
    work.value = fresh
    localStorage.setItem(place('work'), JSON.stringify(fresh))
  }

  function read<T>(what: string, otherwise: T): T {
    try {
      return (JSON.parse(localStorage.getItem(place(what)) ?? 'null') as T | null) ?? otherwise
    } catch {
      return otherwise
    }
  }

  /** Open an athlete's page: what was last seen at once, what is new when the server answers. */
  async function open(link: string) {
    token.value = link
    waiting.value = read<Kept[]>('waiting', [])
    work.value = read<Work | null>('work', null)
    trouble.value = ''
    await (waiting.value.length ? send() : refresh())
  }

  async function refresh() {
    try {
      remember(await ask(api.GET('/api/training/{token}', { params: { path: { token: token.value } } })))
      offline.value = false
      trouble.value = ''
    } catch (error) {
      noted(error)
    }
  }

  /** Keep a row here and send what waits; a row with the key of one that waits takes its place. */
  async function enter<K extends Kind>(kind: K, row: Row<K>) {
    const held = row as unknown as Kept['row']
    waiting.value = [...waiting.value.filter((one) => one.row.key !== held.key), { kind, row: held }]
    keep()
    await send()
  }

  /** Send what waits. One sending at a time; what is entered meanwhile goes with the next. */
  function send(): Promise<void> {
    sending ??= sendAll().finally(() => (sending = null))
    return sending
  }

  async function sendAll() {
    while (waiting.value.length) {
      const now = [...waiting.value]
      const body: Entries = { done: [], reports: [], days: [], said: [] }
      for (const { kind, row } of now) (body[kind] as unknown[]).push(row)
      try {
        remember(await ask(api.POST('/api/training/{token}', { params: { path: { token: token.value } }, body })))
      } catch (error) {
        noted(error)
        return
      }
      waiting.value = waiting.value.filter((one) => !now.includes(one))
      keep()
      offline.value = false
      trouble.value = ''
    }
  }

  function noted(error: unknown) {
    offline.value = !(error instanceof Refusal) || error.message.startsWith('The server cannot be reached')
    trouble.value = offline.value ? '' : (error as Error).message
  }

  const unsent = computed(() => waiting.value.length)
  return { token, work, waiting, unsent, trouble, offline, open, refresh, enter, send }
})
