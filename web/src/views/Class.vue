<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { day } from '@/format/quantity'

/** A class on one ladder: who has passed which step. The coach ticks; what the last film of the next step shows stands beside it. */
const props = defineProps<{ ladder: string }>()
const held = ref<Schemas['Class']>({ rows: [], others: [] })
const rows = computed(() => held.value.rows)
const joining = ref<number | ''>('')
const told = ref<Schemas['Ladder'] | null>(null)
const trouble = ref('')
const loaded = ref(false)
const passedBy = computed(() => told.value?.steps.map((_, n) => rows.value.filter((row) => row.passed[n]).length) ?? [])

async function guarded(work: () => Promise<unknown>) {
  try {
    await work()
    trouble.value = ''
  } catch (error) {
    trouble.value = (error as Error).message
  }
}
onMounted(() =>
  guarded(async () => {
    const path = { params: { path: { ladder: props.ladder } } }
    const [library, fresh] = await Promise.all([
      ask(api.GET('/api/library')),
      ask(api.GET('/api/ladders/{ladder}/class', path)),
    ])
    told.value = library.ladders.find((one) => one.id === props.ladder) ?? null
    held.value = fresh
    loaded.value = true
  }),
)
const tick = (athlete: number, step: number, passed: boolean) =>
  guarded(async () => {
    held.value = await ask(
      api.PUT('/api/ladders/{ladder}/class/{athlete}/{step}', {
        params: { path: { ladder: props.ladder, athlete, step } },
        body: { passed },
      }),
    )
  })
const putOn = (athlete: number) =>
  guarded(async () => {
    const params = { path: { ladder: props.ladder, athlete } }
    held.value = await ask(api.PUT('/api/ladders/{ladder}/athletes/{athlete}', { params }))
    joining.value = ''
  })
const takeOff = (athlete: number) =>
  guarded(async () => {
    const params = { path: { ladder: props.ladder, athlete } }
    held.value = await ask(api.DELETE('/api/ladders/{ladder}/athletes/{athlete}', { params }))
  })
</script>

<template>
  <main class="class">
    <RouterLink to="/library">Back to the library</RouterLink>
    <h1>{{ told?.name ?? 'Class' }}</h1>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <p v-else-if="!loaded" class="quiet">Looking …</p>
    <template v-if="told">
      <p class="quiet">{{ told.about }}</p>
      <form v-if="held.others.length" class="join" @submit.prevent="joining !== '' && putOn(joining)">
        <label for="joining">Put on this ladder</label>
        <select id="joining" v-model="joining" class="form-select form-select-sm">
          <option value="">choose an athlete</option>
          <option v-for="one in held.others" :key="one.athlete" :value="one.athlete">{{ one.name }}</option>
        </select>
        <button class="btn btn-sm btn-primary" :disabled="joining === ''">Put on</button>
      </form>
      <p v-if="!rows.length" class="quiet">Nobody is on this ladder yet. Put the first athlete on it above.</p>
      <div v-else class="scroll">
        <table class="table panel">
          <thead>
            <tr>
              <th>Athlete</th>
              <th v-for="(step, n) in told.steps" :key="n" class="step" :title="step.says">
                {{ n + 1 }}. {{ step.says.replace(/\.$/, '') }}
              </th>
              <th>Next step</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="row in rows" :key="row.athlete">
              <td>
                <b>{{ row.name }}</b>
                <button type="button" class="btn btn-sm btn-link p-0 ms-2" @click="takeOff(row.athlete)">
                  Take off
                </button>
              </td>
              <td v-for="(on, n) in row.passed" :key="n" class="step" :class="{ next: row.next === n }">
                <label
                  ><input
                    type="checkbox"
                    :checked="on !== null"
                    :aria-label="`${row.name}, step ${n + 1} passed`"
                    @change="tick(row.athlete, n, ($event.target as HTMLInputElement).checked)"
                  />
                  <span v-if="on" class="quiet">{{ day(on) }}</span></label
                >
              </td>
              <td>
                <template v-if="row.next !== null">{{ row.next + 1 }}. </template
                ><RouterLink v-if="row.clip" :to="{ name: 'bench', params: { id: row.clip } }">{{
                  row.says
                }}</RouterLink
                ><span v-else class="quiet">{{ row.says }}</span>
                <p v-if="row.waits" class="waits"><span class="sign fault" /> {{ row.waits }}</p>
              </td>
            </tr>
          </tbody>
          <tfoot>
            <tr class="quiet">
              <td>Passed by</td>
              <td v-for="(count, n) in passedBy" :key="n" class="step">{{ count }} of {{ rows.length }}</td>
              <td />
            </tr>
          </tfoot>
        </table>
      </div>
    </template>
  </main>
</template>

<style scoped lang="scss">
.class {
  max-width: 1260px;
  width: 100%;
  margin: 0 auto;
  padding: 0.8rem 1rem;
}
.join {
  display: flex;
  align-items: center;
  gap: 0.5rem;
  margin-bottom: 0.6rem;
  select {
    width: auto;
  }
}
.waits {
  margin: 0.2rem 0 0;
  max-width: 22rem;
  white-space: normal;
  font-size: 0.86rem;
}
.scroll {
  overflow-x: auto;
}
.step {
  text-align: center;
  font-size: 0.8rem;
  label {
    display: inline-flex;
    flex-direction: column;
    align-items: center;
    min-width: 44px;
    min-height: 34px;
    justify-content: center;
  }
  input {
    width: 18px;
    height: 18px;
  }
}
td {
  vertical-align: middle;
}
td:first-child,
td:last-child {
  white-space: nowrap;
}
td.next {
  background: var(--sunk);
}
</style>
