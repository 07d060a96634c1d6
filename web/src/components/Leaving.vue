<script setup lang="ts">
import { ref, watch } from 'vue'
import { api, ask, type Athlete } from '@/api/client'

/** An athlete leaves: what is theirs is taken along first, and then goes for good. */
const props = defineProps<{ athlete: Athlete }>()
const emit = defineEmits<{ gone: [] }>()
const typed = ref('')
const trouble = ref('')
const busy = ref(false)
watch(
  () => props.athlete.id,
  () => (typed.value = trouble.value = ''),
)

async function remove() {
  busy.value = true
  try {
    await ask(api.DELETE('/api/athletes/{id}/everything', { params: { path: { id: props.athlete.id } } }))
    emit('gone')
  } catch (error) {
    trouble.value = (error as Error).message
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <details class="leaving">
    <summary>Remove {{ athlete.name }}</summary>
    <p class="small">
      Clips, reviews with their links, work and log go for good. First keep
      <a :href="`/api/athletes/${athlete.id}/everything.zip`" download>everything of theirs (ZIP)</a>.
    </p>
    <label
      >Type the name to remove it <input v-model="typed" class="form-control form-control-sm" autocomplete="off"
    /></label>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <button
      type="button"
      class="btn btn-sm btn-outline-secondary"
      :disabled="busy || typed.trim() !== athlete.name"
      @click="remove"
    >
      Remove for good
    </button>
  </details>
</template>

<style scoped lang="scss">
.leaving {
  margin-top: 0.9rem;
  padding-top: 0.6rem;
  border-top: 1px solid var(--rule);
  summary {
    font-size: 0.88rem;
  }
  p {
    margin: 0.4rem 0;
  }
  button {
    margin-top: 0.5rem;
  }
}
</style>
