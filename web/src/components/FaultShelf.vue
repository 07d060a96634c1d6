<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, ask, type Catalogue } from '@/api/client'
import { title } from '@/format/quantity'
import OwnFault from './OwnFault.vue'
import Wording from './Wording.vue'

/** The faults: what each looks like, why it matters, what leads to it and what it leads to; the coach's own among them. */
const props = defineProps<{ catalogue: Catalogue }>()
const emit = defineEmits<{ changed: [catalogue: Catalogue] }>()
const sought = ref('')
const onlyOwn = ref(false)
const chosen = ref(props.catalogue.faults[0]?.id ?? '')
/** What is being done with the fault that is looked at: nothing, its words changed, it changed, or a new one written. */
const doing = ref<'' | 'wording' | 'editing' | 'writing'>('')
const trouble = ref('')

const rows = computed(() => {
  const words = sought.value.toLowerCase().split(/\s+/).filter(Boolean)
  return props.catalogue.faults.filter((one) => {
    const told = `${one.name} ${one.coach} ${one.athlete} ${one.cue}`.toLowerCase()
    return words.every((word) => told.includes(word)) && (!onlyOwn.value || one.own || one.reworded)
  })
})
const one = computed(() => props.catalogue.faults.find((fault) => fault.id === chosen.value) ?? null)
const nameOf = (id: string) => props.catalogue.faults.find((fault) => fault.id === id)?.name ?? id
const phaseOf = (id: string) => props.catalogue.phases.find((phase) => phase.id === id)?.name ?? title(id)
const causes = computed(() =>
  props.catalogue.links.filter((link) => link.effect === chosen.value).map((link) => link.cause),
)
const effects = computed(() =>
  props.catalogue.links.filter((link) => link.cause === chosen.value).map((link) => link.effect),
)
/** The sentence without the places of its numbers. */
const said = computed(() => one.value?.coach.replace(/\{[^}]*\}/g, '…') ?? '')
const VIEWS: Record<string, string> = { side: 'the side', front: 'the front', '45': '45° in front', any: 'anywhere' }

function look(id: string) {
  chosen.value = id
  doing.value = ''
}
function kept(catalogue: Catalogue, fault = chosen.value) {
  emit('changed', catalogue)
  chosen.value = fault
  doing.value = ''
}
async function takeBack() {
  try {
    emit('changed', await ask(api.DELETE('/api/faults/{fault}', { params: { path: { fault: chosen.value } } })))
    trouble.value = ''
  } catch (error) {
    trouble.value = (error as Error).message
  }
}
</script>

<template>
  <div class="columns">
    <section class="panel list">
      <form class="search" @submit.prevent>
        <input
          v-model="sought"
          type="search"
          class="form-control form-control-sm"
          placeholder="Words"
          aria-label="Words in a fault"
        />
        <label class="quiet"><input v-model="onlyOwn" type="checkbox" /> only mine and reworded</label>
        <button type="button" class="btn btn-sm btn-outline-secondary" @click="doing = 'writing'">
          Write a fault of your own
        </button>
      </form>
      <ul aria-label="Faults">
        <li v-for="row in rows" :key="row.id">
          <button
            type="button"
            :aria-current="row.id === chosen"
            :class="{ away: row.put_away }"
            :data-fault="row.id"
            @click="look(row.id)"
          >
            <b>{{ row.name }}</b>
            <span class="quiet"
              >{{ phaseOf(row.phase) }} · {{ row.measured ? 'measured' : 'by eye' }}{{ row.own ? ' · yours' : ''
              }}{{ row.reworded ? ' · in your words' : '' }}{{ row.put_away ? ' · put away' : '' }}</span
            >
          </button>
        </li>
      </ul>
      <p v-if="!rows.length" class="quiet none">None fits. Take something back from the search.</p>
    </section>
    <section v-if="doing === 'writing'" class="panel detail">
      <h2>A fault of your own</h2>
      <OwnFault :catalogue="catalogue" @kept="kept" @leave="doing = ''" />
    </section>
    <section v-else-if="one" class="panel detail" data-test="fault">
      <h2>{{ one.name }}</h2>
      <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
      <OwnFault
        v-if="doing === 'editing'"
        :key="one.id"
        :catalogue="catalogue"
        :fault="one"
        @kept="kept"
        @leave="doing = ''"
      />
      <template v-else>
        <p>{{ said }}</p>
        <p class="quiet">{{ one.why }}</p>
        <dl>
          <dt>The athlete reads</dt>
          <dd>{{ one.athlete }}</dd>
          <dt>Cue</dt>
          <dd>
            <b>{{ one.cue }}</b>
          </dd>
          <dt>Praise</dt>
          <dd>{{ one.good }}</dd>
          <dt>Seen from</dt>
          <dd>{{ VIEWS[one.view] }}{{ one.measured ? '' : ', by your eye: no film tells it' }}</dd>
          <dt>Occurs in</dt>
          <dd>{{ one.kinds.map((kind) => title(kind).toLowerCase()).join(', ') }}</dd>
          <dt>Follows from</dt>
          <dd>
            <template v-if="!causes.length">nothing in the list</template>
            <button v-for="id in causes" :key="id" type="button" class="link" @click="look(id)">
              {{ nameOf(id) }}
            </button>
          </dd>
          <dt>Leads to</dt>
          <dd>
            <template v-if="!effects.length">nothing in the list</template>
            <button v-for="id in effects" :key="id" type="button" class="link" @click="look(id)">
              {{ nameOf(id) }}
            </button>
          </dd>
        </dl>
        <Wording v-if="doing === 'wording'" :fault="one" @kept="kept" @leave="doing = ''" />
        <p v-else class="act">
          <button v-if="one.own" type="button" class="btn btn-sm btn-outline-secondary" @click="doing = 'editing'">
            Change
          </button>
          <button v-else type="button" class="btn btn-sm btn-outline-secondary" @click="doing = 'wording'">
            Say it in your own words
          </button>
          <button v-if="one.own && !one.put_away" type="button" class="btn btn-sm btn-link" @click="takeBack">
            Delete
          </button>
        </p>
      </template>
    </section>
  </div>
</template>

<style scoped lang="scss">
@use '../theme/shelf';

.search {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.5rem;
  padding: 0.6rem 0.75rem;
  input[type='search'] {
    width: 12rem;
  }
}
.detail h2 {
  margin: 0 0 0.3rem;
}
</style>
