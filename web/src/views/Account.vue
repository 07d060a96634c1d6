<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { dated } from '@/format/quantity'
import { useSession } from '@/stores/session'

/** The coach's own account: the password, a link for one more coach, and what was done that cannot be undone. */
const session = useSession()
const old = ref('')
const fresh = ref('')
const trouble = ref('')
const saved = ref('')
const invitation = ref<Schemas['Invitation'] | null>(null)
const trail = ref<Schemas['Trail'][]>([])

async function guarded(work: () => Promise<void>) {
  saved.value = trouble.value = ''
  try {
    await work()
    trail.value = await ask(api.GET('/api/trail'))
  } catch (error) {
    trouble.value = (error as Error).message
  }
}
onMounted(() => guarded(async () => {}))
const change = () =>
  guarded(async () => {
    await ask(api.POST('/api/password', { body: { old: old.value, new: fresh.value } }))
    old.value = fresh.value = ''
    saved.value = 'Your password is changed. Whoever is signed in elsewhere has to sign in again.'
  })
const invite = () => guarded(async () => void (invitation.value = await ask(api.POST('/api/invitations'))))
const link = (token: string) => `${location.origin}/join/${token}`
const clock = (at: string) => new Date(at).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })
</script>

<template>
  <main class="account">
    <h1>{{ session.name }}</h1>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <p v-else-if="saved" role="status"><span class="sign fine" /> {{ saved }}</p>
    <div class="columns">
      <form class="panel pad" @submit.prevent="change">
        <h2>Password</h2>
        <label
          >Present password
          <input
            v-model="old"
            type="password"
            class="form-control form-control-sm"
            autocomplete="current-password"
            required
        /></label>
        <label
          >New password, ten characters or more
          <input
            v-model="fresh"
            type="password"
            class="form-control form-control-sm"
            autocomplete="new-password"
            required
        /></label>
        <button class="btn btn-sm btn-primary">Change the password</button>
      </form>
      <section class="panel pad">
        <h2>Another coach</h2>
        <p class="quiet small">
          A coach who comes in by your link has athletes of their own. Neither of you sees the other's.
        </p>
        <button type="button" class="btn btn-sm btn-outline-secondary" @click="invite">Make a link</button>
        <label v-if="invitation"
          >Works once, until {{ dated(invitation.ends_at) }}
          <input
            class="form-control form-control-sm"
            readonly
            :value="link(invitation.token)"
            data-test="invitation"
            @focus="($event.target as HTMLInputElement).select()"
        /></label>
      </section>
      <section class="panel pad trail">
        <h2>What was done</h2>
        <ul>
          <li v-for="(row, n) in trail" :key="n">
            <span class="quiet num">{{ dated(row.at) }}, {{ clock(row.at) }}</span> {{ row.what }}
          </li>
        </ul>
        <p v-if="!trail.length" class="quiet">Nothing yet.</p>
      </section>
    </div>
  </main>
</template>

<style scoped lang="scss">
.account {
  max-width: 1160px;
  width: 100%;
  margin: 0 auto;
  padding: 1rem;
}
.columns {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 1rem;
  align-items: start;
}
.pad {
  padding: 0.7rem 0.9rem 0.9rem;
}
label {
  display: block;
  margin: 0.5rem 0;
  font-size: 0.88rem;
}
.trail {
  grid-column: 1 / -1;
  ul {
    list-style: none;
    margin: 0;
    padding: 0;
  }
  li {
    display: grid;
    grid-template-columns: 12rem 1fr;
    padding: 0.2rem 0;
    border-top: 1px solid var(--rule);
  }
}
@media (max-width: 700px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
