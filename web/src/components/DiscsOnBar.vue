<script setup lang="ts">
import { computed } from 'vue'
import { load } from '@/format/quantity'

/** One end of the bar as it is to be loaded, heaviest disc innermost. Heights follow weight; the figure on each disc is what counts. */
const props = defineProps<{ perSide: number[]; unit: string }>()
const discs = computed(() =>
  props.perSide.map((weight) => ({
    weight,
    height: 24 + 40 * Math.min(Math.sqrt(weight / (props.unit === 'lb' ? 55 : 25)), 1),
    width: weight >= (props.unit === 'lb' ? 22 : 10) ? 26 : 20,
  })),
)
const text = computed(() =>
  props.perSide.length
    ? `Each side: ${props.perSide.map((w) => load(w, props.unit)).join(' + ')}`
    : 'The bar alone, no discs',
)
</script>

<template>
  <figure>
    <div class="end" aria-hidden="true">
      <i class="shaft" /><i class="collar" />
      <b
        v-for="(disc, index) in discs"
        :key="index"
        :style="{ height: `${disc.height}px`, width: `${disc.width}px` }"
        >{{ disc.weight }}</b
      >
      <i class="sleeve" />
    </div>
    <figcaption>{{ text }}</figcaption>
  </figure>
</template>

<style scoped lang="scss">
figure {
  margin: 0.2rem 0 0;
}
.end {
  display: flex;
  align-items: center;
  gap: 2px;
  height: 66px;
}
.shaft,
.sleeve {
  background: var(--quiet);
  width: 34px;
  height: 6px;
}
.sleeve {
  height: 9px;
}
.collar {
  width: 6px;
  height: 18px;
  background: var(--quiet);
}
b {
  display: flex;
  align-items: center;
  justify-content: center;
  font-size: 0.7rem;
  font-weight: 640;
  color: var(--panel);
  background: var(--bs-body-color);
  border-radius: 2px;
}
figcaption {
  font-weight: 560;
}
</style>
