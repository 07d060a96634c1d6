import { defineStore } from 'pinia'
import { ref } from 'vue'
import { FIRST_SHOWN, type CurveId } from '@/components/curves'
import { api, ask, type Schemas } from '@/api/client'

export type Drawn = NonNullable<Schemas['Looks']['drawn']>[number]
export type Angle = NonNullable<Schemas['Looks']['angles']>[number]
const ANGLES_AT_FIRST: Angle[] = ['trunk', 'hip', 'knee']
const AT_FIRST: Drawn[] = ['path', 'upright', 'joints', 'marks']

/** What the coach likes to see drawn; kept with the account, so it is there on every machine. */
export const useLooks = defineStore('looks', () => {
  const drawn = ref<Drawn[]>(AT_FIRST)
  const traces = ref<CurveId[]>(FIRST_SHOWN)
  const angles = ref<Angle[]>(ANGLES_AT_FIRST)
  let asked = false
  let kept: Promise<unknown> = Promise.resolve()
  let waiting = 0

  async function load() {
    if (asked) return
    asked = true
    const before = await ask(api.GET('/api/looks'))
    drawn.value = before.drawn ?? AT_FIRST
    angles.value = before.angles ?? ANGLES_AT_FIRST
    if (before.traces.length === FIRST_SHOWN.length) traces.value = before.traces
  }
  const put = () => {
    const body = { drawn: drawn.value, traces: traces.value, angles: angles.value }
    return ask(api.PUT('/api/looks', { body, keepalive: true })).catch(() => null)
  }
  /** One after the other, so that the last choice is the one that stays. A taste that cannot be kept is no reason to stop the work: it
   * holds until the page is left. */
  function keep() {
    waiting++
    kept = kept.then(put).finally(() => waiting--)
  }
  window.addEventListener('pagehide', () => void (waiting && put()))
  const turned = <T>(all: T[], one: T) => (all.includes(one) ? all.filter((other) => other !== one) : [...all, one])
  function toggle(one: Drawn) {
    drawn.value = turned(drawn.value, one)
    keep()
  }
  function toggleAngle(one: Angle) {
    angles.value = turned(angles.value, one)
    keep()
  }
  function show(ids: CurveId[]) {
    traces.value = ids
    keep()
  }
  return { drawn, traces, angles, load, toggle, toggleAngle, show }
})
