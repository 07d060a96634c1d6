<script setup lang="ts">
import { onMounted, ref, watch } from 'vue'
import { api, ask, type Athlete, type Clip } from '@/api/client'

/** Whose lift a clip shows, for one that was sent in under another name. */
const props = defineProps<{ clip: Clip; saving: boolean }>()
const emit = defineEmits<{ set: [facts: { athlete: number }] }>()

const athletes = ref<Pick<Athlete, 'id' | 'name'>[]>([{ id: props.clip.athlete, name: props.clip.athlete_name }])
const trouble = ref('')
const athlete = ref(props.clip.athlete)
// Of one that was refused the one that stands is shown again.
watch(
  () => [props.clip.athlete, props.saving],
  () => {
    if (!props.saving) athlete.value = props.clip.athlete
  },
)

onMounted(async () => {
  try {
    athletes.value = await ask(api.GET('/api/athletes'))
  } catch (error) {
    trouble.value = (error as Error).message
  }
})
</script>

<template>
  <section class="hand-part">
    <h3>Whose lift</h3>
    <p>
      <label for="whose-lift">This is</label>
      <select
        id="whose-lift"
        v-model="athlete"
        class="form-select form-select-sm"
        :disabled="saving"
        @change="emit('set', { athlete })"
      >
        <option v-for="one in athletes" :key="one.id" :value="one.id">{{ one.name }}</option>
      </select>
    </p>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
  </section>
</template>

<style scoped lang="scss">
p {
  margin: 0;
  display: flex;
  gap: 0.5rem;
  align-items: center;
}
select {
  width: auto;
}
</style>
