<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { api, ask, type Handed } from '@/api/client'
import HandedReview from '@/components/HandedReview.vue'

const props = defineProps<{ token: string }>()
const review = ref<Handed | null>(null)
const trouble = ref('')

onMounted(async () => {
  try {
    review.value = await ask(api.GET('/api/handed/{token}', { params: { path: { token: props.token } } }))
  } catch (error) {
    trouble.value = (error as Error).message
  }
})
</script>

<template>
  <main>
    <p v-if="trouble" class="notice m-3" role="alert">{{ trouble }}</p>
    <HandedReview
      v-else-if="review"
      :review="review"
      :pictures="(place) => `/api/handed/${token}/pictures/${place}.jpg`"
      :voice="(note) => `/api/handed/${token}/voices/${note}.m4a`"
    />
    <p v-else class="quiet m-3">Opening your review …</p>
  </main>
</template>
