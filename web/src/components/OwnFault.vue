<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { api, ask, type Catalogue, type Schemas } from '@/api/client'
import { LIFT_KINDS } from '@/format/lifts'
import { title } from '@/format/quantity'
import PickMany from './PickMany.vue'

/** A fault of the coach's own: written, or changed. What cannot be is refused with what to change, and nothing typed is lost. */
const props = defineProps<{
  catalogue: Catalogue
  /** The lift it was seen in, for a new one. */
  kind?: string
  /** What was typed of its name. */
  name?: string
  fault?: Schemas['Fault'] | null
}>()
const emit = defineEmits<{ kept: [catalogue: Catalogue, fault: string]; leave: [] }>()
const VIEWS = { side: 'the side', front: 'the front', '45': '45° in front', any: 'anywhere' }
const draft = reactive<Schemas['OwnFaultRequest']>({
  name: props.fault?.name ?? props.name ?? '',
  phase: props.fault?.phase ?? 'first_pull',
  kinds: [...(props.fault?.kinds ?? (props.kind ? [props.kind] : []))],
  view: props.fault?.view ?? 'side',
  coach: props.fault?.coach ?? '',
  athlete: props.fault?.athlete ?? '',
  cue: props.fault?.cue ?? '',
  why: props.fault?.why ?? '',
  good: props.fault?.good ?? '',
  drills: [...(props.fault?.drills ?? [])],
  causes: [...(props.fault?.causes ?? [])],
  effects: [...(props.fault?.effects ?? [])],
})
const trouble = ref('')
const busy = ref(false)
const exercises = ref<{ id: string; name: string }[]>([])
void ask(api.GET('/api/library')).then((library) => {
  exercises.value = library.exercises.map(({ id, name }) => ({ id, name: title(name.replace('{lift}', '').trim()) }))
})
const others = computed(() => props.catalogue.faults.filter((one) => !one.own).map(({ id, name }) => ({ id, name })))
const kinds = LIFT_KINDS.map((id) => ({ id, name: title(id) }))

async function keep() {
  busy.value = true
  try {
    const body = { ...draft }
    const before = new Set(props.catalogue.faults.map((one) => one.id))
    const fresh = props.fault
      ? await ask(api.PUT('/api/faults/{fault}', { params: { path: { fault: props.fault.id } }, body }))
      : await ask(api.POST('/api/faults', { body }))
    emit('kept', fresh, props.fault?.id ?? fresh.faults.find((one) => !before.has(one.id))!.id)
  } catch (error) {
    trouble.value = (error as Error).message
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <form class="own-fault" data-test="own-fault" @submit.prevent="keep">
    <label>Name <input v-model="draft.name" class="form-control form-control-sm" maxlength="60" /></label>
    <label
      >Sentence for you
      <input v-model="draft.coach" class="form-control form-control-sm" placeholder="Chin drops to the chest"
    /></label>
    <label
      >Sentence for the athlete
      <textarea
        v-model="draft.athlete"
        class="form-control form-control-sm"
        rows="2"
        placeholder="Look straight ahead."
      />
    </label>
    <label>Cue <input v-model="draft.cue" class="form-control form-control-sm" /></label>
    <label>Why it matters <input v-model="draft.why" class="form-control form-control-sm" /></label>
    <label>Praise when it is right <input v-model="draft.good" class="form-control form-control-sm" /></label>
    <div class="two">
      <label
        >Part of the lift
        <select v-model="draft.phase" class="form-select form-select-sm">
          <option v-for="phase in catalogue.phases" :key="phase.id" :value="phase.id">{{ phase.name }}</option>
        </select></label
      >
      <label
        >Seen from
        <select v-model="draft.view" class="form-select form-select-sm">
          <option v-for="(says, view) in VIEWS" :key="view" :value="view">{{ says }}</option>
        </select></label
      >
    </div>
    <PickMany v-model="draft.kinds" label="Lifts it can occur in" :choices="kinds" />
    <PickMany v-model="draft.causes" label="Faults that lead to it" :choices="others" />
    <PickMany v-model="draft.effects" label="Faults that follow from it" :choices="others" />
    <PickMany v-model="draft.drills" label="Drills that answer it" :choices="exercises" />
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <p class="act">
      <button class="btn btn-sm btn-primary" :disabled="busy">Save the fault</button>
      <button type="button" class="btn btn-sm btn-outline-secondary" @click="emit('leave')">Leave</button>
    </p>
  </form>
</template>

<style scoped lang="scss">
.own-fault {
  display: grid;
  gap: 0.4rem;
  padding: 0.4rem 0;
  label {
    font-size: 0.82rem;
  }
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.6rem;
}
.act {
  display: flex;
  gap: 0.4rem;
  margin: 0;
}
</style>
