<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'

/** Where coaches disagree: each question with this coach's position, and the reason for the usual one. */
type School = Schemas['School']
const props = defineProps<{
  schools: School[]
  /** Whose clip is open; empty where positions are taken for everyone. */
  athlete: string
  /** What the last change did to the verdicts on the open lift. */
  changed: string[] | null
  saving: boolean
}>()
const emit = defineEmits<{ take: [question: string, position: string, everyone: boolean]; leave: [question: string] }>()

const everyone = ref(false)
const onlyOwn = ref(false)
const shown = computed(() => props.schools.filter((school) => !onlyOwn.value || school.everyone !== null))
const own = computed(() => props.schools.filter((school) => school.everyone !== null).length)
const whose = (school: School) => (school.everyone ? 'for all your athletes' : `for ${props.athlete}`)
</script>

<template>
  <div class="schools">
    <p class="quiet">
      Coaches differ here. Your answers move limits, turn rules off, or change cues and drills; every verdict they touch
      says so.
    </p>
    <div v-if="athlete" class="whom" role="group" aria-label="For whom">
      <label><input v-model="everyone" type="radio" :value="false" name="whom" /> for {{ athlete }}</label>
      <label><input v-model="everyone" type="radio" :value="true" name="whom" /> for all my athletes</label>
    </div>
    <div v-if="changed" class="changed" role="status" data-test="changed">
      <template v-if="changed.length">
        <b>This changed on the open lift:</b>
        <ul>
          <li v-for="line in changed" :key="line">{{ line }}</li>
        </ul>
      </template>
      <template v-else>Nothing changes on the open lift.</template>
    </div>
    <label class="own"
      ><input v-model="onlyOwn" type="checkbox" :disabled="!own" /> only what I answered otherwise ({{ own }})</label
    >
    <dl>
      <div v-for="school in shown" :key="school.id" :class="{ other: school.everyone !== null }">
        <dt>
          <label :for="`school-${school.id}`">{{ school.asks }}</label>
        </dt>
        <dd>
          <select
            :id="`school-${school.id}`"
            class="form-select form-select-sm"
            :value="school.position"
            :disabled="saving"
            @change="emit('take', school.id, ($event.target as HTMLSelectElement).value, everyone || !athlete)"
          >
            <option v-for="(position, place) in school.positions" :key="position.id" :value="position.id">
              {{ position.says }}{{ place === 0 ? ' (usual)' : '' }}
            </option>
          </select>
          <p class="quiet">
            <template v-if="school.everyone !== null">
              Set by you {{ whose(school) }}.
              <button
                type="button"
                class="btn btn-sm btn-link p-0"
                :disabled="saving"
                :data-leave="school.id"
                @click="emit('leave', school.id)"
              >
                Take back
              </button>
            </template>
            Why the usual one: {{ school.why }}
          </p>
        </dd>
      </div>
    </dl>
  </div>
</template>

<style scoped lang="scss">
.schools {
  padding: 0.4rem 0.75rem 0.6rem;
  > p {
    margin: 0 0 0.4rem;
  }
}
.whom,
.own {
  display: flex;
  gap: 0.9rem;
  font-size: 0.88rem;
  label {
    display: inline-flex;
    gap: 0.3rem;
  }
}
.own {
  gap: 0.35rem;
  margin: 0.4rem 0 0.2rem;
}
.changed {
  margin-top: 0.4rem;
  padding: 0.35rem 0.5rem;
  background: var(--sunk);
  font-size: 0.88rem;
  ul {
    margin: 0.15rem 0 0;
    padding-left: 1.1rem;
  }
}
dl {
  margin: 0;
  > div {
    border-top: 1px solid var(--rule);
    padding: 0.45rem 0 0.35rem 0.5rem;
    border-left: 3px solid transparent;
    &.other {
      border-left-color: var(--trace);
    }
  }
}
dt {
  font-weight: 600;
  font-size: 0.9rem;
}
dd {
  margin: 0.15rem 0 0;
  p {
    margin: 0.2rem 0 0;
    font-size: 0.82rem;
  }
  .btn-link {
    font-size: inherit;
    vertical-align: baseline;
  }
}
</style>
