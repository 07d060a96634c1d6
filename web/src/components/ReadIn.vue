<script setup lang="ts">
import { ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { words } from '@/format/quantity'

/** Athletes and bests out of a table: what it would do is shown before anything is kept. */
const emit = defineEmits<{ kept: [] }>()
const text = ref('')
const rows = ref<Schemas['TableRow'][]>([])
const trouble = ref('')

async function look(keep: boolean) {
  try {
    const told = await ask(api.POST('/api/athletes/read-in', { body: { text: text.value, keep } }))
    rows.value = keep ? [] : told
    trouble.value = ''
    if (!keep) return
    text.value = ''
    emit('kept')
  } catch (error) {
    trouble.value = (error as Error).message
    rows.value = []
  }
}
async function take(event: Event) {
  const [file] = (event.target as HTMLInputElement).files ?? []
  if (!file) return
  text.value = await file.text()
  await look(false)
}
const bests = (row: Schemas['TableRow']) =>
  Object.entries(row.bests).map(([lift, kilos]) => `${words(lift)} ${Number(kilos.toFixed(1))} kg`)
</script>

<template>
  <details class="panel read-in">
    <summary>Bring athletes in from a table</summary>
    <p class="quiet small">
      Comma-separated, the first line names the columns: name, stature_cm, unit, snatch, clean, jerk, front_squat,
      back_squat, clean_and_press. All but the name may be left out. Nothing is kept before you have seen it.
    </p>
    <label>File <input type="file" accept=".csv,text/csv" class="form-control form-control-sm" @change="take" /></label>
    <label
      >Or the text itself
      <textarea v-model="text" class="form-control form-control-sm" rows="3" placeholder="name,stature_cm,snatch" />
    </label>
    <p v-if="trouble" class="notice" role="alert">{{ trouble }}</p>
    <ul v-if="rows.length" data-test="rows">
      <li v-for="row in rows" :key="row.name">
        <b>{{ row.name }}</b> {{ row.there ? 'is there, and gets' : 'is new' }}
        <span class="quiet">{{
          [row.stature_m ? `${Math.round(row.stature_m * 100)} cm` : '', ...bests(row)].filter(Boolean).join(', ')
        }}</span>
      </li>
    </ul>
    <div class="act">
      <button type="button" class="btn btn-sm btn-outline-secondary" :disabled="!text.trim()" @click="look(false)">
        Look at it first
      </button>
      <button v-if="rows.length" type="button" class="btn btn-sm btn-primary" @click="look(true)">
        Keep {{ rows.length === 1 ? 'this athlete' : `these ${rows.length}` }}
      </button>
    </div>
  </details>
</template>

<style scoped lang="scss">
.read-in {
  margin-top: 1rem;
  padding: 0.6rem 0.75rem;
  label {
    display: block;
    margin-top: 0.5rem;
    font-size: 0.88rem;
  }
  .act {
    display: flex;
    gap: 0.5rem;
    margin-top: 0.6rem;
  }
  ul {
    margin: 0.6rem 0 0;
    padding-left: 1.1rem;
  }
}
</style>
