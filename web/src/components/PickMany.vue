<script setup lang="ts">
import { computed, ref, useId } from 'vue'

/** Several of a list: typed in, shown as words that can be taken away again. */
const props = defineProps<{ label: string; choices: { id: string; name: string }[] }>()
const chosen = defineModel<string[]>({ required: true })
const typed = ref('')
const id = useId()
const left = computed(() => props.choices.filter((one) => !chosen.value.includes(one.id)))
const nameOf = (wanted: string) => props.choices.find((one) => one.id === wanted)?.name ?? wanted
function take() {
  const named = typed.value.trim().toLowerCase()
  const found = left.value.find((one) => one.name.toLowerCase() === named)
  if (!found) return
  chosen.value = [...chosen.value, found.id]
  typed.value = ''
}
</script>

<template>
  <div class="pick-many">
    <label :for="id">{{ label }}</label>
    <input
      :id="id"
      v-model="typed"
      :list="`${id}-list`"
      class="form-control form-control-sm"
      autocomplete="off"
      placeholder="Type a few letters"
      @input="take"
      @keydown.enter.prevent="take"
    />
    <datalist :id="`${id}-list`">
      <option v-for="one in left" :key="one.id" :value="one.name" />
    </datalist>
    <p v-if="chosen.length" class="chosen">
      <button
        v-for="one in chosen"
        :key="one"
        type="button"
        class="btn btn-sm btn-outline-secondary"
        :aria-label="`Remove ${nameOf(one)}`"
        @click="chosen = chosen.filter((other) => other !== one)"
      >
        {{ nameOf(one) }} ×
      </button>
    </p>
  </div>
</template>

<style scoped lang="scss">
.pick-many label {
  font-size: 0.82rem;
}
.chosen {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem;
  margin: 0.3rem 0 0;
}
</style>
