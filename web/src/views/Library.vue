<script setup lang="ts">
import { computed, onMounted, reactive, ref, watch } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import FaultShelf from '@/components/FaultShelf.vue'
import OwnLadder from '@/components/OwnLadder.vue'
import { shelfName, found, nothingWanted, type Exercise } from '@/components/shelf'
import { title, words } from '@/format/quantity'

/** The exercises and teaching ladders: find one, see what it is for, change it, put it away. */
const library = ref<Schemas['Library'] | null>(null)
const catalogue = ref<Schemas['Catalogue'] | null>(null)
const wanted = reactive(nothingWanted())
const chosen = ref('')
/** Which ladder of the coach's own is open: none, a new one (empty), or one that is there. */
const ladderOpen = ref<string | null>(null)
const dropLadder = (ladder: string) =>
  guarded(async () => {
    library.value = await ask(api.DELETE('/api/ladders/{ladder}', { params: { path: { ladder } } }))
  })
const part = ref<'exercises' | 'faults' | 'ladders'>('exercises')
const trouble = ref('')
/** What of an exercise is changed by hand. */
interface Draft {
  /** Made like the exercise that is chosen, not that one changed. */
  fresh: boolean
  name: string
  how: string
  cue: string
  sets: number
  reps: number
  pause_s: number
  rest_s: number
  per_week: number
  low: number
  start: number
  high: number
  cautions: string
  contact: 'none' | 'brush' | 'strike'
  low_back: boolean
}
/** What is being changed, or made like another, until it is kept or left: looking at another exercise loses none of it. */
const drafts = reactive(new Map<string, Draft>())
const draft = computed(() => drafts.get(chosen.value) ?? null)

const KINDS = ['technique_drill', 'pull_variation', 'strength', 'mobility', 'teaching_step']
const rows = computed(() => found(library.value?.exercises ?? [], wanted))
const one = computed(() => library.value?.exercises.find((row) => row.id === chosen.value) ?? null)
const choices = (pick: (row: Exercise) => string[]) =>
  computed(() => [...new Set((library.value?.exercises ?? []).flatMap(pick))].sort())
const positions = choices((row) => row.positions)
const equipment = choices((row) => row.equipment)
const answered = computed(() => {
  const used = new Set((library.value?.exercises ?? []).flatMap((row) => Object.keys(row.answers)))
  return (catalogue.value?.faults ?? []).filter((fault) => used.has(fault.id))
})
const faultName = (id: string) => catalogue.value?.faults.find((fault) => fault.id === id)?.name ?? words(id)
const answersOf = (row: Exercise) => Object.keys(row.answers).sort((a, b) => row.answers[b]! - row.answers[a]!)
const measure = (id: string) => catalogue.value?.measures.find((row) => row.id === id)
const named = (id: string) => {
  const row = library.value?.exercises.find((exercise) => exercise.id === id)
  return row ? shelfName(row) : words(id)
}
const dose = (row: Exercise) =>
  [
    `${row.sets} × ${row.reps}`,
    row.pause_s ? `${row.pause_s} s pause` : '',
    `${row.rest_s} s rest`,
    row.per_week === 1 ? 'once a week' : `${row.per_week} times a week`,
    `${row.weeks} weeks`,
  ]
    .filter(Boolean)
    .join(' · ')
/** A pass rule in words; two that bound the same measure on both sides are one. */
function asks(rules: Schemas['Pass'][]): string {
  const figure = (value: number, unit: string) => `${String(value).replace('-', '−')}${unit}`
  const told: string[] = []
  for (const rule of rules) {
    const found = measure(rule.measure)
    const unit = found && found.unit !== '–' ? (found.unit === '°' ? '°' : ` ${found.unit}`) : ''
    const label = (found?.label ?? words(rule.measure)).toLowerCase()
    const other = rules.find((one) => one !== rule && one.measure === rule.measure)
    if (other && rule.at_most != null && other.at_least === -rule.at_most)
      told.push(`${label} within ${figure(rule.at_most, unit)}`)
    else if (!other || rule.at_most != null || other.at_most !== -(rule.at_least ?? 0))
      told.push(
        rule.at_least != null
          ? `${label} at least ${figure(rule.at_least, unit)}`
          : `${label} at most ${figure(rule.at_most!, unit)}`,
      )
  }
  return told.join('; ')
}
const BEGINS: Record<string, string> = {
  floor: 'from the floor',
  blocks: 'from blocks',
  hang_above_knee: 'from the hang above the knee',
  hang_knee: 'from the hang at the knee',
  hang_below_knee: 'from the hang below the knee',
  hip: 'from the hip',
  tall: 'standing tall',
  rack: 'from the rack',
}
const CONTACTS = {
  none: 'the bar does not meet thigh or hip',
  brush: 'the bar keeps in touch with thigh or hip: not with a bruise there',
  strike: 'the bar meets thigh or hip at speed: not with a bruise there',
}
/** A film can show that a fault is gone only where it can show the fault. */
function shownGone(row: Exercise): string {
  const shows = Object.keys(row.answers).some((id) => catalogue.value?.faults.find((one) => one.id === id)?.measured)
  return shows ? 'that the fault it was set for is gone, where a film shows that fault' : 'nothing: your eye decides'
}
const needs = (row: Exercise) => (row.equipment[0] === 'none' ? 'nothing needed' : row.equipment.join(', '))

async function guarded(work: () => Promise<unknown>) {
  try {
    await work()
    trouble.value = ''
    return true
  } catch (error) {
    trouble.value = (error as Error).message
    return false
  }
}
onMounted(() =>
  guarded(async () => {
    ;[library.value, catalogue.value] = await Promise.all([
      ask(api.GET('/api/library')),
      ask(api.GET('/api/catalogue')),
    ])
    chosen.value = library.value.exercises[0]?.id ?? ''
  }),
)
watch(rows, (fresh) => {
  if (fresh.length && !fresh.some((row) => row.id === chosen.value)) chosen.value = fresh[0]!.id
})

function edit(row: Exercise, fresh: boolean) {
  drafts.set(row.id, {
    fresh,
    name: fresh ? '' : row.name,
    how: row.how,
    cue: row.cue,
    sets: row.sets,
    reps: row.reps,
    pause_s: row.pause_s,
    rest_s: row.rest_s,
    per_week: row.per_week,
    low: row.percent[0]!,
    start: row.start_percent,
    high: row.percent[1]!,
    cautions: row.cautions.join('\n'),
    contact: row.contact ?? 'strike',
    low_back: row.low_back ?? false,
  })
}
const leave = () => drafts.delete(chosen.value)
const idOf = (name: string) =>
  name
    .toLowerCase()
    .replace(/\{lift\}/g, '')
    .replace(/[^a-z0-9]+/g, '_')
    .replace(/^_+|_+$/g, '')
    .replace(/^(?=\d)/, 'x') || 'own'

async function keep() {
  const base = one.value!
  const { fresh, low, start, high, cautions, ...changed } = draft.value!
  const id = fresh ? idOf(changed.name) : base.id
  if (fresh && library.value!.exercises.some((row) => row.id === id)) {
    trouble.value = `There is an exercise called ${named(id)} already. Give this one another name.`
    return
  }
  const body: Schemas['ExerciseRequest'] = {
    ...base,
    ...changed,
    percent: [low, high],
    start_percent: start,
    cautions: cautions
      .split('\n')
      .map((line) => line.trim())
      .filter(Boolean),
  }
  const kept = await guarded(async () => {
    library.value = await ask(api.PUT('/api/library/{exercise}', { params: { path: { exercise: id } }, body }))
  })
  if (!kept) return
  drafts.delete(base.id)
  chosen.value = id
}
const putBack = () =>
  guarded(async () => {
    library.value = await ask(api.DELETE('/api/library/{exercise}', { params: { path: { exercise: one.value!.id } } }))
  })
const hide = (hidden: boolean) =>
  guarded(async () => {
    library.value = await ask(
      api.PUT('/api/library/{exercise}/hidden', { params: { path: { exercise: one.value!.id } }, body: { hidden } }),
    )
  })
</script>

<template>
  <main class="library">
    <div class="head">
      <h1>Library</h1>
      <nav aria-label="Parts of the library">
        <button
          v-for="name in ['exercises', 'faults', 'ladders'] as const"
          :key="name"
          type="button"
          :aria-pressed="part === name"
          @click="part = name"
        >
          {{ title(name) }}
        </button>
      </nav>
    </div>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <p v-if="!library && !trouble" class="quiet">Opening the library …</p>
    <div v-if="library && part === 'exercises'" class="columns">
      <section class="panel list">
        <form class="search" @submit.prevent>
          <input
            v-model="wanted.text"
            type="search"
            class="form-control form-control-sm"
            placeholder="Words"
            aria-label="Words"
          />
          <select v-model="wanted.fault" class="form-select form-select-sm" aria-label="What it answers">
            <option value="">Answers any fault</option>
            <option v-for="fault in answered" :key="fault.id" :value="fault.id">{{ fault.name }}</option>
          </select>
          <select v-model="wanted.lift" class="form-select form-select-sm" aria-label="Lift">
            <option value="">Any lift</option>
            <option v-for="lift in ['snatch', 'clean', 'jerk']" :key="lift" :value="lift">{{ title(lift) }}</option>
          </select>
          <select v-model="wanted.kind" class="form-select form-select-sm" aria-label="Kind">
            <option value="">Any kind</option>
            <option v-for="kind in KINDS" :key="kind" :value="kind">{{ title(kind) }}</option>
          </select>
          <select v-model="wanted.position" class="form-select form-select-sm" aria-label="Position">
            <option value="">Any position</option>
            <option v-for="position in positions" :key="position" :value="position">{{ title(position) }}</option>
          </select>
          <select v-model="wanted.equipment" class="form-select form-select-sm" aria-label="Equipment">
            <option value="">Any equipment</option>
            <option v-for="piece in equipment" :key="piece" :value="piece">{{ title(piece) }}</option>
          </select>
          <label class="quiet"><input v-model="wanted.hidden" type="checkbox" /> with those put away</label>
          <span class="quiet count">{{ rows.length }} of {{ library.exercises.length }}</span>
        </form>
        <ul aria-label="Exercises">
          <li v-for="row in rows" :key="row.id">
            <button
              type="button"
              :aria-current="row.id === chosen"
              :class="{ away: row.hidden }"
              :data-exercise="row.id"
              @click="chosen = row.id"
            >
              <b>{{ shelfName(row) }}</b>
              <span class="quiet"
                >{{ words(row.kind) }} · {{ row.lifts.join(', ') }}{{ row.own ? ' · yours' : ''
                }}{{ row.hidden ? ' · put away' : '' }}{{ drafts.has(row.id) ? ' · not kept yet' : '' }}</span
              >
            </button>
          </li>
        </ul>
        <p v-if="!rows.length" class="quiet none">None fits. Take something back from the search.</p>
      </section>

      <section v-if="one && !draft" class="panel detail" data-test="exercise">
        <h2>{{ shelfName(one) }}</h2>
        <p class="quiet">
          {{ title(one.kind) }} for {{ one.lifts.join(', ') }}; {{ BEGINS[one.start] }}; {{ needs(one) }}
        </p>
        <p>{{ one.how }}</p>
        <p class="cue">{{ one.cue }}</p>
        <ul v-if="one.cautions.length" class="cautions">
          <li v-for="caution in one.cautions" :key="caution">{{ caution }}</li>
        </ul>
        <dl>
          <dt>Usual dose</dt>
          <dd>{{ dose(one) }}</dd>
          <dt>Load</dt>
          <dd v-if="one.load">{{ one.load === 'none' ? 'no load' : one.load }}</dd>
          <dd v-else>
            {{ one.start_percent }} % to begin with, {{ one.percent[0] }} to {{ one.percent[1] }} % of the best
            {{ one.basis === 'lift' ? 'in the lift' : words(one.basis) }}
          </dd>
          <template v-if="one.before.length">
            <dt>Before it</dt>
            <dd>{{ one.before.join(' ') }}</dd>
          </template>
          <dt>Answers, best first</dt>
          <dd>
            <span v-for="fault in answersOf(one)" :key="fault" class="answer">{{ faultName(fault) }}</span>
          </dd>
          <dt>A film must show</dt>
          <dd>{{ one.passes?.length ? asks(one.passes) : shownGone(one) }}</dd>
          <dt>Film from</dt>
          <dd>{{ one.film === '45' ? 'the front corner' : `the ${one.film}` }}</dd>
          <dt>Contact</dt>
          <dd>{{ CONTACTS[one.contact ?? 'strike'] }}</dd>
          <template v-if="one.safeties">
            <dt>Safeties</dt>
            <dd>{{ one.safeties }}</dd>
          </template>
          <template v-if="one.muscles.length">
            <dt>Works</dt>
            <dd>{{ one.muscles.join(', ') }}</dd>
          </template>
          <template v-if="one.easier.length || one.harder.length">
            <dt>Neighbours</dt>
            <dd>
              <template v-if="one.easier.length">
                easier:
                <button v-for="id in one.easier" :key="id" type="button" class="link" @click="chosen = id">
                  {{ named(id) }}
                </button>
              </template>
              <template v-if="one.harder.length">
                harder:
                <button v-for="id in one.harder" :key="id" type="button" class="link" @click="chosen = id">
                  {{ named(id) }}
                </button>
              </template>
            </dd>
          </template>
          <dt>Set for</dt>
          <dd>{{ one.used_by.length ? one.used_by.join(', ') : 'nobody yet' }}</dd>
        </dl>
        <p class="act">
          <button type="button" class="btn btn-sm btn-outline-secondary" @click="edit(one, false)">Change</button>
          <button type="button" class="btn btn-sm btn-outline-secondary" @click="edit(one, true)">
            Make another like it
          </button>
          <button type="button" class="btn btn-sm btn-outline-secondary" @click="hide(!one.hidden)">
            {{ one.hidden ? 'Bring back' : 'Put away' }}
          </button>
          <button v-if="one.own" type="button" class="btn btn-sm btn-link" @click="putBack">
            {{ one.ships ? 'As it came' : 'Delete' }}
          </button>
        </p>
      </section>

      <form v-else-if="draft" class="panel detail" @submit.prevent="keep">
        <h2>{{ draft.fresh ? 'Another like' : 'Change' }} {{ shelfName(one!).toLowerCase() }}</h2>
        <label class="wide"
          >Name <span class="quiet">({lift} stands for snatch or clean)</span
          ><input v-model="draft.name" class="form-control form-control-sm" required minlength="3" maxlength="80"
        /></label>
        <label class="wide"
          >How<textarea v-model="draft.how" class="form-control form-control-sm" rows="3" required minlength="20" />
        </label>
        <label class="wide"
          >Cue<input v-model="draft.cue" class="form-control form-control-sm" required minlength="3"
        /></label>
        <div class="numbers">
          <label
            v-for="[field, says, most] in [
              ['sets', 'Sets', 10],
              ['reps', 'Reps', 20],
              ['pause_s', 'Pause, s', 60],
              ['rest_s', 'Rest, s', 600],
              ['per_week', 'A week', 7],
            ] as const"
            :key="field"
            >{{ says
            }}<input
              v-model.number="draft[field]"
              type="number"
              min="0"
              :max="most"
              class="form-control form-control-sm"
              required
          /></label>
          <template v-if="!one?.load">
            <label
              v-for="[field, says] in [
                ['low', 'Least %'],
                ['start', 'Begin %'],
                ['high', 'Most %'],
              ] as const"
              :key="field"
              >{{ says
              }}<input
                v-model.number="draft[field]"
                type="number"
                min="0"
                max="120"
                class="form-control form-control-sm"
                required
            /></label>
          </template>
        </div>
        <label class="wide"
          >Cautions, one a line<textarea v-model="draft.cautions" class="form-control form-control-sm" rows="3" />
        </label>
        <p>
          <label
            >The bar meets thigh or hip
            <select v-model="draft.contact" class="form-select form-select-sm">
              <option value="none">not at all</option>
              <option value="brush">in touch</option>
              <option value="strike">at speed</option>
            </select></label
          >
          <label><input v-model="draft.low_back" type="checkbox" /> loads the low back</label>
        </p>
        <p class="act">
          <button class="btn btn-sm btn-primary">Keep it</button>
          <button type="button" class="btn btn-sm btn-outline-secondary" @click="leave">Leave it as it was</button>
        </p>
      </form>
    </div>

    <FaultShelf
      v-if="catalogue && part === 'faults'"
      :catalogue="catalogue"
      @changed="(fresh) => (catalogue = fresh)"
    />
    <p v-if="library && part === 'ladders' && ladderOpen === null" class="act">
      <button type="button" class="btn btn-sm btn-outline-secondary" @click="ladderOpen = ''">
        Write a ladder of your own
      </button>
    </p>
    <OwnLadder
      v-if="library && part === 'ladders' && ladderOpen !== null"
      :key="ladderOpen"
      :library="library"
      :catalogue="catalogue"
      :ladder="library.ladders.find((one) => one.id === ladderOpen) ?? null"
      @kept="(fresh) => ((library = fresh), (ladderOpen = null))"
      @leave="ladderOpen = null"
    />
    <div v-if="library && part === 'ladders'" class="ladders">
      <section v-for="ladder in library.ladders" :key="ladder.id" class="panel pad" :data-ladder="ladder.id">
        <h2>{{ ladder.name }}</h2>
        <p class="quiet">{{ ladder.about }}</p>
        <p class="act">
          <RouterLink :to="{ name: 'class', params: { ladder: ladder.id } }">Your athletes on it</RouterLink>
          <template v-if="ladder.own">
            <button type="button" class="btn btn-sm btn-link p-0" @click="ladderOpen = ladder.id">Change</button>
            <button type="button" class="btn btn-sm btn-link p-0" @click="dropLadder(ladder.id)">Delete</button>
          </template>
        </p>
        <ol>
          <li v-for="(step, n) in ladder.steps" :key="n">
            <b>{{ step.name }}</b>, {{ step.implement === 'none' ? 'empty hands' : step.implement }}, {{ step.sets }} ×
            {{ step.reps }}
            <div>{{ step.says }}</div>
            <div class="quiet">
              {{
                step.passes.length
                  ? `${step.in_a_row} in a row: ${asks(step.passes)}`
                  : `${step.in_a_row} in a row, by the coach's eye`
              }}
            </div>
          </li>
        </ol>
      </section>
    </div>
  </main>
</template>

<style scoped lang="scss">
@use '../theme/shelf';

.library {
  max-width: 1260px;
  width: 100%;
  margin: 0 auto;
  padding: 0.8rem 1rem;
}
.head {
  display: flex;
  align-items: baseline;
  gap: 1.4rem;
  margin-bottom: 0.6rem;
  h1 {
    margin: 0;
  }
  button {
    background: none;
    border: 0;
    border-bottom: 2px solid transparent;
    color: var(--quiet);
    margin-right: 0.9rem;
    padding: 0.2rem 0;
    &[aria-pressed='true'] {
      color: inherit;
      border-bottom-color: currentColor;
    }
  }
}
.search {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 0.4rem;
  padding: 0.6rem 0.75rem;
  label {
    font-size: 0.84rem;
    grid-column: span 2;
  }
}
.count {
  text-align: right;
  font-size: 0.84rem;
}
.detail {
  position: sticky;
  top: 0.5rem;
  label {
    font-size: 0.84rem;
    margin-right: 0.8rem;
  }
  .wide {
    display: block;
    margin: 0 0 0.4rem;
  }
}
.numbers {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
  input {
    width: 4.8rem;
  }
}
.cue {
  font-weight: 640;
  font-size: 1.05rem;
}
.cautions {
  border-left: 4px solid var(--look);
  padding: 0.1rem 0 0.1rem 1.4rem;
}
.answer {
  display: inline-block;
  margin-right: 0.9rem;
}
.ladders {
  columns: 2;
  column-gap: 1rem;
  p {
    margin: 0 0 0.4rem;
  }
  .pad {
    padding: 0.6rem 0.9rem;
    break-inside: avoid;
    margin-bottom: 0.9rem;
  }
  li {
    margin-bottom: 0.35rem;
    font-size: 0.9rem;
  }
}
@media (max-width: 900px) {
  .ladders {
    columns: 1;
  }
  .detail {
    position: static;
  }
}
</style>
