<script setup lang="ts">
import { nextTick, onMounted, ref, watch } from 'vue'
import { api, ask, type Schemas } from '@/api/client'

/** The coach's words at frames of the clip; they go out with the review. */
const props = defineProps<{ clip: string; frame: number }>()
const emit = defineEmits<{ go: [frame: number] }>()
const notes = ref<Schemas['Note'][]>([])
const words = ref('')
const trouble = ref('')
const field = ref<HTMLTextAreaElement | null>(null)

async function guarded(work: () => Promise<Schemas['Note'][]>) {
  try {
    notes.value = await work()
    trouble.value = ''
    return true
  } catch (error) {
    trouble.value = (error as Error).message
    return false
  }
}
const path = () => ({ params: { path: { id: props.clip } } })
const load = () => guarded(() => ask(api.GET('/api/clips/{id}/notes', path())))
onMounted(load)
watch(() => props.clip, load)

async function keep() {
  const told = words.value.trim()
  if (!told) return
  const body = { frame: props.frame, words: told }
  if (await guarded(() => ask(api.POST('/api/clips/{id}/notes', { ...path(), body })))) words.value = ''
}
const takeBack = (note: number) =>
  guarded(() => ask(api.DELETE('/api/clips/{id}/notes/{note}', { params: { path: { id: props.clip, note } } })))
async function start() {
  await nextTick()
  field.value?.focus()
}
defineExpose({ start })
</script>

<template>
  <div class="notes">
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <form @submit.prevent="keep">
      <label for="note">At frame {{ frame }}</label>
      <textarea
        id="note"
        ref="field"
        v-model="words"
        class="form-control form-control-sm"
        rows="2"
        maxlength="500"
        @keydown.enter.exact.prevent="keep"
        @keydown.esc="field?.blur()"
      />
      <button class="btn btn-sm btn-outline-secondary" :disabled="!words.trim()">Keep it here</button>
    </form>
    <ul>
      <li v-for="note in notes" :key="note.id" :class="{ here: note.frame === frame }">
        <button type="button" class="at" @click="emit('go', note.frame)">{{ note.frame }}</button>
        <span>{{ note.words }}</span>
        <button type="button" class="btn btn-sm btn-link p-0" @click="takeBack(note.id)">Take back</button>
      </li>
    </ul>
    <p v-if="!notes.length" class="quiet">Nothing is noted yet. Notes go out with the review, at their moment.</p>
  </div>
</template>

<style scoped lang="scss">
.notes {
  padding: 0.6rem 0.75rem;
}
form {
  display: grid;
  gap: 0.3rem;
  justify-items: start;
  margin-bottom: 0.6rem;
  label {
    font-size: 0.84rem;
  }
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 3.4rem 1fr auto;
  gap: 0.5rem;
  align-items: baseline;
  padding: 0.3rem 0;
  border-top: 1px solid var(--rule);
  &.here .at {
    background: var(--bs-body-color);
    color: var(--bs-body-bg);
  }
}
.at {
  background: var(--sunk);
  color: inherit;
  border: 1px solid var(--rule);
  border-radius: 3px;
  min-height: 26px;
}
</style>
