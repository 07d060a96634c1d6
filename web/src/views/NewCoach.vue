<script setup lang="ts">
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { useSession } from '@/stores/session'

/** An account made by a link: the first coach's, or one more by an invitation. */
const props = defineProps<{ token: string }>()
const session = useSession()
const router = useRouter()
const name = ref('')
const username = ref('')
const password = ref('')
const trouble = ref('')
const busy = ref(false)

async function make() {
  busy.value = true
  try {
    await session.join({
      token: props.token,
      name: name.value,
      username: username.value,
      password: password.value,
    })
    await router.push('/athletes')
  } catch (error) {
    trouble.value = (error as Error).message
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <main class="door">
    <form class="panel" @submit.prevent="make">
      <h1>Atleta</h1>
      <p class="quiet">Make your account. Your athletes are yours alone.</p>
      <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
      <label for="name">What you are called</label>
      <BFormInput id="name" v-model="name" autocomplete="name" maxlength="150" />
      <label for="username">Name to sign in with</label>
      <BFormInput id="username" v-model="username" autocomplete="username" required maxlength="150" />
      <label for="password">Password, ten characters or more</label>
      <BFormInput id="password" v-model="password" type="password" autocomplete="new-password" required />
      <BButton type="submit" variant="primary" class="mt-3 w-100" :disabled="busy">Make the account</BButton>
      <p class="quiet small mt-3 mb-0">
        You have one already? <RouterLink :to="{ name: 'sign-in' }">Sign in</RouterLink>
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
  padding: 2rem 1rem;
}
form {
  width: 22rem;
  padding: 1.5rem;
}
label {
  display: block;
  margin: 0.8rem 0 0.2rem;
}
</style>
