<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { commonEvents } from './beside'
import Paths from './Paths.vue'
import { title, words } from '@/format/quantity'
import { api, ask, type AnalysisDocument, type Lift } from '@/api/client'

/** The lift that led to a block beside the one after it: the bar's paths over each other, and the frames at the positions that count. */
const props = defineProps<{ before: string; after: string; kind: string; measure: string }>()

// Where the eye goes first, besides the frame of the number that was to move.
const SHOWN = ['lift_off', 'knee', 'contact', 'dip_bottom', 'bottom']
const MOST = 3
const documents = shallowRef<(AnalysisDocument | null)[]>([])
const trouble = ref('')
const load = async (id: string) =>
  (await ask(api.GET('/api/clips/{id}/bench', { params: { path: { id } } }))).document as AnalysisDocument
watch(
  () => [props.before, props.after],
  async (ids) => {
    try {
      documents.value = await Promise.all(ids.map(load))
    } catch (error) {
      trouble.value = (error as Error).message
    }
  },
  { immediate: true },
)
const lifts = computed(() =>
  documents.value.map((one) => one?.lifts.find((lift) => lift.kind === props.kind) ?? one?.lifts[0] ?? null),
)
const pair = computed(() =>
  lifts.value.length === 2 && lifts.value[0] && lifts.value[1] ? (lifts.value as [Lift, Lift]) : null,
)
const rows = computed(() => {
  if (!pair.value) return []
  const [one, other] = pair.value
  const told = [one, other].map((lift) => lift.measures[props.measure])
  const own =
    told[0]?.frame != null && told[1]?.frame != null
      ? [{ name: 'the number', frames: [told[0].frame, told[1].frame] as [number, number] }]
      : []
  const common = commonEvents(one, other).filter((name) => SHOWN.includes(name))
  return [
    ...own,
    ...common.map((name) => ({
      name: words(name),
      frames: [one.events[name]!.frame, other.events[name]!.frame] as [number, number],
    })),
  ].slice(0, MOST)
})
</script>

<template>
  <p v-if="trouble" class="quiet">{{ trouble }}</p>
  <div v-else-if="pair" class="both" data-test="before-after">
    <figure class="paths">
      <Paths :lifts="pair.map((lift) => ({ lift, frame: -1 }))" />
      <figcaption class="quiet">Line: before. Dashes: after.</figcaption>
    </figure>
    <figure v-for="row in rows" :key="row.name">
      <div>
        <img
          v-for="(clip, place) in [before, after]"
          :key="place"
          :src="`/api/clips/${clip}/frames/${row.frames[place]}.jpg?long_side=480`"
          :alt="`${title(row.name)}, ${place ? 'after' : 'before'}`"
          loading="lazy"
        />
      </div>
      <figcaption class="quiet">{{ title(row.name) }}: before, after</figcaption>
    </figure>
  </div>
</template>

<style scoped lang="scss">
.both {
  display: grid;
  grid-template-columns: auto repeat(3, minmax(0, 1fr));
  gap: 0.6rem;
  align-items: start;
  margin: 0.5rem 0;
}
.paths :deep(svg) {
  height: 15rem;
}
@media (max-width: 900px) {
  .both {
    grid-template-columns: 1fr;
  }
}
figure {
  margin: 0;
  div {
    display: flex;
    gap: 2px;
  }
  img {
    width: 50%;
    aspect-ratio: 1;
    object-fit: cover;
    background: var(--stage);
  }
  figcaption {
    font-size: 0.78rem;
  }
}
</style>
