<script setup lang="ts">
import { computed, onMounted, reactive, ref, watch } from 'vue'
import { api, ask } from '@/api/client'
import { ATTEMPTS, LIFTS } from '@/format/lifts'
import { title } from '@/format/quantity'
import { useQueue, type Facts } from '@/stores/queue'

/** Clips that were dropped and wait to be told whose they are. */
const props = defineProps<{ files: File[] }>()
const emit = defineEmits<{ done: [] }>()
const queue = useQueue()

interface Told {
  athlete: number | null
  lift: string
  load: string
  load_unit: 'kg' | 'lb'
  /** Empty until somebody says it; a pull or a squat is neither made nor missed. */
  made: 'made' | 'missed' | 'unsure' | ''
  filmed_on: string
}
// What is mostly the same for all clips of a session; until it is said of a clip, it is as of the clip before it.
const SHARED = ['athlete', 'lift', 'load_unit'] as const
interface Row {
  file: File
  facts: Told
  own: Set<keyof Told>
  share: number
  state: 'asking' | 'sending' | 'checking' | 'sent'
  trouble: string
}
const rows = reactive<Row[]>([])
/** What the gym counts in. */
const unit = ref<'kg' | 'lb'>('kg')
onMounted(async () => {
  const rack = await ask(api.GET('/api/rack')).catch(() => null)
  if (!rack?.unit || rack.unit === unit.value) return
  unit.value = rack.unit
  for (const row of rows) if (!row.own.has('load_unit')) row.facts.load_unit = rack.unit
})
const attempt = (row: Row) => ATTEMPTS.has(row.facts.lift)
// What was left out does not come back when more clips are chosen.
const taken = new Set<File>()
const open = computed(() => rows.filter((row) => row.state !== 'sent'))

/** The day a file was made, here. */
function dayOf(file: File) {
  const at = new Date(file.lastModified)
  return [at.getFullYear(), at.getMonth() + 1, at.getDate()].map((part) => String(part).padStart(2, '0')).join('-')
}

watch(
  () => props.files,
  (files) => {
    for (const file of files) {
      if (taken.has(file)) continue
      taken.add(file)
      const facts: Told = {
        athlete: null,
        lift: 'snatch',
        load: '',
        load_unit: unit.value,
        made: '',
        filmed_on: dayOf(file),
      }
      rows.push({ file, facts, own: new Set(), share: 0, state: 'asking', trouble: '' })
    }
    follow()
  },
  { immediate: true, deep: true },
)

function follow() {
  for (const [index, row] of rows.entries()) {
    const before = rows[index - 1]
    if (!before || row.state !== 'asking') continue
    const same = Object.fromEntries(
      SHARED.filter((fact) => !row.own.has(fact)).map((fact) => [fact, before.facts[fact]]),
    )
    Object.assign(row.facts, same)
  }
}

function said(row: Row, fact: (typeof SHARED)[number]) {
  row.own.add(fact)
  follow()
}

async function sendAll() {
  for (const row of open.value) if (row.state === 'asking') await send(row)
}

async function send(row: Row) {
  const { facts } = row
  const load = facts.load === '' ? null : Number(String(facts.load).replace(',', '.'))
  if (facts.athlete === null) return void (row.trouble = 'Say whose clip this is.')
  if (load !== null && !(load > 0)) return void (row.trouble = 'The load is a number, or left empty.')
  if (attempt(row) && !facts.made) return void (row.trouble = 'Say whether it was made or missed.')
  row.trouble = ''
  row.state = 'sending'
  const told: Facts = {
    athlete: facts.athlete,
    lift: facts.lift,
    load,
    load_unit: facts.load_unit,
    made: attempt(row) && (facts.made === 'made' || facts.made === 'missed') ? facts.made === 'made' : null,
    filmed_on: facts.filmed_on || null,
  }
  try {
    await queue.send(row.file, told, (share) => {
      row.share = share
      if (share >= 1) row.state = 'checking'
    })
    row.state = 'sent'
    if (!open.value.length) emit('done')
  } catch (error) {
    row.state = 'asking'
    row.trouble = (error as Error).message
  }
}

function leaveOut(row: Row) {
  rows.splice(rows.indexOf(row), 1)
  if (!open.value.length) emit('done')
}
</script>

<template>
  <section class="panel upload" aria-label="Clips to send">
    <div class="panel-head">
      <h2>Whose, and which lift?</h2>
      <span class="quiet">{{ open.length }} {{ open.length === 1 ? 'clip' : 'clips' }} to send</span>
      <BButton
        v-if="open.length > 1"
        size="sm"
        variant="outline-secondary"
        class="all"
        :disabled="!open.some((row) => row.state === 'asking')"
        @click="sendAll()"
      >
        Send all
      </BButton>
    </div>
    <form v-for="(row, index) in open" :key="index" class="row-form" @submit.prevent="send(row)">
      <div class="name" :title="row.file.name">
        {{ row.file.name }} <span class="quiet">{{ (row.file.size / 1e6).toFixed(1) }} MB</span>
      </div>
      <label
        >Athlete
        <select v-model="row.facts.athlete" class="form-select form-select-sm" required @change="said(row, 'athlete')">
          <option :value="null" disabled>choose</option>
          <option v-for="athlete in queue.athletes" :key="athlete.id" :value="athlete.id">{{ athlete.name }}</option>
        </select>
      </label>
      <label
        >Lift
        <select v-model="row.facts.lift" class="form-select form-select-sm" @change="said(row, 'lift')">
          <optgroup v-for="(lifts, group) in LIFTS" :key="group" :label="group">
            <option v-for="lift in lifts" :key="lift" :value="lift">{{ title(lift) }}</option>
          </optgroup>
        </select>
      </label>
      <label
        >Load
        <span class="joined">
          <input v-model="row.facts.load" class="form-control form-control-sm" inputmode="decimal" size="5" />
          <select
            v-model="row.facts.load_unit"
            class="form-select form-select-sm"
            aria-label="Unit of the load"
            @change="said(row, 'load_unit')"
          >
            <option>kg</option>
            <option>lb</option>
          </select>
        </span>
      </label>
      <label v-if="attempt(row)"
        >Made or missed
        <select v-model="row.facts.made" class="form-select form-select-sm" data-test="made">
          <option value="" disabled>choose</option>
          <option value="made">made</option>
          <option value="missed">missed</option>
          <option value="unsure">not sure</option>
        </select>
      </label>
      <label>Filmed on <input v-model="row.facts.filmed_on" type="date" class="form-control form-control-sm" /></label>
      <div class="act">
        <BButton type="submit" size="sm" variant="primary" :disabled="row.state !== 'asking'">Send</BButton>
        <BButton size="sm" variant="outline-secondary" :disabled="row.state !== 'asking'" @click="leaveOut(row)">
          Leave out
        </BButton>
      </div>
      <div v-if="row.state !== 'asking'" class="wide">
        <BProgress :value="row.share * 100" :max="100" />
        <span class="quiet">{{
          row.state === 'checking' ? 'Sent. The file is being checked.' : `Sending, ${Math.round(row.share * 100)} %`
        }}</span>
      </div>
      <p v-if="row.trouble" class="notice wide" role="alert">{{ row.trouble }}</p>
    </form>
  </section>
</template>

<style scoped lang="scss">
.upload {
  margin-bottom: 1rem;
}
.all {
  margin-left: auto;
}
.row-form {
  display: flex;
  flex-wrap: wrap;
  align-items: end;
  gap: 0.5rem 0.8rem;
  padding: 0.5rem 0.75rem 0.7rem;
  border-top: 1px solid var(--rule);
}
.name {
  flex: 1 1 100%;
  overflow: hidden;
  text-overflow: ellipsis;
}
label {
  font-size: 0.82rem;
  color: var(--quiet);
}
.joined {
  display: flex;
  gap: 2px;
  input {
    width: 5rem;
  }
  select {
    width: 4.2rem;
  }
}
.act {
  display: flex;
  gap: 0.4rem;
}
.wide {
  flex: 1 1 100%;
  margin: 0;
}
</style>
