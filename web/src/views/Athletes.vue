<script setup lang="ts">
import { computed, onMounted, reactive, ref } from 'vue'
import { api, ask, type Athlete, type Schemas } from '@/api/client'
import Leaving from '@/components/Leaving.vue'
import ReadIn from '@/components/ReadIn.vue'
import { title } from '@/format/quantity'

const LIFTS = ['snatch', 'clean', 'jerk', 'front_squat', 'back_squat', 'clean_and_press'] as const
// What everybody has; the axle's best is in the form.
const SHOWN = LIFTS.slice(0, 5)
const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
type Rack = Schemas['Rack']

const athletes = ref<Athlete[]>([])
const rack = ref<Rack | null>(null)
const pairs = ref<{ weight: number; count: number }[]>([])
const trouble = ref('')
const saved = ref('')
const loaded = ref(false)
interface Form {
  id: number
  name: string
  stature: string
  pain: number
  contact_bruise: boolean
  clearance: string
  training_days: number[]
  most_sets: string
  notes: string
  bests: Record<string, string>
  /** What the bests are entered in. */
  unit: 'kg' | 'lb'
}
const best = (athlete: Athlete, lift: string) => athlete.bests?.find((b) => b.lift === lift)
const formOf = (athlete: Athlete | null): Form => ({
  id: athlete?.id ?? 0,
  name: athlete?.name ?? '',
  stature: athlete?.stature_m ? String(Number((athlete.stature_m * 100).toFixed(1))) : '',
  pain: athlete?.pain ?? 0,
  contact_bruise: athlete?.contact_bruise ?? false,
  clearance: athlete?.clearance ?? '',
  training_days: [...(athlete?.training_days ?? [0, 2, 4])],
  most_sets: athlete?.most_sets ? String(athlete.most_sets) : '',
  notes: athlete?.notes ?? '',
  unit: rack.value?.unit ?? 'kg',
  bests: Object.fromEntries(LIFTS.map((lift) => [lift, String((athlete && best(athlete, lift)?.load) ?? '')])),
})
/** What is entered of each athlete, the new one as 0, until it is saved or left: looking at another loses none of it. */
const forms = reactive(new Map([[0, formOf(null)]]))
const open = ref(0)
const form = computed(() => forms.get(open.value)!)
const unsaved = (athlete: Athlete | null) => {
  const entered = forms.get(athlete?.id ?? 0)
  const asItIs = entered && { ...formOf(athlete), unit: entered.unit }
  return !!entered && JSON.stringify(entered) !== JSON.stringify(asItIs)
}

async function guarded(work: () => Promise<void>, done = '') {
  try {
    await work()
    trouble.value = ''
    saved.value = done
  } catch (error) {
    trouble.value = (error as Error).message
    saved.value = ''
  }
}
async function freshAthletes() {
  athletes.value = await ask(api.GET('/api/athletes'))
}
async function freshRack() {
  rack.value = await ask(api.GET('/api/rack'))
  pairs.value = Object.entries(rack.value.pairs)
    .map(([weight, count]) => ({ weight: Number(weight), count: Number(count) }))
    .sort((a, b) => b.weight - a.weight)
}
onMounted(() =>
  guarded(async () => {
    await Promise.all([freshAthletes(), freshRack()])
    if (!unsaved(null)) forms.set(0, formOf(null))
    loaded.value = true
  }),
)

function edit(athlete: Athlete) {
  if (!forms.has(athlete.id)) forms.set(athlete.id, formOf(athlete))
  open.value = athlete.id
}
function leave() {
  const { id } = form.value
  open.value = 0
  if (id) forms.delete(id)
  else forms.set(0, formOf(null))
}
const leaving = computed(() => athletes.value.find((athlete) => athlete.id === form.value.id) ?? null)
const gone = () =>
  guarded(async () => {
    leave()
    await freshAthletes()
  }, 'Removed, with everything of theirs.')
const figure = (written: string) => Number(written.replace(',', '.'))

const keep = () =>
  guarded(async () => {
    const told = form.value
    const today = new Date().toLocaleDateString('en-CA')
    const before = new Map(
      athletes.value.find((a) => a.id === told.id)?.bests?.map((best) => [best.lift as string, best]) ?? [],
    )
    const bests = LIFTS.filter((lift) => told.bests[lift]).map((lift) => {
      const load = figure(told.bests[lift]!)
      const old = before.get(lift)
      // What was not touched keeps its kilograms, whatever they come to in pounds.
      return old && old.load === load
        ? { lift, kilos: old.kilos, on: old.on }
        : { lift, load, unit: told.unit, on: today }
    })
    const body = {
      name: told.name.trim(),
      stature_m: told.stature ? figure(told.stature) / 100 : null,
      pain: Number(told.pain),
      contact_bruise: told.contact_bruise,
      clearance: told.clearance.trim(),
      training_days: told.training_days,
      most_sets: told.most_sets ? Number(told.most_sets) : null,
      notes: told.notes,
      bests,
    } as Athlete
    if (told.id) {
      await ask(api.PATCH('/api/athletes/{id}', { params: { path: { id: told.id } }, body }))
      for (const lift of LIFTS.filter((lift) => before.has(lift) && !told.bests[lift]))
        await ask(api.DELETE('/api/athletes/{id}/bests/{lift}', { params: { path: { id: told.id, lift } } }))
    } else await ask(api.POST('/api/athletes', { body }))
    await freshAthletes()
    leave()
  }, 'Saved.')

const keepRack = () =>
  guarded(async () => {
    const held: Record<string, number> = {}
    for (const { weight, count } of pairs.value)
      if (weight > 0) held[String(weight)] = (held[String(weight)] ?? 0) + count
    await ask(api.PUT('/api/rack', { body: { ...rack.value!, pairs: held } }))
    await freshRack()
    // Bests are shown as the gym counts; what is entered and not saved yet keeps the unit it was entered in.
    await freshAthletes()
    for (const athlete of athletes.value) if (!unsaved(athlete)) forms.delete(athlete.id)
    if (!unsaved(null)) forms.set(0, formOf(null))
    if (!forms.has(open.value)) open.value = 0
  }, 'The plates are saved.')
</script>

<template>
  <main class="people">
    <h1>Athletes and discs</h1>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <p v-else-if="saved" role="status"><span class="sign fine" /> {{ saved }}</p>
    <div v-if="loaded" class="columns">
      <section>
        <table class="table panel">
          <thead>
            <tr>
              <th>Athlete</th>
              <th class="num">Stature</th>
              <th v-for="lift in SHOWN" :key="lift" class="num">{{ title(lift) }}</th>
              <th />
            </tr>
          </thead>
          <tbody>
            <tr v-for="athlete in athletes" :key="athlete.id">
              <td>
                <b>{{ athlete.name }}</b>
                <div v-if="unsaved(athlete)" class="quiet small">not saved yet</div>
                <div v-if="(athlete.pain ?? 0) >= 4" class="flag">
                  <span class="sign fault" /> pain {{ athlete.pain }} of 10: no drills
                </div>
                <div v-if="athlete.contact_bruise" class="flag"><span class="sign fault" /> bruise: no contact</div>
              </td>
              <td class="num">
                {{ athlete.stature_m ? (athlete.stature_m * 100).toFixed(0) : ''
                }}<span v-if="athlete.stature_m" class="figure-unit">&nbsp;cm</span>
              </td>
              <td v-for="lift in SHOWN" :key="lift" class="num" :title="best(athlete, lift)?.on">
                <template v-if="best(athlete, lift)">
                  {{ best(athlete, lift)!.load }}<span class="figure-unit">&nbsp;{{ best(athlete, lift)!.unit }}</span>
                </template>
              </td>
              <td class="act-cell">
                <RouterLink :to="{ name: 'plan', params: { id: athlete.id } }">Plan</RouterLink>
                <RouterLink :to="{ name: 'log', params: { id: athlete.id } }">Log</RouterLink>
                <RouterLink :to="{ name: 'lifts', params: { id: athlete.id } }">Lifts together</RouterLink>
                <button type="button" class="btn btn-sm btn-link p-0" @click="edit(athlete)">Change</button>
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="!athletes.length" class="quiet">No athletes yet. Enter the first beside this.</p>
        <form v-if="rack" class="panel rack" @submit.prevent="keepRack">
          <div class="panel-head">
            <h2>Bar and discs on hand</h2>
            <span class="quiet">loads are rounded down to what these allow</span>
          </div>
          <div class="fields">
            <label
              >Unit
              <select v-model="rack.unit" class="form-select form-select-sm">
                <option>kg</option>
                <option>lb</option>
              </select></label
            >
            <label
              >Bar <input v-model.number="rack.bar" type="number" step="any" class="form-control form-control-sm"
            /></label>
            <label
              >Both collars
              <input v-model.number="rack.collars" type="number" step="any" class="form-control form-control-sm"
            /></label>
          </div>
          <div class="fields">
            <label v-for="(pair, index) in pairs" :key="index" class="pair">
              <span
                ><input
                  v-model.number="pair.weight"
                  type="number"
                  step="any"
                  min="0"
                  class="form-control form-control-sm"
                  aria-label="Disc weight"
                />
                {{ rack.unit }} ×</span
              >
              <input
                v-model.number="pair.count"
                type="number"
                min="0"
                max="20"
                class="form-control form-control-sm"
                aria-label="Pairs of it"
              />
            </label>
          </div>
          <div class="fields">
            <button type="button" class="btn btn-sm btn-outline-secondary" @click="pairs.push({ weight: 0, count: 1 })">
              Another disc
            </button>
            <button class="btn btn-sm btn-primary">Save the discs</button>
            <span class="quiet">weight × number of pairs</span>
          </div>
        </form>
        <ReadIn @kept="guarded(freshAthletes, 'The athletes are there.')" />
      </section>
      <form class="panel card-form" @submit.prevent="keep">
        <h2>{{ form.id ? `Change ${form.name}` : 'New athlete' }}</h2>
        <label>Name <input v-model="form.name" class="form-control form-control-sm" required maxlength="80" /></label>
        <label
          >Stature, cm <input v-model="form.stature" class="form-control form-control-sm" inputmode="decimal"
        /></label>
        <fieldset>
          <legend>Bests, {{ form.unit }}</legend>
          <label v-for="lift in LIFTS" :key="lift"
            >{{ title(lift) }}
            <input v-model="form.bests[lift]" class="form-control form-control-sm" inputmode="decimal"
          /></label>
        </fieldset>
        <label
          >Pain now, 0 to 10
          <input v-model.number="form.pain" type="number" min="0" max="10" class="form-control form-control-sm"
        /></label>
        <p class="quiet small">
          From 4 on, or when it is sharp, numb or a joint gives way: stop, and see a licensed clinician. No drill is
          offered.
        </p>
        <label class="tick"
          ><input v-model="form.contact_bruise" type="checkbox" /> Bruise where the bar meets hip or thigh</label
        >
        <label
          >Clearance asked for, because of
          <input v-model="form.clearance" class="form-control form-control-sm" maxlength="120" placeholder="nothing" />
          <span class="quiet small">a minor, pregnancy, a recent injury or surgery</span></label
        >
        <fieldset class="days">
          <legend>Training days</legend>
          <label v-for="(name, n) in DAYS" :key="name" class="tick"
            ><input v-model="form.training_days" type="checkbox" :value="n" /> {{ name }}</label
          >
        </fieldset>
        <label
          >Planned sets a week, at most
          <input v-model="form.most_sets" class="form-control form-control-sm" inputmode="numeric"
        /></label>
        <label>Notes <textarea v-model="form.notes" class="form-control form-control-sm" rows="2" /></label>
        <div class="act">
          <button class="btn btn-sm btn-primary">Save</button>
          <button v-if="form.id || unsaved(null)" type="button" class="btn btn-sm btn-outline-secondary" @click="leave">
            {{ form.id ? 'Leave' : 'Clear' }}
          </button>
          <button v-if="form.id && unsaved(null)" type="button" class="btn btn-sm btn-link" @click="open = 0">
            New athlete
          </button>
        </div>
        <Leaving v-if="leaving" :athlete="leaving" @gone="gone" />
      </form>
    </div>
    <p v-else-if="!trouble" class="quiet">Looking …</p>
  </main>
</template>

<style scoped lang="scss">
.people {
  max-width: 1160px;
  width: 100%;
  margin: 0 auto;
  padding: 1rem;
}
.columns {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 270px;
  gap: 1rem;
  align-items: start;
}
.num {
  text-align: right;
}
.act-cell {
  white-space: nowrap;
  a {
    margin-right: 0.7rem;
  }
}
.flag {
  font-size: 0.84rem;
}
.fields {
  display: flex;
  flex-wrap: wrap;
  align-items: end;
  gap: 0.7rem;
  padding: 0 0.75rem 0.7rem;
}
label {
  font-size: 0.84rem;
}
legend {
  grid-column: 1 / -1;
  margin: 0;
}
.rack input,
.rack select {
  width: 5rem;
}
.pair {
  display: flex;
  align-items: center;
  gap: 0.3rem;
  span {
    display: inline-flex;
    align-items: center;
    gap: 0.3rem;
  }
}
.card-form {
  padding: 0.7rem 0.8rem;
  display: grid;
  gap: 0.5rem;
}
fieldset {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.4rem 0.6rem;
}
legend {
  font-size: 0.84rem;
  color: var(--quiet);
  margin: 0;
}
.small {
  font-size: 0.8rem;
  margin: 0;
}
.days {
  grid-template-columns: repeat(4, 1fr) !important;
}
.tick {
  display: flex;
  gap: 0.4rem;
}
.act {
  display: flex;
  gap: 0.5rem;
}
@media (max-width: 900px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
