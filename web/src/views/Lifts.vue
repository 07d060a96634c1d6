<script setup lang="ts">
import AthleteTabs from '@/components/AthleteTabs.vue'
import { computed, onMounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, type Athlete, type Schemas } from '@/api/client'
import LoadChart from '@/components/LoadChart.vue'
import { dated, spoken, title, words } from '@/format/quantity'

/** What an athlete's lifts tell together: what breaks as it gets heavy, speed against load, made against missed, what tires. */
const props = defineProps<{ id: string }>()
const router = useRouter()
type Series = Schemas['Series']
const series = ref<Series | null>(null)
const athlete = ref<Athlete | null>(null)
const trouble = ref('')
const kind = ref('')
const since = ref('')
const measure = ref('peak_velocity')

async function load() {
  try {
    const query = {
      measure: measure.value,
      ...(kind.value ? { kind: kind.value } : {}),
      ...(since.value ? { since: since.value } : {}),
    }
    athlete.value ??= await ask(api.GET('/api/athletes/{id}', { params: { path: { id: Number(props.id) } } }))
    const told = await ask(api.GET('/api/athletes/{id}/series', { params: { path: { id: Number(props.id) }, query } }))
    series.value = told
    kind.value ||= told.kind
    measure.value = told.measure
    trouble.value = ''
  } catch (error) {
    trouble.value = (error as Error).message
  }
}
onMounted(load)
watch([kind, since], (_, [before]) => before && load())
watch(measure, (now) => now !== series.value?.measure && load())

const first = computed(() => series.value?.breaks[0] ?? null)
const limit = computed(() => series.value?.breaks.find((one) => one.measure === series.value?.measure)?.limit ?? null)
/** Of which confirmed fault the lifts are marked in the chart. */
const marking = ref('')
const marked = computed(() => series.value?.confirmed.find((one) => one.fault === marking.value)?.entries ?? [])
const profile = computed(() => series.value?.profile ?? null)
const kilos = (value: number) => `${Number(value.toFixed(1))} kg`
const between = ({ lightest_kg, heaviest_kg }: Series['confirmed'][number]) =>
  lightest_kg === heaviest_kg
    ? `at ${kilos(lightest_kg)}`
    : `from ${Number(lightest_kg.toFixed(1))} to ${kilos(heaviest_kg)}`
</script>

<template>
  <main class="lifts">
    <p v-if="trouble" class="notice" role="alert">
      {{ trouble }} <RouterLink to="/athletes">Back to the athletes</RouterLink>
    </p>
    <template v-if="series && athlete">
      <AthleteTabs :id="id" :name="athlete.name" />
      <div class="bar">
        <label v-if="series.kinds.length"
          >Lift
          <select v-model="kind" class="form-select form-select-sm">
            <option v-for="one in series.kinds" :key="one.kind" :value="one.kind">
              {{ title(one.kind) }} ({{ one.lifts }})
            </option>
          </select></label
        >
        <label>Since <input v-model="since" type="date" class="form-control form-control-sm" /></label>
      </div>
      <p v-if="!series.lifts.length" class="quiet">
        No measured lift with a load here yet. Upload clips on the <RouterLink to="/">queue</RouterLink> and say what
        was on the bar.
      </p>
      <div v-else class="columns">
        <section class="panel chart">
          <div class="panel-head">
            <h2>Against load</h2>
            <select v-model="measure" class="form-select form-select-sm" aria-label="Measure">
              <option v-for="one in series.measures" :key="one.measure" :value="one.measure">{{ one.label }}</option>
            </select>
          </div>
          <LoadChart
            :series="series"
            :limit="limit"
            :marked="marked"
            @open="(clip) => router.push({ name: 'bench', params: { id: clip } })"
          />
          <p class="quiet key">
            Rings: made; crosses: missed; filled: the newest day. A click opens the clip.
            <template v-if="series.measure === 'peak_velocity'">
              <template v-if="profile && profile.plateau_m_s !== null && profile.break_kg !== null">
                Speed holds at {{ spoken(profile.plateau_m_s!, 'm/s') }} up to {{ kilos(profile.break_kg!) }}, then
                falls by {{ spoken(-profile.slope_m_s_per_10_kg, 'm/s') }} every 10 kg.
              </template>
              <template v-else-if="profile">
                Speed changes by {{ spoken(profile.slope_m_s_per_10_kg, 'm/s') }} every 10 kg; no load beyond which it
                breaks shows.
              </template>
              <template v-else>Four different loads are needed before a curve is drawn.</template>
            </template>
          </p>
          <p class="quiet key">
            <template v-if="series.bands.length">Shaded: usual for {{ athlete.name }}.</template>
            <template v-else>
              {{ series.band_lifts }} of {{ series.band_needs }} made lifts at 60 % or more: until there are enough, the
              general limits stand.
            </template>
          </p>
        </section>
        <aside>
          <section class="panel part" data-test="breaks">
            <h2>What breaks as it gets heavy</h2>
            <p v-if="first">
              First: <b>{{ first.name }}</b> at {{ kilos(first.load_kg) }}. {{ first.label }} goes from
              {{ spoken(first.lightest, first.unit) }} at the lightest to {{ spoken(first.there, first.unit) }} there
              and {{ spoken(first.heaviest, first.unit) }} at the heaviest; watched beyond
              {{ spoken(first.limit, first.unit) }}.
            </p>
            <p v-else class="quiet">
              Nothing leaves its limits as the load rises{{
                new Set(series.lifts.map((one) => one.load_kg)).size < 3 ? ': three loads are needed to tell' : ''
              }}.
            </p>
            <ul v-if="series.breaks.length > 1">
              <li v-for="one in series.breaks.slice(1)" :key="one.fault + one.measure">
                <button type="button" class="btn btn-sm btn-link p-0" @click="measure = one.measure">
                  {{ one.name }}
                </button>
                at {{ kilos(one.load_kg) }}: {{ spoken(one.lightest, one.unit) }} → {{ spoken(one.there, one.unit) }}
              </li>
            </ul>
          </section>
          <section class="panel part" data-test="confirmed">
            <h2>Faults you confirmed</h2>
            <ul v-if="series.confirmed.length">
              <li v-for="one in series.confirmed" :key="one.fault">
                <button
                  type="button"
                  class="btn btn-sm btn-link p-0"
                  :aria-pressed="marking === one.fault"
                  @click="marking = marking === one.fault ? '' : one.fault"
                >
                  {{ one.name }}
                </button>
                in {{ one.entries.length }} of {{ series.lifts.length }} lifts, {{ between(one) }},
                <span class="text-nowrap">last on {{ dated(one.last_on) }}</span>
              </li>
            </ul>
            <p v-else class="quiet">No fault of these lifts is confirmed yet.</p>
            <p v-if="marked.length" class="quiet">Dashed rings: lifts that have it.</p>
          </section>
          <section class="panel part">
            <h2>Missed against made</h2>
            <ul v-if="series.missed.length">
              <li v-for="one in series.missed" :key="one.measure">
                <button type="button" class="btn btn-sm btn-link p-0" @click="measure = one.measure">
                  {{ one.label }}
                </button>
                {{ spoken(one.first, one.unit) }} made ({{ one.first_lifts }}), {{ spoken(one.then, one.unit) }} missed
                ({{ one.then_lifts }})
              </li>
            </ul>
            <p v-else class="quiet">
              {{
                series.lifts.some((one) => one.made === false)
                  ? 'No difference shows beyond its own uncertainty.'
                  : 'No missed lift here.'
              }}
            </p>
          </section>
          <section class="panel part">
            <h2>First set against last</h2>
            <ul v-if="series.tired.length">
              <li v-for="one in series.tired" :key="one.measure">
                <button type="button" class="btn btn-sm btn-link p-0" @click="measure = one.measure">
                  {{ one.label }}
                </button>
                {{ spoken(one.first, one.unit) }} → {{ spoken(one.then, one.unit) }}
              </li>
            </ul>
            <p v-else class="quiet">
              Two sets of one load on one day, and a difference beyond its uncertainty, are needed.
            </p>
          </section>
          <section v-if="series.repetitions.length" class="panel part">
            <h2>Over the repetitions</h2>
            <ul>
              <li v-for="one in series.repetitions" :key="one.clip + one.measure">
                {{ one.label }}, {{ kilos(one.load_kg) }} × {{ one.repetitions }}: {{ one.each > 0 ? '+' : ''
                }}{{ spoken(one.each, one.unit) }} from one to the next
              </li>
            </ul>
          </section>
        </aside>
      </div>
    </template>
    <p v-else-if="!trouble" class="quiet">Looking at {{ words('the lifts') }} …</p>
  </main>
</template>

<style scoped lang="scss">
.lifts {
  max-width: 1160px;
  width: 100%;
  margin: 0 auto;
  padding: 1rem;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: end;
  gap: 0.5rem 1rem;
  margin-bottom: 0.7rem;
  h1 {
    margin: 0 auto 0 0;
  }
  label {
    font-size: 0.84rem;
    display: flex;
    align-items: center;
    gap: 0.35rem;
  }
}
.columns {
  display: grid;
  grid-template-columns: minmax(0, 1.5fr) minmax(18rem, 1fr);
  gap: 0.8rem;
  align-items: start;
}
aside {
  display: grid;
  gap: 0.8rem;
}
.panel-head select {
  width: auto;
  margin-left: auto;
  max-width: 60%;
}
.key {
  margin: 0;
  padding: 0 0.75rem 0.5rem;
  font-size: 0.84rem;
}
.part {
  padding: 0.5rem 0.75rem 0.6rem;
  h2 {
    margin: 0 0 0.3rem;
  }
  p {
    margin: 0;
  }
  ul {
    margin: 0.3rem 0 0;
    padding-left: 1.1rem;
    font-size: 0.9rem;
  }
  .btn-link {
    font-size: inherit;
    vertical-align: baseline;
  }
}
@media (max-width: 900px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
