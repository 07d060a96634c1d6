<script setup lang="ts">
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useSession } from '@/stores/session'

const session = useSession()
const route = useRoute()
const router = useRouter()
const username = ref('')
const password = ref('')
const trouble = ref('')
const busy = ref(false)
void session.ask()

async function enter() {
  busy.value = true
  try {
    await session.signIn(username.value, password.value)
    const next = route.query.next
    await router.push(typeof next === 'string' && /^\/(?!\/)/.test(next) ? next : '/')
  } catch (error) {
    trouble.value = (error as Error).message
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <main class="door">
    <svg class="path" viewBox="0 0 300 600" aria-hidden="true">
      <line x1="150" y1="20" x2="150" y2="580" />
      <path
        d="M150 560 C150 500 118 450 112 390 C106 330 96 300 104 262 C114 214 176 190 172 120 C170 84 140 74 138 96 C137 112 140 130 141 150"
      />
    </svg>
    <form class="panel" @submit.prevent="enter">
      <h1>Atleta</h1>
      <p class="quiet">Measured review of the snatch, the clean and the jerk.</p>
      <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
      <label for="username">Name</label>
      <BFormInput id="username" v-model="username" autocomplete="username" required autofocus />
      <label for="password">Password</label>
      <BFormInput id="password" v-model="password" type="password" autocomplete="current-password" required />
      <BButton type="submit" variant="primary" class="mt-3 w-100" :disabled="busy">Sign in</BButton>
      <p v-if="session.demo" class="quiet small mt-3 mb-0">
        This is the demo world. For athletes of your own stop it and run <code>make start</code>, which prints where you
        make your account.
      </p>
      <p v-else-if="session.firstRun" class="quiet small mt-3 mb-0">
        Nobody coaches here yet. Open the link that the program printed when it started.
      </p>
    </form>
  </main>
</template>

<style scoped lang="scss">
.door {
  flex: 1;
  display: flex;
  align-items: center;
  justify-content: center;
  gap: 6vw;
  padding: 2rem 1rem;
}
.path {
  height: min(70vh, 560px);
  fill: none;
  line {
    stroke: var(--rule);
    stroke-dasharray: 4 6;
  }
  path {
    stroke: var(--look);
    stroke-width: 5;
    stroke-linecap: round;
  }
}
form {
  width: 22rem;
  padding: 1.5rem;
}
label {
  display: block;
  margin: 0.8rem 0 0.2rem;
}
@media (max-width: 640px) {
  .path {
    display: none;
  }
}
</style>
