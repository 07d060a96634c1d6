<script setup lang="ts">
import { computed } from 'vue'
import { quantity } from '@/format/quantity'

/** A number with its unit, and its uncertainty when it has one. */
const props = defineProps<{ value: number; unit: string; sd?: number | null }>()
const shown = computed(() => quantity(props.value, props.unit))
/** The uncertainty at the same digits; one that would read as nothing is said to be smaller than the last digit shown. */
const spread = computed(() => {
  if (props.sd == null || props.unit === 'foot' || (props.unit === 'count' && props.sd === 0)) return null
  const { figure } = quantity(props.sd, props.unit)
  return Number(figure) > 0 ? `± ${figure}` : `± < ${figure.replace(/0$/, '1')}`
})
</script>

<template>
  <span class="amount"
    >{{ shown.figure }}<span v-if="spread" class="spread">&nbsp;{{ spread }}</span
    ><span v-if="shown.unit" class="figure-unit">&nbsp;{{ shown.unit }}</span></span
  >
</template>

<style scoped>
.amount {
  white-space: nowrap;
}
.spread {
  color: var(--quiet);
  font-size: 0.86em;
}
</style>
