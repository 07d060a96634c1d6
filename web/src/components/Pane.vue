<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import type { Bench, Lift } from '@/api/client'
import { REFERENCE } from '@/components/beside'
import Stage from '@/components/Stage.vue'
import { useFootage } from '@/footage/useFootage'

/**
 * One of the clips that lie beside each other: its footage at the frame asked for, with what was measured drawn over it. The made-up
 * lifter has no footage; the body stands on an empty stage.
 */
const props = defineProps<{
  clip: string
  bench: Pick<Bench, 'document' | 'playback_s'>
  lift: Lift
  frame: number
  mirrored: boolean
  showBody: boolean
}>()
const canvas = ref<HTMLCanvasElement | null>(null)
const url = computed(() => `/api/clips/${props.clip}/video.mp4`)
const filmed = computed(() => props.clip !== REFERENCE)
const times = computed(() => (filmed.value ? props.bench.playback_s : null))
const { shown, ready, trouble, go } = useFootage(canvas, url, times)
watch([() => props.frame, ready], () => void go(props.frame))
/** The floor, and nothing else. */
function empty() {
  const pen = !filmed.value && canvas.value?.getContext('2d')
  if (!pen) return
  const { width, height } = props.bench.document.clip
  Object.assign(pen.canvas, { width, height })
  const floor = Math.max(...['left', 'right'].map((side) => props.bench.document.joints[`${side}_toe`]?.y_px?.[0] ?? 0))
  pen.fillStyle = '#3a3f42'
  pen.fillRect(0, 0, width, height)
  pen.fillStyle = '#2b2f31'
  pen.fillRect(0, floor, width, height - floor)
}
onMounted(empty)
watch(() => props.bench, empty)
</script>

<template>
  <div class="pane">
    <Stage
      v-model:canvas="canvas"
      :analysis="bench.document"
      :lift="lift"
      :frame="filmed ? shown : frame"
      :mirrored="mirrored"
      :corrected="[]"
      :show-path="true"
      :show-plumb="true"
      :show-body="showBody || !filmed"
      :joints-set="[]"
      :movable="false"
      :picking="null"
      :picked="[]"
    />
    <p v-if="trouble" class="cover">The footage cannot be shown: {{ trouble }}. The figures stand.</p>
    <p v-else-if="filmed && !ready" class="cover">
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
.cover {
  position: absolute;
  inset: 0;
  display: grid;
  place-items: center;
  margin: 0;
  color: #dfe2e0;
}
</style>
