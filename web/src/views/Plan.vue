<script setup lang="ts">
import { computed, onMounted, reactive, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import AthleteTabs from '@/components/AthleteTabs.vue'
import BeforeAfter from '@/components/BeforeAfter.vue'
import BlockCalendar from '@/components/BlockCalendar.vue'
import DiscsOnBar from '@/components/DiscsOnBar.vue'
import type { Slot } from '@/components/weeks'
import { load, spoken, title, weekday, words } from '@/format/quantity'

const props = defineProps<{ id: string }>()
const route = useRoute()
const plan = ref<Schemas['Plan'] | null>(null)
const trouble = ref('')
const chosenId = ref<number | null>(null)
const copied = ref(false)
const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
const begin = reactive({ begins: new Date().toLocaleDateString('en-CA'), weeks: 4, days: [] as number[] })

const clip = computed(() => (typeof route.query.clip === 'string' ? route.query.clip : ''))
const underWay = computed(() => plan.value?.blocks.filter((block) => !block.closed) ?? [])
const lookedAt = ref<number | null>(null)
/** The block under way that is looked at: there may be two. */
const running = computed(() => underWay.value.find((block) => block.id === lookedAt.value) ?? underWay.value[0] ?? null)
const MOST_BLOCKS = 2
const ended = computed(() => plan.value?.blocks.filter((block) => block.closed) ?? [])
const chosen = computed(() => running.value?.slots.find((slot) => slot.id === chosenId.value) ?? null)
const address = computed(() => (plan.value?.link ? `${location.origin}/w/${plan.value.link}` : ''))
const feed = computed(() => (plan.value?.link ? `${location.origin}/api/training/${plan.value.link}/plan.ics` : ''))
const athletePath = computed(() => ({ params: { path: { id: Number(props.id) } } }))

async function guarded(work: () => Promise<unknown>) {
  try {
    await work()
    trouble.value = ''
  } catch (error) {
    trouble.value = (error as Error).message
  }
}
async function refresh() {
  plan.value = await ask(api.GET('/api/athletes/{id}/plan', athletePath.value))
}
onMounted(() =>
  guarded(async () => {
    await refresh()
    begin.days = [...plan.value!.training_days]
  }),
)

function took(block: Schemas['Block']) {
  if (!plan.value) return
  plan.value.blocks = plan.value.blocks.map((one) => (one.id === block.id ? block : one))
}
const start = () =>
  guarded(async () => {
    await ask(api.POST('/api/clips/{id}/block', { params: { path: { id: clip.value } }, body: { ...begin } }))
    await refresh()
  })
const change = (slot: Slot, body: Partial<Pick<Slot, 'on' | 'percent' | 'sets'>>) =>
  guarded(async () =>
    took(
      await ask(
        api.PATCH('/api/blocks/{id}/slots/{slot}', {
          params: { path: { id: running.value!.id, slot: slot.id } },
          body: body as Schemas['PatchedSlotRequest'],
        }),
      ),
    ),
  )
/** A dose changed from the next day of it on. */
const dose = (slot: Slot, body: { sets?: number; by?: number }) =>
  guarded(async () => {
    const path = { id: running.value!.clip!, assignment: slot.assignment! }
    await ask(api.PATCH('/api/clips/{id}/assignments/{assignment}', { params: { path }, body }))
    await refresh()
  })
/** How long a block is and on which days, changed afterwards. */
const reshape = (body: { weeks?: number; days?: number[] }) =>
  guarded(async () => {
    await ask(api.PATCH('/api/blocks/{id}', { params: { path: { id: running.value!.id } }, body }))
    await refresh()
  })
const toggleDay = (day: number) => {
  const { days } = running.value!
  const fresh = days.includes(day) ? days.filter((one) => one !== day) : [...days, day].sort()
  return fresh.length ? reshape({ days: fresh }) : undefined
}
/** Why work goes on despite a caution; against pain there is no reason. */
const excuse = ref('')
const goOn = (slot: Slot) =>
  guarded(async () => {
    const params = { path: { assignment: slot.assignment! } }
    await ask(api.POST('/api/assignments/{assignment}/excuses', { params, body: { words: excuse.value } }))
    excuse.value = ''
    await refresh()
  })
const waits = computed(() => running.value?.slots.filter((slot) => slot.paused) ?? [])
async function move(slot: Slot, on: string) {
  chosenId.value = slot.id
  await change(slot, { on })
  requestAnimationFrame(() => document.querySelector<HTMLElement>(`[data-slot="${slot.id}"]`)?.focus())
}
const end = () =>
  guarded(async () =>
    took(await ask(api.POST('/api/blocks/{id}/closed', { params: { path: { id: running.value!.id } } }))),
  )
const takeBack = () =>
  guarded(async () => {
    await ask(api.DELETE('/api/blocks/{id}', { params: { path: { id: running.value!.id } } }))
    await refresh()
  })
const takeUp = (clipId: string, step: 'up' | 'repeat' | 'back') =>
  guarded(async () => {
    await ask(api.POST('/api/clips/{id}/follows/taken-up', { params: { path: { id: clipId } }, body: { step } }))
    await refresh()
  })
const makeLink = () =>
  guarded(async () => {
    await ask(api.POST('/api/athletes/{id}/link', athletePath.value))
    await refresh()
  })
const withdraw = () =>
  guarded(async () => {
    await ask(api.DELETE('/api/athletes/{id}/link', athletePath.value))
    await refresh()
  })
async function copy() {
  try {
    await navigator.clipboard.writeText(address.value)
    copied.value = true
  } catch {
    trouble.value = 'The browser did not allow copying. Select the link and copy it by hand.'
  }
}
const SIGN: Record<string, string> = {
  changed: 'fine',
  not_shown: 'cannot_tell',
  worse: 'fault',
  not_comparable: 'cannot_tell',
}
const STEP: Record<string, string> = { up: 'Step up', repeat: 'Repeat', back: 'Step back' }
</script>

<template>
  <main v-if="plan" class="plan">
    <AthleteTabs :id="id" :name="plan.name" />
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <div class="columns">
      <div>
        <nav v-if="underWay.length > 1" class="which" aria-label="Blocks under way">
          <button
            v-for="block in underWay"
            :key="block.id"
            type="button"
            class="btn btn-sm btn-outline-secondary"
            :aria-pressed="block === running"
            @click="lookedAt = block.id"
          >
            {{ block.fault_name || words(block.lift) }}
          </button>
        </nav>
        <section v-if="running" class="panel block">
          <div class="panel-head">
            <h2>{{ running.fault_name || 'Block' }}</h2>
            <span class="quiet"
              >{{ running.weeks.length }} weeks from {{ weekday(running.begins) }}, then {{ words(running.lift) }} on
              film</span
            >
            <span class="spring" />
            <a :href="`/api/athletes/${id}/plan.ics`">Calendar file</a>
          </div>
          <ul v-if="running.broken.length" class="notice broken" role="status" data-test="broken">
            <li v-for="one in running.broken" :key="one.says">{{ one.says }}</li>
          </ul>
          <p v-else class="body kept"><span class="sign fine" /> The plan keeps every rule of its exercises.</p>
          <p v-if="waits.length" class="notice body" role="status" data-test="paused">
            {{ waits.length === 1 ? 'One session is' : `${waits.length} sessions are` }} paused. {{ waits[0]!.paused }}
            {{ waits[0]!.stops ? '' : 'Choose one on the calendar to let it go on, with your reason.' }}
          </p>
          <BlockCalendar
            :block="running"
            :chosen="chosenId"
            class="body"
            @choose="(slot) => (chosenId = slot.id)"
            @move="move"
          />
        </section>
        <form
          v-if="clip && underWay.length < MOST_BLOCKS && !underWay.some((block) => block.clip === clip)"
          class="panel begin"
          @submit.prevent="start"
        >
          <h2>Put the work of this review on the calendar</h2>
          <div class="fields">
            <label
              >Not before <input v-model="begin.begins" type="date" class="form-control form-control-sm" required
            /></label>
            <label
              >Weeks
              <select v-model.number="begin.weeks" class="form-select form-select-sm">
                <option :value="4">4</option>
                <option :value="5">5</option>
                <option :value="6">6</option>
              </select></label
            >
            <fieldset>
              <legend>Training days</legend>
              <label v-for="(name, n) in DAYS" :key="name"
                ><input v-model="begin.days" type="checkbox" :value="n" /> {{ name }}</label
              >
            </fieldset>
            <button class="btn btn-primary">Plan the block</button>
          </div>
          <p class="quiet">
            Loads go up by 2.5 % of the best a week as far as the exercise allows, the last week is light, and the lift
            is tested on film after it.
          </p>
        </form>
        <p v-else-if="!running" class="panel empty">
          No block is under way. Set work on a review (<RouterLink to="/">the queue</RouterLink>), then plan it from
          there.
        </p>

        <section v-if="running?.follow_ups.length" class="panel">
          <div class="panel-head"><h2>Films of the work</h2></div>
          <div v-for="film in running.follow_ups" :key="film.clip" class="body film">
            <p>
              <RouterLink :to="{ name: 'bench', params: { id: film.clip } }"
                ><b>{{ film.name }}</b
                >, {{ weekday(film.on) }}</RouterLink
              >
              <span class="says">{{ film.says }}</span>
            </p>
            <table v-if="film.rules.length" class="rules">
              <tbody>
                <tr v-for="rule in film.rules" :key="rule.measure">
                  <td>
                    <span
                      :class="[
                        'sign',
                        rule.probability == null
                          ? 'cannot_tell'
                          : rule.probability >= 0.8
                            ? 'fine'
                            : rule.probability <= 0.2
                              ? 'fault'
                              : 'watch',
                      ]"
                    />
                    {{ rule.label }}
                  </td>
                  <td class="num">{{ rule.value == null ? 'not seen' : spoken(rule.value, rule.unit) }}</td>
                  <td class="quiet">
                    {{
                      rule.at_least != null
                        ? `at least ${spoken(rule.at_least, rule.unit)}`
                        : `at most ${spoken(rule.at_most!, rule.unit)}`
                    }}
                  </td>
                </tr>
              </tbody>
            </table>
            <p v-if="film.taken_up" class="quiet">Taken up: {{ STEP[film.taken_up]!.toLowerCase() }}.</p>
            <p v-else-if="film.step" class="act">
              <button
                v-for="step in ['up', 'repeat', 'back'] as const"
                :key="step"
                type="button"
                :class="['btn', 'btn-sm', step === film.step ? 'btn-primary' : 'btn-outline-secondary']"
                @click="takeUp(film.clip, step)"
              >
                {{ STEP[step] }}
              </button>
            </p>
          </div>
        </section>

        <section v-for="block in [...(running?.result ? [running] : []), ...ended]" :key="`r${block.id}`" class="panel">
          <div class="panel-head">
            <h2>{{ block.fault_name || 'Block' }}: before and after</h2>
            <span class="quiet">{{ block.closed ? 'ended' : 'the lift after the work is there' }}</span>
          </div>
          <div v-if="block.result" class="body result" data-test="result">
            <p class="word"><span :class="['sign', SIGN[block.result.word]]" /> {{ title(block.result.says) }}</p>
            <p v-if="block.result.before != null">
              {{ block.result.label }}: {{ spoken(block.result.before, block.result.unit) }} →
              <b>{{ spoken(block.result.after!, block.result.unit) }}</b>
              <span class="quiet">
                ({{ block.result.by! >= 0 ? 'better' : 'worse' }} by
                {{ spoken(Math.abs(block.result.by!), block.result.unit) }} ±
                {{ spoken(2 * block.result.sd!, block.result.unit) }}, {{ block.result.lifts[0] }} before,
                {{ block.result.lifts[1] }} after)</span
              >
            </p>
            <p v-if="block.result.before != null && Math.min(...block.result.lifts) < 2" class="quiet">
              Told from a single lift: how much this lifter varies from lift to lift is not in it.
            </p>
            <BeforeAfter
              v-if="block.result.before_clip && block.result.after_clip"
              :before="block.result.before_clip"
              :after="block.result.after_clip"
              :kind="block.lift"
              :measure="block.result.measure"
            />
            <p>{{ block.result.next }}</p>
            <p v-if="block.result.before_clip">
              <RouterLink
                :to="{ name: 'beside', params: { id: block.result.before_clip, other: block.result.after_clip } }"
                >See both lifts side by side</RouterLink
              >
            </p>
          </div>
          <p v-else class="body quiet">It ended without a lift on film after the work: nothing can be said of it.</p>
        </section>
      </div>

      <aside>
        <section v-if="chosen" class="panel pad" data-test="chosen">
          <h2>{{ chosen.name }}</h2>
          <p class="quiet">{{ weekday(chosen.on) }}, week {{ chosen.week }}{{ chosen.light ? ', light' : '' }}</p>
          <div v-if="chosen.paused" class="notice" data-test="paused-slot">
            <p>Paused. {{ chosen.paused }}</p>
            <form v-if="!chosen.stops && chosen.assignment" @submit.prevent="goOn(chosen)">
              <label
                >Your reason to let it go on
                <input v-model="excuse" class="form-control form-control-sm" minlength="10" maxlength="300" required
              /></label>
              <button class="btn btn-sm btn-primary">Let it go on</button>
            </form>
          </div>
          <template v-if="!chosen.test">
            <label
              >Sets
              <input
                :value="chosen.sets"
                type="number"
                min="1"
                max="10"
                class="form-control form-control-sm"
                @change="change(chosen!, { sets: Number(($event.target as HTMLInputElement).value) })"
            /></label>
            <label v-if="!chosen.load"
              >% of the best
              <input
                :value="chosen.percent"
                type="number"
                min="0"
                max="120"
                step="0.5"
                class="form-control form-control-sm"
                @change="change(chosen!, { percent: Number(($event.target as HTMLInputElement).value) })"
            /></label>
            <p v-if="chosen.total != null">
              <b>{{ load(chosen.total, chosen.unit) }}</b> <span class="quiet">rounded down</span>
            </p>
            <p v-else class="quiet">{{ chosen.load || 'No best is on record to work the load out from.' }}</p>
            <DiscsOnBar v-if="chosen.total != null" :per-side="chosen.per_side" :unit="chosen.unit" />
            <div v-if="running?.clip && !chosen.done" class="coming">
              <p class="quiet">All days of it to come</p>
              <p class="act">
                <button
                  type="button"
                  class="btn btn-sm btn-outline-secondary"
                  @click="dose(chosen, { sets: chosen.sets })"
                >
                  {{ chosen.sets }} sets
                </button>
                <template v-if="!chosen.load">
                  <button type="button" class="btn btn-sm btn-outline-secondary" @click="dose(chosen, { by: -5 })">
                    5 % lighter
                  </button>
                  <button type="button" class="btn btn-sm btn-outline-secondary" @click="dose(chosen, { by: 2.5 })">
                    2.5 % heavier
                  </button>
                </template>
              </p>
            </div>
          </template>
          <p v-else>Film it from the side, as the lift that led to the work.</p>
        </section>
        <section class="panel pad">
          <h2>{{ plan.name.split(' ')[0] }}’s own page</h2>
          <template v-if="plan.link">
            <input
              class="form-control form-control-sm"
              readonly
              :value="address"
              aria-label="Private link to the athlete's page"
              data-test="work-link"
              @focus="($event.target as HTMLInputElement).select()"
            />
            <p class="quiet">
              Today's work, sets to tick, pain and answers.
              {{ plan.link_opened ? `Opened ${plan.link_opened} times.` : 'Not opened yet.' }}
            </p>
            <p class="act">
              <button type="button" class="btn btn-sm btn-outline-secondary" @click="copy">
                {{ copied ? 'Copied' : 'Copy' }}
              </button>
              <button type="button" class="btn btn-sm btn-outline-secondary" @click="withdraw">Withdraw</button>
            </p>
            <p class="quiet">Calendar to subscribe to: <a :href="feed">plan.ics</a></p>
          </template>
          <template v-else>
            <p class="quiet">A private link, no account: nobody can guess it, and you can withdraw it.</p>
            <button type="button" class="btn btn-sm btn-primary" @click="makeLink">Make the link</button>
          </template>
        </section>
        <section v-if="plan.ratios.length" class="panel pad">
          <h2>Bests against each other</h2>
          <dl>
            <template v-for="ratio in plan.ratios" :key="ratio.over + ratio.under">
              <dt>{{ title(ratio.over) }} ÷ {{ words(ratio.under) }}</dt>
              <dd>
                <b>{{ Math.round(100 * ratio.value) }} %</b>
                <span class="quiet"> usual {{ Math.round(100 * ratio.low) }}–{{ Math.round(100 * ratio.high) }} %</span>
                <p v-if="ratio.says"><span class="sign watch" /> {{ ratio.says }}</p>
              </dd>
            </template>
          </dl>
        </section>
        <section v-if="running" class="panel pad" data-test="reshape">
          <h2>Change the block</h2>
          <label
            >Weeks
            <select
              :value="running.weeks.length"
              class="form-select form-select-sm"
              @change="reshape({ weeks: Number(($event.target as HTMLSelectElement).value) })"
            >
              <option v-for="n in [4, 5, 6]" :key="n" :value="n">{{ n }}</option>
            </select></label
          >
          <fieldset class="days">
            <legend>Training days</legend>
            <label v-for="(name, n) in DAYS" :key="name"
              ><input type="checkbox" :checked="running.days.includes(n)" @change="toggleDay(n)" /> {{ name }}</label
            >
          </fieldset>
          <p class="quiet">What was done, and every day before today, stays as it is.</p>
        </section>
        <section v-if="running" class="panel pad">
          <h2>End of the block</h2>
          <p class="quiet">What was done and what came of it is kept.</p>
          <p class="act">
            <button type="button" class="btn btn-sm btn-outline-secondary" @click="end">End the block</button>
            <button type="button" class="btn btn-sm btn-link" @click="takeBack">Take the plan back</button>
          </p>
        </section>
      </aside>
    </div>
  </main>
  <main v-else class="container py-4">
    <p v-if="trouble" class="notice" role="alert">
      {{ trouble }} <RouterLink to="/athletes">Back to the athletes</RouterLink>
    </p>
    <p v-else class="quiet">Opening the plan …</p>
  </main>
</template>

<style scoped lang="scss">
.plan {
  max-width: 1260px;
  width: 100%;
  margin: 0 auto;
  padding: 0.8rem 1rem;
}
.columns {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 270px;
  gap: 1rem;
  align-items: start;
}
section,
form.begin,
.empty {
  margin-bottom: 0.8rem;
}
.spring {
  flex: 1;
}
.body {
  padding: 0 0.75rem 0.6rem;
  margin: 0;
}
.broken {
  margin: 0 0.75rem 0.5rem;
  padding-left: 1.6rem;
}
.kept .sign {
  margin-right: 0.3rem;
}
.pad,
.begin,
.empty {
  padding: 0.6rem 0.75rem;
  h2 {
    margin: 0 0 0.3rem;
  }
  p {
    margin: 0 0 0.4rem;
  }
  label {
    font-size: 0.84rem;
    margin-right: 0.6rem;
  }
  input[type='number'] {
    width: 5.5rem;
  }
}
.fields {
  display: flex;
  flex-wrap: wrap;
  gap: 1rem;
  align-items: end;
  margin-bottom: 0.5rem;
  fieldset label {
    margin-right: 0.7rem;
  }
  legend {
    font-size: 0.84rem;
    margin: 0;
    color: var(--quiet);
  }
}
.which {
  display: flex;
  gap: 0.4rem;
  margin-bottom: 0.5rem;
}
.days {
  display: flex;
  flex-wrap: wrap;
  legend {
    font-size: 0.84rem;
    margin: 0;
    color: var(--quiet);
  }
}
.act {
  display: flex;
  gap: 0.5rem;
}
.rules td {
  padding: 0.1rem 0.8rem 0.1rem 0;
}
.num {
  text-align: right;
}
.says {
  margin-left: 0.6rem;
}
.film p {
  margin: 0 0 0.4rem;
}
.film + .film {
  border-top: 1px solid var(--rule);
  padding-top: 0.5rem;
}
.result p {
  margin: 0 0 0.3rem;
}
.word .sign {
  margin-right: 0.3rem;
}
.word {
  font-weight: 640;
  font-size: 1.08rem;
}
dl {
  margin: 0;
  dt {
    font-weight: 500;
    font-size: 0.86rem;
  }
  dd {
    margin: 0 0 0.4rem;
    font-size: 0.86rem;
    p {
      margin: 0.1rem 0 0;
    }
  }
}
@media (max-width: 900px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
