<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import BodyMap from '@/components/BodyMap.vue'
import WorkCard, { type DoneSet, type WorkSlot } from '@/components/WorkCard.vue'
import { day, load, title, weekday } from '@/format/quantity'
import { newKey } from '@/api/key'
import { useOutbox } from '@/stores/outbox'
import { csrfToken, sentence } from '@/api/client'

/** The athlete's own page behind the private link: today's work on a phone, on whatever connection there is. */
const props = defineProps<{ token: string }>()
const box = useOutbox()
const opened = ref(false)
const words = ref('')
const weight = ref('')
const told = ref('')
const sending = ref(0)
const clipTrouble = ref('')
const keys = new Map<number, string>()

const work = computed(() => box.work)
const today = new Date().toLocaleDateString('en-CA')
const dayName = (on: string) => day(on, { weekday: 'long', month: 'long' })
const coming = computed(() => {
  const days = new Map<string, WorkSlot[]>()
  for (const slot of work.value?.coming ?? []) days.set(slot.on, [...(days.get(slot.on) ?? []), slot])
  return [...days].slice(0, 8)
})
const state = computed(() => {
  if (box.unsent && box.offline)
    return `No connection. ${box.unsent === 1 ? 'One entry is' : `${box.unsent} entries are`} kept here and sent later.`
  if (box.unsent && box.trouble) return ''
  if (box.unsent) return 'Sending …'
  return box.offline ? 'No connection. What you see is from your last visit.' : 'Everything is with your coach.'
})

const entered = (slot: WorkSlot): DoneSet[] | null =>
  (box.waiting.find((one) => one.kind === 'done' && one.row.slot === slot.id)?.row.sets as DoneSet[] | undefined) ??
  slot.done_sets

function done(slot: WorkSlot, sets: DoneSet[]) {
  const waits = box.waiting.find((one) => one.kind === 'done' && one.row.slot === slot.id)?.row.key
  const key = waits ?? slot.done_key ?? keys.get(slot.id) ?? newKey()
  keys.set(slot.id, key)
  const { exercise, lift, on, id } = slot
  return box.enter('done', { key, slot: id, exercise, lift, on: on < today ? on : today, sets, note: '' })
}

async function report(row: { kind: 'pain' | 'bruise'; site: string; degree: number }) {
  told.value = `${title(row.site)}, ${row.degree} of 10: noted.`
  await box.enter('reports', { key: newKey(), since: today, until: null, note: '', ...row } as never)
}
const over = (row: { key: string; kind: string; site: string; degree: number; since: string }) =>
  box.enter('reports', { ...row, until: today, note: '' } as never)

async function answer() {
  if (!words.value.trim()) return
  await box.enter('said', { key: newKey(), words: words.value.trim() })
  words.value = ''
  told.value = 'Your answer is noted.'
}
const feel = (readiness: number) => box.enter('days', { key: newKey(), on: today, readiness, bodyweight_kg: null })
async function weigh() {
  const kilos = Number(weight.value.replace(',', '.'))
  if (!(kilos >= 20 && kilos <= 300)) {
    told.value = 'A body weight is between 20 and 300 kg.'
    return
  }
  await box.enter('days', { key: newKey(), on: today, readiness: null, bodyweight_kg: kilos })
  told.value = `${kilos} kg noted.`
}

async function film(slot: WorkSlot, file: File, kilos: number | null) {
  sending.value = slot.id
  clipTrouble.value = told.value = ''
  const form = new FormData()
  form.append('file', file)
  if (slot.assignment != null) form.append('assignment', String(slot.assignment))
  else form.append('lift', slot.lift)
  if (kilos != null) form.append('load', String(kilos))
  form.append('load_unit', slot.unit)
  try {
    const got = await fetch(`/api/training/${props.token}/clips`, {
      method: 'POST',
      body: form,
      headers: { 'X-CSRFToken': csrfToken() },
    })
    if (got.ok) told.value = 'Your coach has the clip.'
    else clipTrouble.value = sentence(await got.json().catch(() => null), got.status)
  } catch {
    clipTrouble.value = 'No connection: the clip stays on your phone. Send it again when you have one.'
  } finally {
    sending.value = 0
  }
}

/** Have the page open without a connection next time, where the browser allows it: the page, and the parts it has loaded so far. */
async function keepPage() {
  if (!('serviceWorker' in navigator)) return
  try {
    await navigator.serviceWorker.register('/w/keeper.js')
    const parts = performance.getEntriesByType('resource').map((entry) => new URL(entry.name).pathname)
    const worker = (await navigator.serviceWorker.ready).active
    worker?.postMessage(parts.filter((part) => part.startsWith('/static/assets/')))
  } catch {
    // Without it the page needs a connection to open; what was entered is kept all the same.
  }
}

const again = () => void box.send()
onMounted(async () => {
  addEventListener('online', again)
  await box.open(props.token)
  opened.value = true
  void keepPage()
})
onBeforeUnmount(() => removeEventListener('online', again))
const timer = setInterval(() => box.unsent && again(), 20_000)
onBeforeUnmount(() => clearInterval(timer))
</script>

<template>
  <main class="work">
    <template v-if="work">
      <header>
        <h1>{{ work.name }}</h1>
        <p class="quiet">{{ dayName(today) }}</p>
      </header>
      <p class="state" role="status" data-test="state">
        <i :class="['sign', box.unsent || box.offline ? 'watch' : 'fine']" /> {{ state }}
        <button v-if="box.unsent" type="button" class="btn btn-sm btn-link" @click="again">Send now</button>
      </p>
      <p v-if="box.trouble" class="notice" role="alert">{{ box.trouble }}</p>
      <p v-if="work.stop" class="notice" role="alert">{{ work.stop }}</p>
      <p v-if="told" class="quiet" role="status">{{ told }}</p>
      <p v-if="clipTrouble" class="notice" role="alert">{{ clipTrouble }}</p>

      <section aria-labelledby="today">
        <h2 id="today">Today</h2>
        <p v-if="!work.today.length" class="quiet">
          Nothing is planned for today{{ coming.length ? `. Next: ${dayName(coming[0]![0])}.` : '.' }}
        </p>
        <WorkCard
          v-for="slot in work.today"
          :key="slot.id"
          :piece="slot"
          :entered="entered(slot)"
          :stopped="Boolean(work.stop)"
          :sending="sending === slot.id"
          @entered="(sets) => done(slot, sets)"
          @film="(file, kilos) => film(slot, file, kilos)"
        />
      </section>

      <section v-if="work.before.length">
        <h2>The last seven days</h2>
        <details v-for="slot in work.before" :key="slot.id">
          <summary>
            <i :class="['sign', entered(slot)?.length ? 'fine' : 'watch']" /> {{ weekday(slot.on) }}: {{ slot.name
            }}{{ entered(slot)?.length ? '' : ', not entered' }}
          </summary>
          <WorkCard
            :piece="slot"
            :entered="entered(slot)"
            :stopped="Boolean(work.stop)"
            :sending="sending === slot.id"
            @entered="(sets) => done(slot, sets)"
            @film="(file, kilos) => film(slot, file, kilos)"
          />
        </details>
      </section>

      <section>
        <h2>How are you today?</h2>
        <div class="feel" role="group" aria-label="Readiness, 1 worn out to 5 fresh">
          <button v-for="n in 5" :key="n" type="button" @click="feel(n)">
            {{ n }}<span v-if="n === 1"> worn out</span><span v-if="n === 5"> fresh</span>
          </button>
        </div>
        <form class="weigh" @submit.prevent="weigh">
          <label for="weight">Body weight, kg</label>
          <input id="weight" v-model="weight" inputmode="decimal" />
          <button class="btn btn-outline-secondary">Note it</button>
        </form>
      </section>

      <section>
        <h2>Does something hurt?</h2>
        <p v-for="row in work.reports" :key="row.key" class="hurts">
          <span
            ><i class="sign fault" /> {{ title(row.kind) }}, {{ row.site }}, {{ row.degree }} of 10 since
            {{ weekday(row.since) }}</span
          >
          <button type="button" class="btn btn-outline-secondary" @click="over(row)">It is over</button>
        </p>
        <details data-test="report">
          <summary>Tell where: two taps</summary>
          <BodyMap @report="report" />
        </details>
      </section>

      <section v-if="coming.length">
        <h2>Coming</h2>
        <ul class="coming">
          <li v-for="[on, slots] in coming" :key="on">
            <b>{{ weekday(on) }}</b>
            <span v-for="slot in slots" :key="slot.id"
              >{{ slot.name }}, {{ slot.sets || 1 }}&nbsp;×&nbsp;{{ slot.reps
              }}<template v-if="slot.total != null"> at {{ load(slot.total, slot.unit) }}</template></span
            >
          </li>
        </ul>
        <p><a :href="`/api/training/${token}/plan.ics`">Put it in your calendar</a></p>
      </section>

      <section v-if="work.reviews.length">
        <h2>From your coach</h2>
        <p v-for="one in work.reviews" :key="one.token">
          <RouterLink :to="{ name: 'handed', params: { token: one.token } }"
            >{{ title(one.lift) }}<template v-if="one.filmed_on"> of {{ weekday(one.filmed_on) }}</template></RouterLink
          >
        </p>
      </section>
      <section>
        <h2>Answer your coach</h2>
        <form @submit.prevent="answer">
          <textarea v-model="words" class="form-control" rows="2" maxlength="1000" aria-label="Your answer" />
          <button class="btn btn-primary send">Send</button>
        </form>
      </section>
      <footer class="quiet">
        Stop if something hurts: pain of 4 out of 10 or more, sharp pain, numbness or a joint that gives way is for a
        licensed clinician, not for a drill. This supports your coach's judgement; it is not medical advice.
      </footer>
    </template>
    <p v-else-if="box.trouble" class="notice" role="alert">{{ box.trouble }}</p>
    <p v-else-if="opened" class="notice" role="alert">
      There is no connection, and this page has not been opened on this phone before. Open it once with a connection.
    </p>
    <p v-else class="quiet">Opening your work …</p>
  </main>
</template>

<style scoped lang="scss">
.work {
  max-width: 34rem;
  width: 100%;
  margin: 0 auto;
  padding: 0.9rem;
  font-size: 1rem;
}
header {
  border-bottom: 2px solid currentColor;
  h1,
  p {
    margin: 0 0 0.15rem;
  }
}
.state {
  display: flex;
  align-items: center;
  gap: 0.5rem;
  margin: 0.5rem 0;
  .btn {
    min-height: 44px;
  }
}
section {
  margin-top: 1.2rem;
}
h2 {
  font-size: 0.9rem;
  color: var(--quiet);
}
summary {
  min-height: 44px;
  display: flex;
  align-items: center;
  gap: 0.5rem;
  text-decoration: underline;
  text-decoration-color: var(--rule);
  text-underline-offset: 3px;
}
.feel {
  display: grid;
  grid-template-columns: repeat(5, 1fr);
  gap: 0.4rem;
  button {
    min-height: 48px;
    border: 1px solid var(--rule);
    border-radius: 3px;
    background: var(--panel);
    color: inherit;
    span {
      display: block;
      font-size: 0.72rem;
    }
  }
}
.weigh {
  display: flex;
  align-items: center;
  gap: 0.5rem;
  margin-top: 0.5rem;
  input {
    width: 5.5rem;
    min-height: 44px;
    text-align: right;
    padding: 0 0.5rem;
    border: 1px solid var(--rule);
    border-radius: 3px;
    background: var(--panel);
    color: inherit;
  }
  .btn {
    min-height: 44px;
  }
}
.hurts {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 0.6rem;
  .btn {
    min-height: 44px;
    flex: none;
  }
}
.coming {
  list-style: none;
  padding: 0;
  li {
    display: grid;
    grid-template-columns: 6.6rem 1fr;
    padding: 0.35rem 0;
    border-top: 1px solid var(--rule);
    b {
      grid-row: span 3;
    }
    span {
      grid-column: 2;
    }
  }
}
.send {
  min-height: 44px;
  margin-top: 0.4rem;
}
a {
  display: inline-flex;
  min-height: 44px;
  align-items: center;
}
footer {
  font-size: 0.82rem;
  border-top: 1px solid var(--rule);
  padding-top: 0.6rem;
  margin-top: 1.4rem;
}
</style>
