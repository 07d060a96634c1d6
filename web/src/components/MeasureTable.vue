<script setup lang="ts">
import { computed, ref } from 'vue'
import Amount from './Amount.vue'
import type { Catalogue, Lift } from '@/api/client'
import { words } from '@/format/quantity'

/** Every measure of the lift, each with its unit and uncertainty, or with the reason why it is missing. A click shows its frame. */
const props = defineProps<{ lift: Lift; catalogue: Catalogue | null; clip: string }>()
const emit = defineEmits<{ go: [frame: number] }>()

const rows = computed(() =>
  Object.entries(props.lift.measures).map(([id, measure]) => {
    const told = props.catalogue?.measures.find((m) => m.id === id)
    return { id, label: told?.label ?? words(id), about: told?.about ?? '', ...measure }
  }),
)
const sought = ref('')
const missing = ref(false)
const shown = computed(() => {
  const parts = sought.value.toLowerCase().split(/\s+/).filter(Boolean)
  return rows.value.filter(
    (row) =>
      (missing.value || row.value != null) &&
      parts.every((part) => `${row.label} ${row.id}`.toLowerCase().includes(part)),
  )
})
const unknown = computed(() => rows.value.filter((row) => row.value == null).length)
const standIn = computed(() => rows.value.some((row) => row.note))
</script>

<template>
  <div>
    <div class="seek">
      <input
        v-model="sought"
        type="search"
        class="form-control form-control-sm"
        placeholder="Find a figure"
        aria-label="Find a figure"
      />
      <label v-if="unknown"><input v-model="missing" type="checkbox" /> also {{ unknown }} not taken</label>
    </div>
    <p class="keep">
      Keep:
      <a :href="`/api/clips/${clip}/positions.png`" download>positions (PNG)</a>
      <a :href="`/api/clips/${clip}/drawn.mp4`" download>drawn lift (MP4)</a>
      <a :href="`/api/clips/${clip}/bar.csv`" download>bar's track (CSV)</a>
      <a :href="`/api/clips/${clip}/joints.trc`" download>joints (TRC)</a>
      <a :href="`/api/clips/${clip}/notes.vtt`" download>notes (WebVTT)</a>
      <a :href="`/api/clips/${clip}/analysis.json`" download>everything (JSON)</a>
    </p>
    <p v-if="!shown.length" class="quiet foot">No figure is called that.</p>
    <table class="table table-sm mb-0">
      <tbody>
        <tr v-for="row in shown" :key="row.id" :title="row.about" :data-measure="row.id">
          <th scope="row">
            {{ row.label }}<sup v-if="row.note" title="The knee's height stands in from stature">h</sup>
          </th>
          <td v-if="row.value != null" class="num"><Amount :value="row.value" :unit="row.unit" :sd="row.sd" /></td>
          <td v-else class="quiet reason">{{ row.reason }}</td>
          <td class="jump">
            <button
              v-if="row.frame != null"
              type="button"
              :aria-label="`Show ${row.label} at frame ${row.frame}`"
              @click="emit('go', row.frame)"
            >
              {{ row.frame }}
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="standIn" class="quiet foot">
      <sup>h</sup> The knee's height stands in from stature, since the knee was not seen; the wider uncertainty says so.
    </p>
    <p class="quiet foot">
      ± is one standard deviation: pixels, scale, plumb, joints and frame interval together. The last column is the
      frame that shows it.
    </p>
  </div>
</template>

<style scoped lang="scss">
.keep {
  flex-wrap: wrap;
  row-gap: 0.1rem;
  display: flex;
  gap: 0.9rem;
  margin: 0;
  padding: 0 0.75rem 0.3rem;
  font-size: 0.84rem;
}
.seek {
  display: flex;
  align-items: center;
  gap: 0.8rem;
  padding: 0.4rem 0.75rem;
  font-size: 0.85rem;
  input[type='search'] {
    max-width: 14rem;
  }
}
th {
  font-weight: 450;
}
.num {
  text-align: right;
}
.reason {
  font-size: 0.82rem;
}
.jump {
  width: 3rem;
  text-align: right;
  button {
    background: none;
    border: 0;
    color: var(--bs-link-color);
    padding: 0 0.2rem;
    min-width: 24px;
    min-height: 24px;
  }
}
.foot {
  font-size: 0.78rem;
  padding: 0.4rem 0.75rem 0;
  margin: 0;
}
</style>
