<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Bench, Lift } from '@/api/client'
import Stage from '@/components/Stage.vue'
import { useFootage } from '@/footage/useFootage'

/** One of the clips that lie beside each other: its footage at the frame asked for, with what was measured drawn over it. */
const props = defineProps<{
  clip: string
  bench: Bench
  lift: Lift
  frame: number
  mirrored: boolean
  showBody: boolean
}>()
const canvas = ref<HTMLCanvasElement | null>(null)
const url = computed(() => `/api/clips/${props.clip}/video.mp4`)
const times = computed(() => props.bench.playback_s)
const { shown, ready, trouble, go } = useFootage(canvas, url, times)
watch([() => props.frame, ready], () => void go(props.frame))
</script>

<template>
  <div :class="['pane', { mirrored }]">
    <Stage
      v-model:canvas="canvas"
      :analysis="bench.document"
      :lift="lift"
      :frame="shown"
      :corrected="[]"
      :show-path="true"
      :show-plumb="true"
      :show-body="showBody"
      :joints-set="[]"
      :movable="false"
      :picking="null"
      :picked="[]"
    />
    <p v-if="trouble" class="cover">The footage cannot be shown: {{ trouble }}. The figures stand.</p>
    <p v-else-if="!ready" class="cover">
      {{ bench.playback_s ? 'Opening the footage …' : 'The footage is still being prepared for stepping.' }}
    </p>
  </div>
</template>

<style scoped lang="scss">
.pane {
  position: relative;
  background: var(--stage);
  height: 100%;
  min-height: 0;
  overflow: hidden;
}
.mirrored {
  :deep(.stage) {
    transform: scaleX(-1);
  }
  /* What is written is read the usual way round. */
  :deep(text) {
    transform-box: fill-box;
    transform-origin: center;
    transform: scaleX(-1);
  }
}
.cover {
  position: absolute;
  inset: 0;
  display: grid;
  place-items: center;
  margin: 0;
  color: #dfe2e0;
}
</style>
