<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { api, ask, type Handed } from '@/api/client'
import HandedReview from '@/components/HandedReview.vue'
import { printed } from '@/components/paper'

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
      v-if="review"
      :review="review"
      :pictures="(place) => `/api/handed/${token}/pictures/${place}.jpg`"
      :moment="(frame) => `/api/handed/${token}/moments/${frame}.jpg`"
      :film="(note) => `/api/handed/${token}/films/${note}.mp4`"
      :voice="(note) => `/api/handed/${token}/voices/${note}.m4a`"
    />
    <p v-if="review" class="keep screen-only">
      <button type="button" class="btn btn-outline-secondary" @click="printed">Print, or keep as PDF</button>
    </p>
    <p v-else-if="!trouble" class="quiet m-3">Opening your review …</p>
  </main>
</template>

<style scoped lang="scss">
.keep {
  max-width: 34rem;
  margin: 0 auto;
  padding: 0 1rem 1.5rem;
}
</style>
