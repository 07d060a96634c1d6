<script setup lang="ts">
defineProps<{ id: string; name: string }>()
const TABS = [
  ['plan', 'Plan'],
  ['log', 'Log'],
  ['lifts', 'Lifts together'],
] as const
</script>

<template>
  <div class="tabs">
    <h1>{{ name }}</h1>
    <nav :aria-label="`${name}: pages`">
      <RouterLink v-for="[to, says] in TABS" :key="to" :to="{ name: to, params: { id } }">{{ says }}</RouterLink>
    </nav>
  </div>
</template>

<style scoped lang="scss">
.tabs {
  display: flex;
  align-items: baseline;
  gap: 1.4rem;
  flex-wrap: wrap;
  margin-bottom: 0.7rem;
  h1 {
    margin: 0;
  }
  nav {
    display: flex;
    gap: 1.1rem;
  }
  a {
    color: var(--quiet);
    padding: 0.2rem 0;
    border-bottom: 2px solid transparent;
    &.router-link-exact-active {
      color: inherit;
      border-bottom-color: currentColor;
    }
  }
}
</style>
