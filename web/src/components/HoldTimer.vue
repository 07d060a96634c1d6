<script setup lang="ts">
import { computed, watch } from 'vue'
import { useClock } from './timers'

/** An honest hold: it runs from the tap to the tap and says what it was, in real seconds, and whether it was what was asked. */
const props = defineProps<{ asked: number }>()
const clock = useClock()
const long = computed(() => clock.seconds.value >= props.asked)
const stopped = computed(() => !clock.running.value && clock.seconds.value > 0)
const turn = () => (clock.running.value ? clock.stop() : clock.start())

watch(long, (is) => {
  if (is && clock.running.value && 'vibrate' in navigator) navigator.vibrate(200)
})
</script>

<template>
  <button type="button" class="hold" :class="{ long, running: clock.running.value }" data-test="hold" @click="turn">
    <b>{{ clock.seconds.value.toFixed(1) }} s</b>
    <span v-if="clock.running.value">{{ long ? 'now go on' : `hold, ${asked} s` }}</span>
    <span v-else-if="stopped && long"><i class="sign fine" /> held, tap to time again</span>
    <span v-else-if="stopped"><i class="sign fault" /> {{ (asked - clock.seconds.value).toFixed(1) }} s short</span>
    <span v-else>Hold timer: tap when it begins</span>
  </button>
</template>

<style scoped lang="scss">
.hold {
  width: 100%;
  min-height: 56px;
  display: flex;
  align-items: center;
  gap: 0.8rem;
  padding: 0.3rem 0.8rem;
  border: 1px solid var(--rule);
  border-radius: 3px;
  background: var(--panel);
  color: inherit;
  b {
    font-size: 1.5rem;
    min-width: 4.6rem;
    text-align: right;
  }
  &.running {
    border: 2px solid var(--look);
  }
  &.running.long {
    border: 2px solid var(--good);
  }
}
</style>
