<script setup lang="ts">
import { computed, ref } from 'vue'
import { title } from '@/format/quantity'

/** Where it hurts, in two taps: the place, then how much. From 4 of 10 on it says to stop. */
const emit = defineEmits<{ report: [row: { kind: 'pain' | 'bruise'; site: string; degree: number }] }>()
const kind = ref<'pain' | 'bruise'>('pain')
const site = ref('')

/** Places on a figure seen from the front (left) and from behind (right), in a box of 100 by 120. */
const PLACES: Record<string, [number, number][]> = {
  head: [[25, 9]],
  neck: [[75, 19]],
  shoulder: [
    [15, 27],
    [35, 27],
  ],
  chest: [[25, 33]],
  elbow: [
    [10, 45],
    [40, 45],
  ],
  wrist: [
    [7, 55],
    [43, 55],
  ],
  hand: [
    [4, 66],
    [46, 66],
  ],
  'upper back': [[75, 32]],
  'low back': [[75, 48]],
  hip: [
    [16, 58],
    [34, 58],
  ],
  'pubic bone': [[25, 62]],
  thigh: [
    [19, 74],
    [31, 74],
  ],
  knee: [
    [20, 89],
    [30, 89],
  ],
  shin: [
    [20, 101],
    [30, 101],
  ],
  ankle: [
    [70, 109],
    [80, 109],
  ],
  foot: [
    [20, 115],
    [30, 115],
  ],
}
const spots = computed(() =>
  Object.entries(PLACES).flatMap(([name, at]) => at.map(([x, y], index) => ({ name, x, y, first: index === 0 }))),
)

function choose(degree: number) {
  emit('report', { kind: kind.value, site: site.value, degree })
  site.value = ''
}
</script>

<template>
  <div class="map">
    <div class="kinds" role="radiogroup" aria-label="What it is">
      <label v-for="one in ['pain', 'bruise'] as const" :key="one" :class="{ on: kind === one }">
        <input v-model="kind" type="radio" name="kind" :value="one" /> {{ title(one) }}
      </label>
    </div>
    <svg v-if="!site" viewBox="0 0 100 127" role="group" aria-label="Tap where">
      <g v-for="x in [25, 75]" :key="x" class="figure" :transform="`translate(${x - 25} 0)`">
        <circle cx="25" cy="9" r="7" />
        <path
          d="M22 17h6l1 5 8 3 4 20 3 18-3 1-4-16-3-12v20l1 20-1 20-1 16h-5l-1-16-2-22-2 22-1 16h-5l-1-16-1-20 1-20V36l-3 12-4 16-3-1 3-18 4-20 8-3z"
        />
        <text x="25" y="126">{{ x === 25 ? 'front' : 'back' }}</text>
      </g>
      <circle
        v-for="(spot, index) in spots"
        :key="index"
        class="spot"
        :cx="spot.x"
        :cy="spot.y"
        r="4.4"
        :tabindex="spot.first ? 0 : -1"
        role="button"
        :aria-label="title(spot.name)"
        :data-site="spot.name"
        @click="site = spot.name"
        @keydown.enter="site = spot.name"
        @keydown.space.prevent="site = spot.name"
      />
    </svg>
    <div v-else class="degrees">
      <p>
        <b>{{ title(site) }}</b>
        <button type="button" class="btn btn-sm btn-link" @click="site = ''">another place</button>
      </p>
      <p class="quiet">{{ kind === 'pain' ? 'How much, of 10?' : 'How sore to the touch, of 10?' }}</p>
      <div class="scale">
        <button
          v-for="degree in 10"
          :key="degree"
          type="button"
          :class="{ stop: kind === 'pain' && degree >= 4 }"
          :data-degree="degree"
          @click="choose(degree)"
        >
          {{ degree }}
        </button>
      </div>
      <p v-if="kind === 'pain'" class="quiet">
        From 4 on, sharp pain, numbness, or a joint that gives way: stop, and see a licensed clinician.
      </p>
      <p v-else class="quiet">A bruise where the bar meets hip or thigh rests from contact until it has healed.</p>
    </div>
  </div>
</template>

<style scoped lang="scss">
.kinds {
  display: flex;
  gap: 0.5rem;
  label {
    flex: 1;
    min-height: 44px;
    display: flex;
    align-items: center;
    justify-content: center;
    gap: 0.4rem;
    border: 1px solid var(--rule);
    border-radius: 3px;
    &.on {
      border-color: currentColor;
      font-weight: 640;
    }
  }
}
svg {
  width: 100%;
  max-height: 26rem;
  margin-top: 0.6rem;
}
.figure {
  fill: var(--sunk);
  stroke: var(--rule);
  stroke-width: 0.5;
  text {
    font-size: 4px;
    text-anchor: middle;
    fill: var(--quiet);
    stroke: none;
  }
}
.spot {
  fill: var(--panel);
  stroke: var(--quiet);
  stroke-width: 0.8;
  cursor: pointer;
  &:hover,
  &:focus-visible {
    fill: var(--look);
  }
}
.degrees p {
  margin: 0.5rem 0 0.3rem;
}
.scale {
  display: grid;
  grid-template-columns: repeat(5, 1fr);
  gap: 0.4rem;
  button {
    min-height: 48px;
    border: 1px solid var(--rule);
    border-radius: 3px;
    background: var(--panel);
    color: inherit;
    font-weight: 640;
    &.stop {
      border: 2px solid var(--look);
    }
  }
}
</style>
