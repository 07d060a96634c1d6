<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import AthleteTabs from '@/components/AthleteTabs.vue'
import { dated, load, title } from '@/format/quantity'
import { newKey } from '@/api/key'

/** What an athlete did and what hurt, as the coach reads it; in and out as a table. */
const props = defineProps<{ id: string }>()
const log = ref<Schemas['Log'] | null>(null)
const name = ref('')
const trouble = ref('')
const told = ref('')
const path = computed(() => ({ params: { path: { id: Number(props.id) } } }))
const most = computed(() => Math.max(1, ...(log.value?.bands ?? []).map((band) => band.made + band.missed)))

/** Do it, and say what came of it: what it answers in words, or else what was to be said. */
async function guarded(work: () => Promise<unknown>, done = '') {
  try {
    const said = await work()
    told.value = typeof said === 'string' ? said : done
    trouble.value = ''
  } catch (error) {
    trouble.value = (error as Error).message
    told.value = ''
  }
}
async function refresh() {
  const [fresh, plan] = await Promise.all([
    ask(api.GET('/api/athletes/{id}/log', path.value)),
    ask(api.GET('/api/athletes/{id}/plan', path.value)),
  ])
  log.value = fresh
  name.value = plan.name
}
onMounted(() => guarded(refresh))

async function readIn(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  const text = await file.text()
  await guarded(async () => {
    const { read } = await ask(api.POST('/api/athletes/{id}/log/read-in', { ...path.value, body: { text } }))
    await refresh()
    return read === 1 ? 'One exercise came in.' : `${read} exercises came in; what was there already was left out.`
  })
}
const over = (row: Schemas['Report']) =>
  guarded(async () => {
    log.value = await ask(
      api.POST('/api/athletes/{id}/log', {
        ...path.value,
        body: { reports: [{ ...row, until: new Date().toLocaleDateString('en-CA') }], done: [], days: [], said: [] },
      }),
    )
  }, 'Noted as over.')
const read = (said: number) =>
  guarded(async () => {
    await ask(api.POST('/api/athletes/{id}/said/{said}/read', { params: { path: { id: Number(props.id), said } } }))
    await refresh()
  })

const SITES = [
  'hip',
  'thigh',
  'pubic bone',
  'low back',
  'upper back',
  'shoulder',
  'elbow',
  'wrist',
  'hand',
  'knee',
  'shin',
  'ankle',
  'foot',
  'neck',
  'chest',
  'head',
] as const
const fresh = ref({ kind: 'pain' as 'pain' | 'bruise', site: 'low back' as (typeof SITES)[number], degree: 3 })
const report = () =>
  guarded(async () => {
    const since = new Date().toLocaleDateString('en-CA')
    log.value = await ask(
      api.POST('/api/athletes/{id}/log', {
        ...path.value,
        body: {
          reports: [{ key: newKey(), since, until: null, note: '', ...fresh.value }],
          done: [],
          days: [],
          said: [],
        },
      }),
    )
  }, 'Noted; what it forbids is no longer offered.')
/** Sets one after another that were alike are told together. */
function sets(rows: Schemas['Set'][]): string {
  const told: { line: string; count: number; reps: number }[] = []
  for (const row of rows) {
    const line = [
      row.load == null ? '' : ` at ${load(row.load, row.unit ?? 'kg')}`,
      row.missed ? `, ${row.missed} missed` : '',
      row.rpe == null ? '' : `, RPE ${row.rpe}`,
      row.hook ? ', hook kept' : '',
    ].join('')
    const last = told.at(-1)
    if (last && last.line === line && last.reps === row.reps) last.count += 1
    else told.push({ line, count: 1, reps: row.reps })
  }
  return told.map((one) => `${one.count} × ${one.reps}${one.line}`).join(' · ')
}
</script>

<template>
  <main v-if="log" class="log">
    <AthleteTabs :id="id" :name="name" />
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <p v-else-if="told" role="status"><span class="sign fine" /> {{ told }}</p>
    <div class="columns">
      <div>
        <section v-if="log.said.some((row) => !row.read)" class="panel">
          <div class="panel-head"><h2>Answers</h2></div>
          <p v-for="row in log.said.filter((one) => !one.read)" :key="row.id" class="body said">
            <span
              >“{{ row.words }}” <span class="quiet">{{ dated(row.at) }}</span></span
            >
            <button type="button" class="btn btn-sm btn-outline-secondary" @click="read(row.id)">Read</button>
          </p>
        </section>
        <section class="panel">
          <div class="panel-head">
            <h2>Done</h2>
            <span v-if="log.planned_days" class="quiet"
              >{{ log.kept_days }} of {{ log.planned_days }} planned pieces of work entered</span
            >
            <span class="spring" />
            <a :href="`/api/athletes/${id}/log.csv`">Keep as CSV</a>
            <label class="file">Bring in CSV<input type="file" accept=".csv,text/csv" @change="readIn" /></label>
          </div>
          <ol v-if="log.weeks.length" class="weeks" aria-label="Planned work entered, week by week">
            <li
              v-for="week in log.weeks"
              :key="week.monday"
              :title="`Week of ${week.monday}: ${week.kept} of ${week.planned} entered`"
            >
              <span class="share" aria-hidden="true"
                ><i :style="{ height: `${(100 * week.kept) / week.planned}%` }"
              /></span>
              <span>{{ week.kept }}/{{ week.planned }}</span>
              <span class="quiet">{{ dated(week.monday) }}</span>
            </li>
          </ol>
          <table v-if="log.done.length" class="table">
            <thead>
              <tr>
                <th>Day</th>
                <th>Work</th>
                <th>Sets</th>
                <th>Note</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="row in log.done" :key="row.id">
                <td class="day">{{ dated(row.on) }}</td>
                <td>{{ row.name }}</td>
                <td>{{ sets(row.sets) }}</td>
                <td class="quiet">{{ row.note }}</td>
              </tr>
            </tbody>
          </table>
          <p v-else class="body quiet">
            Nothing is entered yet. The athlete enters it on their own page (its link is on the
            <RouterLink :to="{ name: 'plan', params: { id } }">plan</RouterLink>), or bring in a table with the columns
            date, exercise, lift, set, load, unit, reps, missed, rpe, hook and note.
          </p>
        </section>
      </div>
      <aside>
        <section class="panel pad">
          <h2>Pain and bruises</h2>
          <p v-for="row in log.reports" :key="row.key" class="hurt">
            <span
              ><i v-if="!row.until" class="sign fault" /> {{ title(row.kind) }} {{ row.degree }}/10, {{ row.site }},
              {{ dated(row.since) }}{{ row.until ? ` to ${dated(row.until)}` : ''
              }}{{ row.by_coach ? ', entered by you' : '' }}{{ row.note ? `. ${row.note}` : '' }}
              <small v-for="(one, n) in row.earlier" :key="n" class="quiet d-block">
                before: {{ one.degree }}/10, {{ one.site
                }}{{ one.until ? `, over ${dated(String(one.until))}` : ', open' }}
              </small></span
            >
            <button v-if="!row.until" type="button" class="btn btn-sm btn-link p-0" @click="over(row)">
              It is over
            </button>
          </p>
          <p v-if="!log.reports.length" class="quiet">None reported.</p>
          <form class="fresh" @submit.prevent="report">
            <select v-model="fresh.kind" class="form-select form-select-sm" aria-label="What it is">
              <option value="pain">Pain</option>
              <option value="bruise">Bruise</option>
            </select>
            <select v-model="fresh.site" class="form-select form-select-sm" aria-label="Where">
              <option v-for="site in SITES" :key="site">{{ site }}</option>
            </select>
            <label class="degree"
              ><input
                v-model.number="fresh.degree"
                type="number"
                min="0"
                max="10"
                class="form-control form-control-sm"
                aria-label="How much, of 10"
              />
              of 10</label
            >
            <button class="btn btn-sm btn-outline-secondary">Note it</button>
          </form>
          <p class="quiet small">
            Pain of 4 or more stops the work and is for a licensed clinician. A bruise at hip, pubic bone or thigh stops
            work with contact.
          </p>
        </section>
        <section v-if="log.bands.length" class="panel pad">
          <h2>Made and missed by load</h2>
          <table class="bands">
            <tbody>
              <tr v-for="band in log.bands" :key="band.from_percent">
                <th>{{ band.from_percent }}–{{ band.to_percent }} %</th>
                <td class="bar">
                  <i :style="{ width: `${(100 * band.made) / most}%` }" /><i
                    class="missed"
                    :style="{ width: `${(100 * band.missed) / most}%` }"
                  />
                </td>
                <td>{{ band.made }} made{{ band.missed ? `, ${band.missed} missed` : '' }}</td>
              </tr>
            </tbody>
          </table>
        </section>
        <section v-if="log.bests.length" class="panel pad">
          <h2>Heaviest made</h2>
          <p v-for="row in log.bests" :key="row.name + row.kind + row.month" class="hurt">
            <span
              >{{ row.name
              }}<span v-if="row.kind !== 'made'" class="quiet">, {{ row.kind }} in {{ row.month }}</span></span
            >
            <b>{{ load(row.kilos, 'kg') }}</b>
          </p>
        </section>
        <section v-if="log.days.length" class="panel pad">
          <h2>Days</h2>
          <p v-for="row in log.days.slice(0, 14)" :key="row.on" class="hurt">
            <span>{{ dated(row.on) }}</span>
            <span
              >{{ row.readiness ? `ready ${row.readiness} of 5` : '' }}
              {{ row.bodyweight_kg ? load(row.bodyweight_kg, 'kg') : '' }}</span
            >
          </p>
        </section>
      </aside>
    </div>
  </main>
  <main v-else class="container py-4">
    <p v-if="trouble" class="notice" role="alert">
      {{ trouble }} <RouterLink to="/athletes">Back to the athletes</RouterLink>
    </p>
    <p v-else class="quiet">Opening the log …</p>
  </main>
</template>

<style scoped lang="scss">
.weeks {
  display: flex;
  flex-wrap: wrap;
  gap: 0.8rem;
  list-style: none;
  margin: 0;
  padding: 0.4rem 0.75rem 0.6rem;
  font-size: 0.8rem;
  li {
    display: grid;
    justify-items: center;
  }
  .share {
    display: flex;
    align-items: flex-end;
    width: 1.6rem;
    height: 2rem;
    background: var(--sunk);
    border: 1px solid var(--rule);
    i {
      width: 100%;
      background: var(--trace);
    }
  }
}
.log {
  max-width: 1260px;
  width: 100%;
  margin: 0 auto;
  padding: 0.8rem 1rem;
}
.columns {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 320px;
  gap: 1rem;
  align-items: start;
}
section {
  margin-bottom: 0.8rem;
}
.spring {
  flex: 1;
}
.body {
  padding: 0 0.75rem 0.6rem;
  margin: 0;
}
.said,
.hurt {
  display: flex;
  justify-content: space-between;
  gap: 0.8rem;
  align-items: baseline;
}
.pad {
  padding: 0.6rem 0.75rem;
  h2 {
    margin: 0 0 0.3rem;
  }
  p {
    margin: 0 0 0.3rem;
  }
}
.table {
  margin: 0;
  // In line with the headings of the panel.
  :is(td, th):first-child {
    padding-left: 0.75rem;
  }
}
.day {
  white-space: nowrap;
}
.file {
  text-decoration: underline;
  text-decoration-color: var(--rule);
  text-underline-offset: 3px;
  cursor: pointer;
  input {
    position: absolute;
    opacity: 0;
    width: 1px;
  }
  &:focus-within {
    outline: 2px solid var(--trace);
  }
}
.fresh {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.3rem 0.5rem;
  margin: 0.4rem 0;
}
.degree {
  display: flex;
  align-items: center;
  gap: 0.4rem;
  white-space: nowrap;
  font-size: 0.84rem;
}
.small {
  font-size: 0.8rem;
}
.bands {
  width: 100%;
  font-size: 0.84rem;
  th {
    font-weight: 500;
    white-space: nowrap;
    padding-right: 0.5rem;
  }
  td {
    white-space: nowrap;
  }
  .bar {
    width: 40%;
    padding-right: 0.5rem;
    i {
      display: inline-block;
      height: 0.7rem;
      background: var(--good);
      &.missed {
        background: repeating-linear-gradient(45deg, var(--look) 0 3px, transparent 3px 5px);
      }
    }
  }
}
@media (max-width: 900px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
