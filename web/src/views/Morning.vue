<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'

/** What a coach wants to know before the first athlete comes in. */
type Morning = Schemas['Morning']
const morning = ref<Morning | null>(null)
const trouble = ref('')
const PARTS: { name: keyof Morning; title: string; none: string; sign: string; to: string }[] = [
  { name: 'reported', title: 'Reported pain or a bruise', none: 'Nobody.', sign: 'fault', to: 'log' },
  { name: 'due', title: 'Due today', none: 'No work is planned for today.', sign: '', to: 'plan' },
  {
    name: 'missed',
    title: 'Planned in the last week and not entered',
    none: 'All work was entered.',
    sign: 'watch',
    to: 'log',
  },
  { name: 'said', title: 'Answers', none: 'None you have not read.', sign: 'seen', to: 'log' },
  {
    name: 'moved',
    title: 'Numbers that a block was to move',
    none: 'No lift after a block yet.',
    sign: '',
    to: 'plan',
  },
  { name: 'ending', title: 'Blocks that are over', none: 'None.', sign: 'watch', to: 'plan' },
  { name: 'waiting', title: 'Waits for your review', none: 'The queue is clear.', sign: '', to: 'queue' },
]
const date = new Date().toLocaleDateString('en-GB', { weekday: 'long', day: 'numeric', month: 'long' })
const empty = computed(() => morning.value && Object.values(morning.value).every((rows) => !rows.length))

onMounted(async () => {
  try {
    morning.value = await ask(api.GET('/api/morning'))
  } catch (error) {
    trouble.value = (error as Error).message
  }
})
</script>

<template>
  <main class="morning">
    <h1>{{ date }}</h1>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <p v-else-if="!morning" class="quiet">Looking …</p>
    <p v-if="empty" class="quiet">
      Nothing is planned, reported or waiting. <RouterLink to="/">Send in a clip</RouterLink> or
      <RouterLink to="/athletes">enter an athlete</RouterLink>.
    </p>
    <div v-else-if="morning" class="parts">
      <section v-for="part in PARTS" :key="part.name" class="panel" :data-part="part.name">
        <div class="panel-head">
          <h2>{{ part.title }}</h2>
          <span class="quiet">{{ morning[part.name].length || '' }}</span>
        </div>
        <ul v-if="morning[part.name].length">
          <li v-for="(row, n) in morning[part.name]" :key="n">
            <span v-if="part.sign" :class="['sign', part.sign]" />
            <RouterLink :to="part.to === 'queue' ? '/' : { name: part.to, params: { id: row.athlete } }">{{
              row.name
            }}</RouterLink>
            <span v-for="line in row.says" :key="line">{{ line }}</span>
          </li>
        </ul>
        <p v-else class="quiet none">{{ part.none }}</p>
      </section>
    </div>
  </main>
</template>

<style scoped lang="scss">
.morning {
  max-width: 1160px;
  width: 100%;
  margin: 0 auto;
  padding: 1rem;
}
.parts {
  columns: 2;
  column-gap: 1rem;
  section {
    break-inside: avoid;
    margin-bottom: 0.9rem;
  }
}
ul {
  list-style: none;
  margin: 0;
  padding: 0 0.75rem 0.6rem;
}
li {
  display: grid;
  grid-template-columns: auto 10rem 1fr;
  gap: 0 0.5rem;
  align-items: baseline;
  padding: 0.25rem 0;
  border-top: 1px solid var(--rule);
  &:not(:has(.sign)) {
    grid-template-columns: 10rem 1fr;
  }
  span:not(.sign) {
    grid-column: -2 / -1;
  }
}
.none {
  padding: 0 0.75rem 0.6rem;
  margin: 0;
}
@media (max-width: 860px) {
  .parts {
    columns: 1;
  }
}
</style>
