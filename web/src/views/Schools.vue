<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import Schools from '@/components/Schools.vue'

/** The coach's answers for all their athletes; for one, they are given on a clip of theirs. */
const schools = ref<Schemas['School'][]>([])
const trouble = ref('')
const saving = ref(false)

async function change(answer: () => Promise<Schemas['School'][]>) {
  saving.value = true
  try {
    schools.value = await answer()
    trouble.value = ''
  } catch (error) {
    trouble.value = (error as Error).message
  } finally {
    saving.value = false
  }
}
onMounted(() => change(() => ask(api.GET('/api/schools'))))
const take = (question: string, position: string) =>
  change(() =>
    ask(api.PUT('/api/schools/{question}', { params: { path: { question } }, body: { position, athlete: null } })),
  )
const leave = (question: string) =>
  change(() => ask(api.DELETE('/api/schools/{question}', { params: { path: { question } } })))
const turn = (way: 'undo' | 'redo') =>
  change(() => ask(way === 'undo' ? api.POST('/api/preferences/undo') : api.POST('/api/preferences/redo')))
</script>

<template>
  <main class="container py-3">
    <h1>Coaching preferences</h1>
    <p class="turns">
      <button type="button" class="btn btn-sm btn-outline-secondary" :disabled="saving" @click="turn('undo')">
        Undo the last change
      </button>
      <button type="button" class="btn btn-sm btn-outline-secondary" :disabled="saving" @click="turn('redo')">
        Redo
      </button>
    </p>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <Schools
      class="panel wide"
      :schools="schools"
      athlete=""
      :changed="null"
      :saving="saving"
      @take="take"
      @leave="leave"
    />
  </main>
</template>

<style scoped lang="scss">
.turns {
  display: flex;
  gap: 0.4rem;
}
.wide {
  max-width: 60rem;
  :deep(dl) {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(25rem, 1fr));
    column-gap: 1.2rem;
  }
}
@media (max-width: 640px) {
  .wide :deep(dl) {
    grid-template-columns: 1fr;
  }
}
</style>
