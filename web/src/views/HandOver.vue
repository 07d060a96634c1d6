<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, ask, type Assignment, type Offer, type Review, type Schemas } from '@/api/client'
import { Refusal } from '@/api/refusal'
import { turns } from '@/api/turns'
import DiscsOnBar from '@/components/DiscsOnBar.vue'
import HandedReview from '@/components/HandedReview.vue'
import { printed } from '@/components/paper'
import { dated, load, words } from '@/format/quantity'

const props = defineProps<{ id: string }>()
const review = ref<Review | null>(null)
const offers = ref<(Offer & { open?: boolean })[]>([])
const caution = ref('')
const assigned = ref<Assignment[]>([])
const good = ref('')
const said = ref('')
const trouble = ref('')
const busy = ref(false)
const athlete = ref(0)
/** Why work is set against a caution; no reason stands against pain. */
const reason = ref('')
const copied = ref(false)
const path = computed(() => ({ params: { path: { id: props.id } } }))
const link = computed(() => (review.value?.link ? `${location.origin}/r/${review.value.link.token}` : ''))
const moment = (frame: number) => `/api/clips/${props.id}/frames/${frame}.jpg`
const pictures = (place: number) => moment(review.value?.preview.points[place]?.frame ?? 0)
const film = (note: number) => `/api/clips/${props.id}/drawn.mp4?voice=${note}`
const voice = (note: number) => `/api/clips/${props.id}/notes/${note}/voice.m4a`
const free = computed(() =>
  offers.value.filter((offer) => !assigned.value.some((task) => task.exercise === offer.exercise)),
)
/** Three are shown first, one of each sort; the others one click away. */
const groups = computed(() => [
  { id: 'first', offers: inOrder(free.value.filter((offer) => offer.first)) },
  { id: 'more', offers: free.value.filter((offer) => !offer.first) },
])
const inOrder = (some: Offer[]) =>
  [...some].sort((a, b) => Object.keys(SORTS).indexOf(a.sort) - Object.keys(SORTS).indexOf(b.sort))
const SORTS: Record<string, string> = { drill: 'Position drill', pull: 'Pull variation', support: 'Support' }
/** The athlete's sentence and the cue, said otherwise in this review alone. */
const reword = (fault: string, change: { athlete?: string; cue?: string }) => {
  const wordings = { ...review.value?.wordings }
  wordings[fault] = { ...wordings[fault], ...change }
  return keep({ wordings })
}

const inTurn = turns()
async function guarded(work: () => Promise<void>, locks = true) {
  if (locks) busy.value = true
  try {
    await inTurn(work)
    trouble.value = ''
  } catch (error) {
    trouble.value = (error as Error).message
  } finally {
    if (locks) busy.value = false
  }
}

async function refresh() {
  const [fresh, offered, tasks, clip] = await Promise.all([
    ask(api.GET('/api/clips/{id}/review', path.value)),
    ask(api.GET('/api/clips/{id}/offers', path.value)),
    ask(api.GET('/api/clips/{id}/assignments', path.value)),
    ask(api.GET('/api/clips/{id}', path.value)),
  ])
  athlete.value = clip.athlete
  review.value = fresh
  // What is entered of an offer stays while another is set.
  const entered = new Map(offers.value.map((offer) => [offer.exercise, offer]))
  offers.value = offered.offers.map((offer) => entered.get(offer.exercise) ?? offer)
  caution.value = offered.caution
  assigned.value = tasks
}
onMounted(() =>
  guarded(async () => {
    await refresh()
    good.value = review.value?.good || (review.value?.preview.good ?? []).join('\n')
    said.value = review.value?.words ?? ''
  }),
)

type Words = Schemas['ReviewRequest']
/** What was written elsewhere since this page was opened, and what was to be written here. */
const meanwhile = ref<{ theirs: { good: string; words: string }; mine: Words } | null>(null)
async function write(change: Words) {
  const body = { ...change, seen: review.value?.written_at ?? '' }
  try {
    review.value = await ask(api.PUT('/api/clips/{id}/review', { ...path.value, body }))
  } catch (error) {
    const told = error instanceof Refusal ? (error.told as { theirs?: { good: string; words: string } }) : null
    if (told?.theirs) meanwhile.value = { theirs: told.theirs, mine: change }
    throw error
  }
}
/** Nothing is locked meanwhile: the click that leaves a field is often the one that hands over. */
const keep = (change: Words) => guarded(() => write(change), false)
const settle = (mine: Words | null) =>
  guarded(async () => {
    meanwhile.value = null
    review.value = await ask(api.GET('/api/clips/{id}/review', path.value))
    if (mine) return write(mine)
    good.value = review.value.good ?? ''
    said.value = review.value.words ?? ''
  })

/**
 * The load at the share that now stands in the form; while that is no number the last one stays. Nothing is locked meanwhile: the click
 * that leaves the field is often the one that sets the work.
 */
async function workOut(offer: Offer) {
  if (typeof offer.percent !== 'number') return
  try {
    offer.dose = await ask(
      api.GET('/api/clips/{id}/offers/{exercise}/dose', {
        params: { path: { id: props.id, exercise: offer.exercise }, query: { percent: offer.percent } },
      }),
    )
    trouble.value = ''
  } catch (error) {
    trouble.value = (error as Error).message
  }
}
const set = (offer: Offer) =>
  guarded(async () => {
    const { exercise, sets, reps, percent, per_week, weeks } = offer
    const in_spite_of = reason.value
    await ask(
      api.POST('/api/clips/{id}/assignments', {
        ...path.value,
        body: { exercise, sets, reps, percent, per_week, weeks, note: '', in_spite_of } as Assignment,
      }),
    )
    await refresh()
  })
const takeBack = (task: Assignment) =>
  guarded(async () => {
    await ask(
      api.DELETE('/api/clips/{id}/assignments/{assignment}', {
        params: { path: { id: props.id, assignment: task.id } },
      }),
    )
    await refresh()
  })
const publish = () =>
  guarded(async () => {
    await write({ good: good.value, words: said.value })
    review.value = await ask(api.POST('/api/clips/{id}/hand-over', path.value))
  })
const withdraw = () =>
  guarded(async () => void (review.value = await ask(api.DELETE('/api/clips/{id}/hand-over', path.value))))

async function copy() {
  try {
    await navigator.clipboard.writeText(link.value)
    copied.value = true
  } catch {
    trouble.value = 'The browser did not allow copying. Select the link and copy it by hand.'
  }
}
</script>

<template>
  <main v-if="review" class="compose">
    <section class="write screen-only">
      <div class="head">
        <RouterLink :to="{ name: 'bench', params: { id } }">Back to the footage</RouterLink>
        <h1>Hand over to {{ review.preview.athlete }}</h1>
      </div>
      <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
      <div v-if="meanwhile" class="notice mb-3 d-flex flex-wrap gap-2" data-test="meanwhile">
        <p class="mb-1">
          It now says: “{{ [meanwhile.theirs.good, meanwhile.theirs.words].filter(Boolean).join(' ') }}”
        </p>
        <button type="button" class="btn btn-sm btn-outline-secondary" @click="settle(null)">Keep theirs</button>
        <button type="button" class="btn btn-sm btn-outline-secondary" @click="settle(meanwhile.mine)">Use mine</button>
      </div>

      <div class="panel">
        <div class="panel-head">
          <h2>Findings that go out</h2>
          <span class="quiet">confirmed or added by you; at most three</span>
        </div>
        <p v-if="!review.preview.points.length" class="body quiet">
          Nothing is confirmed yet.
          <RouterLink :to="{ name: 'bench', params: { id } }">Confirm a finding on the bench</RouterLink>, or send words
          and work only.
        </p>
        <ul v-else class="body plain">
          <li v-for="(point, index) in review.preview.points" :key="point.fault">
            <label
              ><input
                type="radio"
                name="first"
                :checked="index === 0"
                :disabled="busy"
                @change="keep({ first_priority: point.fault })"
              />
              <b>{{ point.name }}</b></label
            >
            <span class="quiet">{{ index === 0 ? 'first priority' : '' }}</span>
            <div class="reword">
              <label
                >What {{ review.preview.athlete.split(' ')[0] }} reads
                <textarea
                  class="form-control form-control-sm"
                  rows="2"
                  maxlength="300"
                  :value="point.says"
                  :data-athlete="point.fault"
                  @change="reword(point.fault, { athlete: ($event.target as HTMLTextAreaElement).value })"
                />
              </label>
              <label
                >Cue
                <input
                  class="form-control form-control-sm"
                  maxlength="300"
                  :value="point.cue"
                  @change="reword(point.fault, { cue: ($event.target as HTMLInputElement).value })"
              /></label>
            </div>
          </li>
        </ul>
      </div>

      <div class="panel">
        <div class="panel-head">
          <label for="good"><h2>What was good</h2></label
          ><span class="quiet">one line each, as measured; change it as you like</span>
        </div>
        <div class="body"><BFormTextarea id="good" v-model="good" rows="3" @change="keep({ good })" /></div>
      </div>
      <div class="panel">
        <div class="panel-head">
          <label for="words"><h2>Your words</h2></label>
        </div>
        <div class="body"><BFormTextarea id="words" v-model="said" rows="3" @change="keep({ words: said })" /></div>
      </div>

      <div class="panel">
        <div class="panel-head">
          <h2>Work</h2>
          <span class="quiet">loads are worked out from bests and the discs on hand, rounded down</span>
        </div>
        <p v-if="caution" class="notice body">{{ caution }}</p>
        <label v-if="caution" class="body reason"
          >Your reason for setting work in spite of it
          <span class="quiet">(kept with the work; against pain there is none)</span>
          <input v-model="reason" class="form-control form-control-sm" maxlength="300" />
        </label>
        <div v-for="task in assigned" :key="task.id" class="set body" data-test="assigned">
          <b>{{ task.name }}</b>
          <span
            >{{ task.sets }} × {{ task.reps
            }}<template v-if="task.total != null"> at {{ load(task.total, task.unit) }}</template></span
          >
          <button type="button" class="btn btn-sm btn-link" :disabled="busy" @click="takeBack(task)">Take back</button>
        </div>
        <p v-if="assigned.length && athlete" class="body">
          <RouterLink
            class="btn btn-sm btn-outline-secondary"
            :to="{ name: 'plan', params: { id: athlete }, query: { clip: id } }"
            >Put it on the calendar</RouterLink
          >
        </p>
        <component
          :is="group.id === 'more' ? 'details' : 'div'"
          v-for="group in groups.filter((one) => one.offers.length)"
          :key="group.id"
          :data-test="`offers-${group.id}`"
        >
          <summary v-if="group.id === 'more'" class="more">{{ group.offers.length }} more that answer it</summary>
          <details v-for="offer in group.offers" :key="offer.exercise" class="offer" :data-exercise="offer.exercise">
            <summary>
              <span class="sort">{{ SORTS[offer.sort] }}</span>
              <b>{{ offer.name }}</b>
              <span v-if="offer.another_day" class="later">another day</span>
              <span class="quiet">{{ offer.reason }}</span>
            </summary>
            <div class="dose">
              <label
                >Sets
                <input v-model.number="offer.sets" type="number" min="1" max="10" class="form-control form-control-sm"
              /></label>
              <label
                >Reps
                <input v-model.number="offer.reps" type="number" min="1" max="10" class="form-control form-control-sm"
              /></label>
              <label
                >% of best
                <input
                  v-model.number="offer.percent"
                  type="number"
                  :min="0"
                  :max="offer.percent_high"
                  class="form-control form-control-sm"
                  @change="workOut(offer)"
              /></label>
              <label
                >A week
                <input
                  v-model.number="offer.per_week"
                  type="number"
                  min="1"
                  max="7"
                  class="form-control form-control-sm"
              /></label>
              <label
                >Weeks
                <input v-model.number="offer.weeks" type="number" min="1" max="12" class="form-control form-control-sm"
              /></label>
              <button type="button" class="btn btn-sm btn-primary" :disabled="busy" @click="set(offer)">
                Set this work
              </button>
            </div>
            <p class="quiet small">
              {{ offer.how }}
              <template v-if="offer.dose.total != null">
                At {{ offer.percent_low }} to {{ offer.percent_high }} % of the best {{ words(offer.dose.basis) }} ({{
                  offer.dose.best_kilos
                }}
                kg). {{ offer.percent }} % is <b>{{ load(offer.dose.total, offer.dose.unit) }}</b> with the discs on
                hand.
              </template>
              <template v-else-if="offer.load">Take: {{ offer.load }}.</template>
              <template v-else>
                There is no best {{ words(offer.dose.basis) }} on record, so no load can be worked out.
                <RouterLink to="/athletes">Enter it</RouterLink>
              </template>
            </p>
            <DiscsOnBar v-if="offer.dose.total != null" :per-side="offer.dose.per_side" :unit="offer.dose.unit" />
            <p v-for="one in offer.before" :key="one" class="quiet small">First: {{ one }}</p>
            <ul class="cautions">
              <li v-for="one in offer.cautions" :key="one">{{ one }}</li>
              <li v-if="offer.safeties"><b>Safeties:</b> {{ offer.safeties }}</li>
            </ul>
          </details>
        </component>
        <p v-if="!free.length && !assigned.length" class="body quiet">
          No exercise is offered: nothing stands that one answers, or a caution holds them back.
        </p>
      </div>

      <div class="panel out">
        <div class="body">
          <BButton variant="primary" :disabled="busy" @click="publish">
            {{ review.link ? 'Hand over again' : 'Hand over' }}
          </BButton>
          <span v-if="!review.link" class="quiet"
            >makes a private link; nobody can guess it and you can withdraw it</span
          >
          <template v-else>
            <input
              class="form-control form-control-sm"
              readonly
              :value="link"
              aria-label="Private link"
              data-test="link"
              @focus="($event.target as HTMLInputElement).select()"
            />
            <BButton size="sm" variant="outline-secondary" @click="copy">{{ copied ? 'Copied' : 'Copy' }}</BButton>
            <BButton size="sm" variant="outline-secondary" :disabled="busy" @click="withdraw">Withdraw</BButton>
          </template>
        </div>
        <p v-if="review.link" class="body quiet small">
          Until
          {{ dated(review.link.expires_at) }}.
          {{ review.link.opened_count ? `Opened ${review.link.opened_count} times.` : 'Not opened yet.' }} Changes you
          make now reach the athlete when you hand over again.
        </p>
      </div>
    </section>
    <aside aria-label="As the athlete will read it">
      <p class="quiet screen-only over">
        As the athlete will read it
        <button type="button" class="btn btn-sm btn-outline-secondary" @click="printed">Print, or keep as PDF</button>
      </p>
      <div class="phone" tabindex="0" role="region" aria-label="The review on a phone">
        <HandedReview :review="review.preview" :pictures="pictures" :moment="moment" :voice="voice" :film="film" />
      </div>
    </aside>
  </main>
  <main v-else class="container py-4">
    <p v-if="trouble" class="notice" role="alert">{{ trouble }} <RouterLink to="/">Back to the queue</RouterLink></p>
    <p v-else class="quiet">Opening the review …</p>
  </main>
</template>

<style scoped lang="scss">
.compose {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 400px;
  gap: 1rem;
  max-width: 1240px;
  width: 100%;
  margin: 0 auto;
  padding: 0.8rem 1rem;
}
.over {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 1rem;
}
.head {
  margin-bottom: 0.6rem;
  h1 {
    margin: 0.15rem 0 0;
  }
}
.write .panel {
  margin-bottom: 0.7rem;
}
.body {
  padding: 0 0.75rem 0.6rem;
  margin: 0;
}
input[type='radio'] {
  margin-right: 0.4rem;
}
.plain {
  list-style: none;
  li {
    display: flex;
    flex-wrap: wrap;
    gap: 0.2rem 0.8rem;
  }
}
.set {
  display: flex;
  align-items: baseline;
  gap: 0.8rem;
  .btn {
    margin-left: auto;
    padding: 0;
  }
}
.offer {
  border-top: 1px solid var(--rule);
  padding: 0.4rem 0.75rem;
  summary {
    display: grid;
    grid-template-columns: 7.4rem minmax(0, 1fr);
    gap: 0 0.6rem;
    cursor: pointer;
    list-style: none;
    span {
      font-size: 0.86rem;
    }
    .quiet,
    .later {
      grid-column: 2;
    }
  }
}
.sort {
  color: var(--quiet);
}
.later {
  color: var(--look);
  font-weight: 600;
}
.more {
  padding: 0.4rem 0.75rem;
  border-top: 1px solid var(--rule);
}
.reword {
  flex: 1 1 100%;
  display: grid;
  gap: 0.2rem;
  margin-bottom: 0.4rem;
  label {
    font-size: 0.82rem;
    color: var(--quiet);
  }
}
.dose {
  display: flex;
  flex-wrap: wrap;
  align-items: end;
  gap: 0.6rem;
  margin: 0.5rem 0 0.3rem;
  label {
    font-size: 0.8rem;
    color: var(--quiet);
  }
  input {
    width: 4.6rem;
  }
}
.small {
  font-size: 0.86rem;
}
.reason {
  display: block;
  font-size: 0.86rem;
}
.cautions {
  border-left: 4px solid var(--look);
  padding: 0.1rem 0 0.1rem 1.4rem;
  margin: 0.4rem 0;
  font-size: 0.88rem;
}
.out .body:first-child {
  display: flex;
  align-items: center;
  gap: 0.6rem;
  padding-top: 0.6rem;
  .btn {
    flex: none;
  }
}
aside {
  position: sticky;
  top: 0.5rem;
  align-self: start;
}
.phone {
  border: 1px solid var(--rule);
  border-radius: 14px;
  background: var(--bs-body-bg);
  height: calc(100vh - 120px);
  overflow-y: auto;
}
@media print {
  .compose {
    display: block;
    padding: 0;
  }
  .phone {
    height: auto;
    border: 0;
    overflow: visible;
  }
}
@media (max-width: 900px) {
  .compose {
    grid-template-columns: minmax(0, 1fr);
  }
  aside {
    position: static;
  }
}
</style>
