import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { api, ask } from '@/api/client'

/** Who is signed in. */
export const useSession = defineStore('session', () => {
  const name = ref<string | null>(null)
  const asked = ref(false)
  const signedIn = computed(() => Boolean(name.value))

  async function take(answer: Promise<{ signed_in: boolean; name: string }>) {
    const session = await answer
    name.value = session.signed_in ? session.name : null
    asked.value = true
  }

  return {
    name,
    signedIn,
    async ask() {
      if (!asked.value) await take(ask(api.GET('/api/session')))
    },
    signIn: (username: string, password: string) =>
      take(ask(api.POST('/api/session', { body: { username, password } }))),
    signOut: () => take(ask(api.DELETE('/api/session'))),
  }
})
