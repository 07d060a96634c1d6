<script setup lang="ts">
import { ref } from 'vue'
import { made } from '@/api/films'

/** A film to keep: it is made when it is asked for, and saved once it is there. */
const props = defineProps<{ address: string; says: string }>()
const making = ref(false)
const trouble = ref('')

async function keep() {
  making.value = true
  trouble.value = ''
  try {
    await made(props.address)
    const link = document.createElement('a')
    link.href = props.address
    link.download = ''
    link.click()
  } catch (error) {
    trouble.value = (error as Error).message
  } finally {
    making.value = false
  }
}
</script>

<template>
  <button type="button" class="btn btn-sm btn-link p-0" :disabled="making" :data-film="address" @click="keep">
    {{ making ? `${says}: being made …` : says }}
  </button>
  <span v-if="trouble" class="quiet" role="alert">{{ trouble }}</span>
</template>
