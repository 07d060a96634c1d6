<script setup lang="ts">
import FilmLink from './FilmLink.vue'
import { computed, ref, watch } from 'vue'
import Amount from './Amount.vue'
import { api, ask, type Catalogue, type Lift, type Schemas } from '@/api/client'
import { quantity, words } from '@/format/quantity'

/**
 * Every measure of the lift, each with its unit and uncertainty, or with the reason why it is missing, beside where it usually lies for
 * this athlete. A click shows its frame.
 */
const props = defineProps<{
  lift: Lift
  /** Which of the clip's lifts it is. */
  liftIndex: number
  catalogue: Catalogue | null
  clip: string
  athlete: number
  active: boolean
}>()
const emit = defineEmits<{ go: [frame: number] }>()

/** Where this athlete's measures usually lie; asked for when the figures are first looked at. */
const usual = ref<Pick<Schemas['Series'], 'bands' | 'band_lifts' | 'band_needs'> | null>(null)
watch(
  () => [props.active, props.athlete, props.lift.kind] as const,
  async ([active, id, kind], before) => {
    if (before && (before[1] !== id || before[2] !== kind)) usual.value = null
    if (!active || usual.value) return
    const told = ask(api.GET('/api/athletes/{id}/series', { params: { path: { id }, query: { kind } } }))
    // Without it the figures stand all the same.
    usual.value = await told.catch(() => null)
  },
  { immediate: true },
)
const bands = computed(() => new Map((usual.value?.bands ?? []).map((band) => [band.measure, band])))

const rows = computed(() =>
  Object.entries(props.lift.measures).map(([id, measure]) => {
    const told = props.catalogue?.measures.find((m) => m.id === id)
    const band = bands.value.get(id) ?? null
    return { id, label: told?.label ?? words(id), about: told?.about ?? '', band, ...measure }
  }),
)
type Row = (typeof rows.value)[number]
const plain = (value: number, unit: string) => quantity(value, unit).figure
/** How many half-widths of the usual band a figure lies from its middle; 1 is its edge. */
const away = ({ value, band }: Row) =>
  value == null || !band ? -1 : Math.abs(value - band.middle) / Math.max((band.high - band.low) / 2, 1e-9)
const ORDERS = [
  { id: 'lift', label: 'as the lift goes', by: () => 0 },
  { id: 'name', label: 'by name', by: (a: Row, b: Row) => a.label.localeCompare(b.label) },
  { id: 'usual', label: 'least usual first', by: (a: Row, b: Row) => away(b) - away(a) },
]
const order = ref('lift')
const copying = ref('copy this table')
async function copy() {
  const lines = shown.value.map((row) =>
    [row.label, row.value ?? '', row.sd ?? '', row.unit, row.frame ?? '', row.reason ?? ''].join('\t'),
  )
  try {
    await navigator.clipboard.writeText(['measure\tvalue\tdeviation\tunit\tframe\treason', ...lines].join('\n'))
    copying.value = 'copied'
  } catch {
    copying.value = 'the browser did not allow copying: select the table, or keep everything'
  }
}
watch(
  () => props.lift,
  () => (copying.value = 'copy this table'),
)
const sought = ref('')
const missing = ref(false)
const shown = computed(() => {
  const parts = sought.value.toLowerCase().split(/\s+/).filter(Boolean)
  return rows.value
    .filter(
      (row) =>
        (missing.value || row.value != null) &&
        parts.every((part) => `${row.label} ${row.id}`.toLowerCase().includes(part)),
    )
    .sort(ORDERS.find((one) => one.id === order.value)!.by)
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
      <select v-model="order" class="form-select form-select-sm" aria-label="Order of the figures">
        <option v-for="one in ORDERS" :key="one.id" :value="one.id">{{ one.label }}</option>
      </select>
      <label v-if="unknown"><input v-model="missing" type="checkbox" /> also {{ unknown }} not taken</label>
    </div>
    <p class="keep">
      Keep:
      <a :href="`/api/clips/${clip}/positions.png?lift=${liftIndex}`" download>positions (PNG)</a>
      <a :href="`/api/clips/${clip}/positions.pdf?lift=${liftIndex}`" download>positions (PDF)</a>
      <FilmLink :address="`/api/clips/${clip}/drawn.mp4?lift=${liftIndex}`" says="drawn lift (MP4)" />
      <a :href="`/api/clips/${clip}/bar.csv`" download>bar's track (CSV)</a>
      <a :href="`/api/clips/${clip}/joints.trc`" download>joints (TRC)</a>
      <a :href="`/api/clips/${clip}/joints.c3d`" download>joints (C3D)</a>
      <a :href="`/api/clips/${clip}/notes.vtt`" download>notes (WebVTT)</a>
      <a :href="`/api/clips/${clip}/analysis.json`" download>everything (JSON)</a>
      <button type="button" @click="copy">{{ copying }}</button>
    </p>
    <p v-if="!shown.length" class="quiet foot">No figure is called that.</p>
    <table class="table table-sm mb-0">
      <thead v-if="bands.size">
        <tr>
          <th scope="col"><span class="visually-hidden">Figure</span></th>
          <th scope="col" class="num quiet">this lift</th>
          <th scope="col" class="usual quiet">usually</th>
          <th scope="col"><span class="visually-hidden">Frame</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in shown" :key="row.id" :title="row.about" :data-measure="row.id">
          <th scope="row">
            {{ row.label }}<sup v-if="row.note" title="The knee's height stands in from stature">h</sup>
          </th>
          <td v-if="row.value != null" class="num"><Amount :value="row.value" :unit="row.unit" :sd="row.sd" /></td>
          <td v-else class="quiet reason">{{ row.reason }}</td>
          <td v-if="bands.size" class="usual" :class="{ beyond: away(row) > 1 }">
            <template v-if="row.band">
              {{ plain(row.band.low, row.unit) }} to {{ plain(row.band.high, row.unit) }}
            </template>
          </td>
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
    <p v-if="bands.size" class="quiet foot">
      “Usually” is this athlete's own band over {{ usual!.band_lifts }} made lifts at 60 % of the best or more; bold is
      beyond it.
    </p>
    <p v-else-if="usual" class="quiet foot">
      Where figures usually lie for this athlete is told from {{ usual.band_needs }} made lifts of this kind on; there
      are {{ usual.band_lifts }}.
    </p>
    <p class="quiet foot">
      ± is one standard deviation: pixels, scale, plumb, joints and frame interval together. The last column is the
      frame that shows it.
    </p>
  </div>
</template>

<style scoped lang="scss">
.keep {
  display: flex;
  flex-wrap: wrap;
  gap: 0.1rem 0.9rem;
  margin: 0;
  padding: 0 0.75rem 0.3rem;
  font-size: 0.84rem;
}
.keep button {
  background: none;
  border: 0;
  padding: 0;
  color: var(--bs-link-color);
  text-decoration: underline;
}
.usual {
  text-align: right;
  white-space: nowrap;
  font-size: 0.82rem;
  color: var(--quiet);
  &.beyond {
    color: inherit;
    font-weight: 640;
  }
}
.seek {
  display: flex;
  align-items: center;
  gap: 0.8rem;
  padding: 0.4rem 0.75rem;
  font-size: 0.85rem;
  flex-wrap: wrap;
  input[type='search'] {
    max-width: 9rem;
  }
  select {
    width: auto;
  }
}
th {
  font-weight: 450;
}
.num {
  text-align: right;
}
thead th {
  font-size: 0.82rem;
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
