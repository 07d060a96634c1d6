<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Bench, Evidence } from '@/api/client'
import { spoken } from '@/format/quantity'

/** Where a rule begins to watch and where it calls a fault; the coach may set limits of their own. */
const props = defineProps<{ piece: Evidence; own: Bench['limits'][number] | null; saving: boolean }>()
const emit = defineEmits<{ set: [limits: { watch: number; fault_at: number; everyone: boolean }]; takeBack: [] }>()

const changing = ref(false)
const watchAt = ref(0)
const faultAt = ref(0)
const everyone = ref(false)
const unit = computed(() => (props.piece.unit && props.piece.unit !== '–' ? props.piece.unit : ''))
const from = computed(() => (props.piece.side === 'above' ? 'from' : 'below'))
/** A number and its unit stay on one line. */
const told = (value: number | null | undefined) => spoken(value ?? 0, props.piece.unit ?? '').replace(' ', '\u00a0')

function change() {
  watchAt.value = props.piece.watch ?? 0
  faultAt.value = props.piece.fault ?? 0
  everyone.value = props.own?.everyone ?? false
  changing.value = true
}
function set() {
  emit('set', { watch: watchAt.value, fault_at: faultAt.value, everyone: everyone.value })
  changing.value = false
}
</script>

<template>
  <!-- Between one foot and the other there is no limit to set. -->
  <span v-if="piece.unit !== 'foot'" class="limits">
    <template v-if="!changing">
      watch {{ from }} {{ told(piece.watch) }}, fault {{ from }} {{ told(piece.fault) }}
      <template v-if="own">
        by your limits{{ own.everyone ? ' for everyone' : '' }} (usual: {{ told(own.usual_watch) }},
        {{ told(own.usual_fault_at) }})
        <button type="button" class="btn btn-sm btn-link p-0" :disabled="saving" @click="emit('takeBack')">
          Take back
        </button>
      </template>
      <button type="button" class="btn btn-sm btn-link p-0" data-test="limits" @click="change">Change limits</button>
    </template>
    <form v-else @submit.prevent="set">
      <label>Watch {{ from }} <input v-model.number="watchAt" type="number" step="any" required /> {{ unit }}</label>
      <label>Fault {{ from }} <input v-model.number="faultAt" type="number" step="any" required /> {{ unit }}</label>
      <label><input v-model="everyone" type="checkbox" /> for all my athletes</label>
      <button class="btn btn-sm btn-primary" :disabled="saving">Set limits</button>
      <button type="button" class="btn btn-sm btn-link p-0" @click="changing = false">Leave them</button>
    </form>
  </span>
</template>

<style scoped lang="scss">
.limits {
  color: var(--quiet);
}
form {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.3rem 0.8rem;
  margin: 0.2rem 0;
}
label {
  display: inline-flex;
  align-items: center;
  gap: 0.3rem;
}
input[type='number'] {
  width: 5.2rem;
  color: inherit;
  background: transparent;
  border: 1px solid var(--rule);
  padding: 0.05rem 0.3rem;
}
.btn-link {
  font-size: inherit;
  vertical-align: baseline;
}
</style>
