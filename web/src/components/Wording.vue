<script setup lang="ts">
import { reactive, ref } from 'vue'
import { api, ask, type Catalogue, type Schemas } from '@/api/client'

/** The coach's own words for a fault, for good: the sentence for the coach, the one for the athlete, and the cue. */
const props = defineProps<{ fault: Schemas['Fault'] | null }>()
const emit = defineEmits<{ kept: [catalogue: Catalogue]; leave: [] }>()
const said = reactive({
  sentence: props.fault?.coach.split(' · ')[0] ?? '',
  athlete: props.fault?.athlete ?? '',
  cue: props.fault?.cue ?? '',
})
const trouble = ref('')
async function keep(body: Schemas['WordingRequest']) {
  try {
    const params = { path: { fault: props.fault!.id } }
    emit('kept', await ask(api.PUT('/api/faults/{fault}/wording', { params, body })))
  } catch (error) {
    trouble.value = (error as Error).message
  }
}
</script>

<template>
  <form v-if="fault" class="wording" @submit.prevent="keep(said)">
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <label>For you <input v-model="said.sentence" class="form-control form-control-sm" maxlength="300" /></label>
    <label
      >For the athlete <textarea v-model="said.athlete" class="form-control form-control-sm" rows="2" maxlength="300" />
    </label>
    <label>Cue <input v-model="said.cue" class="form-control form-control-sm" maxlength="300" /></label>
    <p class="act">
      <button class="btn btn-sm btn-primary">Save for good</button>
      <button
        v-if="fault.reworded"
        type="button"
        class="btn btn-sm btn-outline-secondary"
        @click="keep({ sentence: '', athlete: '', cue: '' })"
      >
        Back to the words that ship
      </button>
      <button type="button" class="btn btn-sm btn-link" @click="emit('leave')">Leave</button>
    </p>
  </form>
</template>

<style scoped lang="scss">
.wording {
  display: grid;
  gap: 0.35rem;
  margin: 0.3rem 0;
  label {
    font-size: 0.82rem;
  }
}
.act {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  margin: 0;
}
</style>
