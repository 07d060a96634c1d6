<script setup lang="ts">
import { ref, watch } from 'vue'
import type { Clip } from '@/api/client'

/** Naming a lift as one to measure others by; its lifter must agree to be shown. */
const props = defineProps<{ clip: Clip; saving: boolean }>()
const emit = defineEmits<{ set: [facts: { model_name: string; model_agreed: boolean }] }>()

const name = ref('')
const agreed = ref(false)
watch(
  () => props.clip,
  (clip) => {
    name.value = clip.model_name ?? ''
    agreed.value = clip.model_agreed ?? false
  },
  { immediate: true },
)
</script>

<template>
  <form class="hand-part" @submit.prevent="emit('set', { model_name: name.trim(), model_agreed: agreed })">
    <h3>A lift to measure others by</h3>
    <label for="model-name">Called</label>
    <input id="model-name" v-model="name" class="form-control form-control-sm" maxlength="80" />
    <label class="agree">
      <input v-model="agreed" type="checkbox" />
      {{ clip.athlete_name }} agrees that other athletes are shown this lift
    </label>
    <div>
      <button class="btn btn-sm btn-outline-secondary" :disabled="saving || !name.trim() || !agreed">
        {{ clip.model_name ? 'Keep' : 'Name it' }}
      </button>
      <button
        v-if="clip.model_name"
        type="button"
        class="btn btn-sm btn-link"
        :disabled="saving"
        @click="emit('set', { model_name: '', model_agreed: false })"
      >
        No longer
      </button>
    </div>
  </form>
</template>

<style scoped lang="scss">
.agree {
  display: flex;
  gap: 0.4rem;
  align-items: baseline;
}
</style>
