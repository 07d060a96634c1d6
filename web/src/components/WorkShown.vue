<script setup lang="ts">
import { ref, watch } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { weekday } from '@/format/quantity'

/** What planned work a clip shows: by the coach's word, or offered by its day and kind. */
const props = defineProps<{ clip: string; athlete: number }>()
const shows = ref<Schemas['Shows'] | null>(null)
const left = ref(false)
const trouble = ref('')

const path = () => ({ params: { path: { id: props.clip } } })
async function guarded(work: () => Promise<unknown>) {
  try {
    await work()
    shows.value = await ask(api.GET('/api/clips/{id}/follows', path()))
    trouble.value = ''
  } catch (error) {
    trouble.value = (error as Error).message
  }
}
watch(
  () => props.clip,
  () => {
    shows.value = null
    left.value = false
    void guarded(async () => null)
  },
  { immediate: true },
)
const say = (assignment: number) =>
  guarded(() => ask(api.PUT('/api/clips/{id}/follows', { ...path(), body: { assignment } })))
const unsay = () => guarded(() => ask(api.DELETE('/api/clips/{id}/follows', path())))
</script>

<template>
  <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
  <p v-else-if="shows?.follows" class="notice work" data-test="follows">
    <span>
      This film shows the work that was set: <b>{{ shows.follows.name }}</b>. {{ shows.follows.says }}
    </span>
    <RouterLink :to="{ name: 'plan', params: { id: athlete } }">To the plan</RouterLink>
    <button type="button" class="btn btn-sm btn-link p-0" @click="unsay">It does not</button>
  </p>
  <p v-else-if="shows?.offered.length && !left" class="notice work" data-test="offered">
    <span>Does this film show work that was set?</span>
    <button
      v-for="one in shows.offered"
      :key="one.assignment"
      type="button"
      class="btn btn-sm btn-outline-secondary"
      @click="say(one.assignment)"
    >
      {{ one.name }}, {{ weekday(one.on) }}
    </button>
    <button type="button" class="btn btn-sm btn-link p-0" @click="left = true">No</button>
  </p>
</template>

<style scoped lang="scss">
.work {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem 0.8rem;
  align-items: center;
}
</style>
