<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { title } from '@/format/quantity'
import { shelfName } from './shelf'

/** A teaching order of the coach's own: written, or changed. What cannot be is refused with what to change, and nothing typed is lost. */
const props = defineProps<{
  library: Schemas['Library']
  catalogue: Schemas['Catalogue'] | null
  ladder?: Schemas['Ladder'] | null
}>()
const emit = defineEmits<{ kept: [library: Schemas['Library']]; leave: [] }>()
const HANDS = ['none', 'stick', 'training bar', 'bar', 'loaded bar', 'axle', 'loaded axle']
interface Rung {
  exercise: string
  says: string
  implement: string
  sets: number
  reps: number
  in_a_row: number
  measure: string
  side: 'at_least' | 'at_most'
  limit: number
}
const empty = (): Rung => ({
  exercise: '',
  says: '',
  implement: 'bar',
  sets: 3,
  reps: 3,
  in_a_row: 3,
  measure: '',
  side: 'at_most',
  limit: 0,
})
const draft = reactive({
  name: props.ladder?.name ?? '',
  lift: props.ladder?.lift ?? 'snatch',
  about: props.ladder?.about ?? '',
  steps: (props.ladder?.steps ?? []).map((step): Rung => {
    const rule = step.passes[0]
    return {
      ...empty(),
      exercise: step.exercise,
      says: step.says,
      implement: step.implement,
      sets: step.sets,
      reps: step.reps,
      in_a_row: step.in_a_row,
      measure: rule?.measure ?? '',
      side: rule?.at_least != null ? 'at_least' : 'at_most',
      limit: rule?.at_least ?? rule?.at_most ?? 0,
    }
  }),
})
while (draft.steps.length < 3) draft.steps.push(empty())
const trouble = ref('')
const exercises = computed(() =>
  props.library.exercises.filter((row) => !row.hidden && (row.lifts.includes(draft.lift) || draft.lift === 'clean')),
)

async function keep() {
  const body: Schemas['OwnLadderRequest'] = {
    name: draft.name,
    lift: draft.lift,
    about: draft.about,
    steps: draft.steps.map(({ measure, side, limit, ...step }) => ({
      ...step,
      passes: measure
        ? [{ measure, at_least: side === 'at_least' ? limit : null, at_most: side === 'at_most' ? limit : null }]
        : [],
    })),
  }
  try {
    emit(
      'kept',
      props.ladder
        ? await ask(api.PUT('/api/ladders/{ladder}', { params: { path: { ladder: props.ladder.id } }, body }))
        : await ask(api.POST('/api/ladders', { body })),
    )
  } catch (error) {
    trouble.value = (error as Error).message
  }
}
</script>

<template>
  <form class="panel own-ladder" data-test="own-ladder" @submit.prevent="keep">
    <h2>{{ ladder ? `Change “${ladder.name}”` : 'A ladder of your own' }}</h2>
    <div class="facts">
      <label>Name <input v-model="draft.name" class="form-control form-control-sm" /></label>
      <label
        >Lift
        <select v-model="draft.lift" class="form-select form-select-sm">
          <option v-for="lift in ['snatch', 'clean', 'jerk']" :key="lift" :value="lift">{{ title(lift) }}</option>
        </select></label
      >
      <label class="wide">What it is for <input v-model="draft.about" class="form-control form-control-sm" /></label>
    </div>
    <fieldset v-for="(step, n) in draft.steps" :key="n">
      <legend>Step {{ n + 1 }}</legend>
      <select v-model="step.exercise" class="form-select form-select-sm" :aria-label="`Exercise of step ${n + 1}`">
        <option value="">choose an exercise</option>
        <option v-for="row in exercises" :key="row.id" :value="row.id">{{ shelfName(row) }}</option>
      </select>
      <input
        v-model="step.says"
        class="form-control form-control-sm wide"
        placeholder="What is done"
        :aria-label="`What is done in step ${n + 1}`"
      />
      <select v-model="step.implement" class="form-select form-select-sm" :aria-label="`In the hands, step ${n + 1}`">
        <option v-for="hands in HANDS" :key="hands" :value="hands">
          {{ hands === 'none' ? 'empty hands' : hands }}
        </option>
      </select>
      <span class="dose"
        ><input v-model.number="step.sets" type="number" min="1" max="10" aria-label="Sets" /> ×
        <input v-model.number="step.reps" type="number" min="1" max="10" aria-label="Repetitions"
      /></span>
      <span class="rule">
        <select v-model="step.measure" class="form-select form-select-sm" aria-label="A film must show">
          <option value="">passed by your eye</option>
          <option v-for="one in catalogue?.measures ?? []" :key="one.id" :value="one.id">
            {{ one.label }}{{ one.unit === '–' ? '' : `, ${one.unit}` }}
          </option>
        </select>
        <template v-if="step.measure">
          <select v-model="step.side" class="form-select form-select-sm" aria-label="At least or at most">
            <option value="at_least">at least</option>
            <option value="at_most">at most</option>
          </select>
          <input v-model.number="step.limit" type="number" step="any" aria-label="Limit" />
        </template>
      </span>
      <button v-if="draft.steps.length > 3" type="button" class="btn btn-sm btn-link" @click="draft.steps.splice(n, 1)">
        Remove
      </button>
    </fieldset>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <p class="act">
      <button type="button" class="btn btn-sm btn-outline-secondary" @click="draft.steps.push(empty())">
        Add step
      </button>
      <button class="btn btn-sm btn-primary">Save the ladder</button>
      <button type="button" class="btn btn-sm btn-link" @click="emit('leave')">Leave</button>
    </p>
  </form>
</template>

<style scoped lang="scss">
.own-ladder {
  padding: 0.7rem 0.9rem;
}
.facts,
fieldset {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.35rem 0.6rem;
  margin-bottom: 0.6rem;
}
.wide {
  grid-column: 1 / -1;
}
label,
legend {
  font-size: 0.84rem;
  margin: 0;
}
.dose,
.rule {
  display: flex;
  align-items: center;
  gap: 0.35rem;
  input {
    width: 4.2rem;
  }
}
.rule {
  grid-column: 1 / -1;
  select {
    width: auto;
    max-width: 22rem;
  }
}
.act {
  display: flex;
  gap: 0.5rem;
  margin: 0;
}
</style>
