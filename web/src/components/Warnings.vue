<script setup lang="ts">
import type { AnalysisDocument } from '@/api/client'
import { words } from '@/format/quantity'

/** What makes an analysis doubtful, above what it makes so; and what would mend it, on one click. */
type Warning = AnalysisDocument['warnings'][number]
type Offer = NonNullable<Warning['offer']>
defineProps<{ warnings: Warning[]; saving: boolean }>()
const emit = defineEmits<{ take: [offer: Offer] }>()

function offered(offer: Offer): string {
  if (offer.lift) return `Take it as ${words(offer.lift)}`
  if (offer.capture_rate_hz) return `Set ${offer.capture_rate_hz.toFixed(0)} frames a second`
  if (offer.trim) return `Trim to frames ${offer.trim[0]} to ${offer.trim[1]}`
  return 'Turn round'
}
</script>

<template>
  <ul class="warnings" aria-label="What to know first">
    <li v-for="warning in warnings" :key="warning.code">
      <span class="sign cannot_tell" />
      <span>
        {{ warning.message }}
        <button
          v-if="warning.offer"
          type="button"
          class="btn btn-sm btn-outline-secondary"
          :disabled="saving"
          :data-offer="warning.code"
          @click="emit('take', warning.offer)"
        >
          {{ offered(warning.offer) }}
        </button>
      </span>
    </li>
  </ul>
</template>

<style scoped lang="scss">
.warnings {
  list-style: none;
  margin: 0;
  padding: 0.5rem 0.75rem;
  border-bottom: 1px solid var(--rule);
  font-size: 0.84rem;
  li {
    display: flex;
    align-items: baseline;
    gap: 0.5rem;
    & + li {
      margin-top: 0.35rem;
    }
  }
}
</style>
