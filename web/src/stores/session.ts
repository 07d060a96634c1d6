import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'

/** Who is signed in. */
export const useSession = defineStore('session', () => {
  const name = ref<string | null>(null)
  const asked = ref(false)
  const signedIn = computed(() => Boolean(name.value))

  const demo = ref(false)
  const firstRun = ref(false)

  async function take(answer: Promise<Schemas['Session']>) {
    const session = await answer
    demo.value = session.demo
    firstRun.value = session.first_run
    name.value = session.signed_in ? session.name : null
    asked.value = true
  }

  return {
    name,
    signedIn,
    demo,
    firstRun,
    async ask() {
      if (!asked.value) await take(ask(api.GET('/api/session')))
    },
    signIn: (username: string, password: string) =>
      take(ask(api.POST('/api/session', { body: { username, password } }))),
    join: (account: Schemas['NewCoachRequest']) => take(ask(api.POST('/api/coaches', { body: account }))),
    signOut: () => take(ask(api.DELETE('/api/session'))),
  }
})
