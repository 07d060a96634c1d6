<script setup lang="ts">
import { computed, watch } from 'vue'
import { left, useClock } from './timers'

/** The rest between sets, counted down by the clock and not by ticks, so that a sleeping screen does not lengthen it. */
const props = defineProps<{ rest: number }>()
const clock = useClock(() => Date.now())
const over = computed(() => clock.seconds.value >= props.rest)
defineExpose({ start: clock.start })

watch(over, (is) => {
  if (!is || !clock.running.value) return
  clock.stop()
  if ('vibrate' in navigator) navigator.vibrate([150, 80, 150])
})
</script>

<template>
  <button type="button" class="rest" @click="clock.running.value ? clock.stop() : clock.start()">
    <template v-if="clock.running.value">
      <b>{{ left(rest - clock.seconds.value) }}</b> rest, tap to end
    </template>
    <template v-else-if="over && clock.seconds.value > 0"><i class="sign fine" /> Rested. Next set.</template>
    <template v-else>Rest timer, {{ left(rest) }} min</template>
  </button>
</template>

<style scoped lang="scss">
.rest {
  width: 100%;
  min-height: 44px;
  border: 1px solid var(--rule);
  border-radius: 3px;
  background: var(--panel);
  color: inherit;
  b {
    font-size: 1.2rem;
    margin-right: 0.4rem;
  }
}
</style>
