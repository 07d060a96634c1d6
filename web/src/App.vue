<script setup lang="ts">
import { computed, ref, watchEffect } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useSession } from './stores/session'

const session = useSession()
const route = useRoute()
const router = useRouter()
const bare = computed(() => Boolean(route.meta.open))

// Not a gallery's switch: the room decides. Kept in this browser, following the system until it is set.
const kept = localStorage.getItem('light')
const dark = ref(kept ? kept === 'dim' : matchMedia('(prefers-color-scheme: dark)').matches)
watchEffect(() => document.documentElement.setAttribute('data-bs-theme', dark.value ? 'dark' : 'light'))

function turnLights() {
  dark.value = !dark.value
  localStorage.setItem('light', dark.value ? 'dim' : 'bright')
}

async function leave() {
  await session.signOut()
  await router.push({ name: 'sign-in' })
}
</script>

<template>
  <div class="frame">
    <header v-if="!bare && session.signedIn" class="top screen-only">
      <RouterLink to="/" class="word">
        <svg viewBox="0 0 20 20" aria-hidden="true"><path d="M4 18 C5 9 15 11 14 2" /></svg>Atleta
      </RouterLink>
      <nav aria-label="Main">
        <RouterLink to="/">Queue</RouterLink>
        <RouterLink to="/morning">Morning</RouterLink>
        <RouterLink to="/athletes">Athletes and discs</RouterLink>
        <RouterLink to="/library">Library</RouterLink>
        <RouterLink to="/schools">Schools</RouterLink>
      </nav>
      <span class="spring" />
      <button type="button" class="plain" @click="turnLights">{{ dark ? 'Bright room' : 'Dim room' }}</button>
      <RouterLink to="/account" class="quiet">{{ session.name }}</RouterLink>
      <button type="button" class="plain" @click="leave">Sign out</button>
    </header>
    <RouterView />
  </div>
</template>

<style scoped lang="scss">
.frame {
  min-height: 100%;
  display: flex;
  flex-direction: column;
}
.top {
  display: flex;
  align-items: center;
  gap: 1.1rem;
  padding: 0 1rem;
  height: 44px;
  flex: none;
  border-bottom: 1px solid var(--rule);
  background: var(--panel);
}
.word {
  font-weight: 720;
  font-stretch: 112%;
  letter-spacing: 0.01em;
  color: inherit;
  display: inline-flex;
  align-items: center;
  gap: 0.35rem;
  text-decoration: none;
  svg {
    width: 18px;
    height: 18px;
    fill: none;
    stroke: var(--look);
    stroke-width: 3;
    stroke-linecap: round;
  }
}
nav {
  display: flex;
  align-self: stretch;
  min-width: 0;
  overflow-x: auto;
  white-space: nowrap;
  a {
    display: inline-flex;
    align-items: center;
    padding: 0 0.7rem;
    color: var(--quiet);
    text-decoration: none;
    border-bottom: 2px solid transparent;
    &.router-link-exact-active {
      color: inherit;
      border-bottom-color: currentColor;
    }
  }
}
.spring {
  flex: 1;
}
.plain {
  background: none;
  border: 0;
  color: inherit;
  padding: 0.3rem 0.2rem;
  text-decoration: underline;
  text-decoration-color: var(--rule);
  text-underline-offset: 3px;
}
.plain,
.quiet {
  white-space: nowrap;
}
@media (max-width: 900px) {
  nav a {
    padding: 0 0.4rem;
  }
  .top {
    gap: 0.7rem;
  }
}
@media (max-width: 640px) {
  .top {
    gap: 0.5rem;
    padding: 0 0.5rem;
    .quiet {
      display: none;
    }
  }
}
</style>
