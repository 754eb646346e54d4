<script setup lang="ts">
import { computed } from "vue";

import type { Schemas } from "../../api/client";
import { STEP_NAMES } from "../../steps/trace";

/** The steps as posts, and every row a thread between them; what is to come is pale. */
const props = defineProps<{ steps: Schemas["Step"][]; at: number; told: string[]; each: number }>();
const emit = defineEmits<{ choose: [at: number] }>();

const HEIGHT = 60;
function x(at: number): number {
  return (100 * (at + 0.5)) / props.steps.length;
}

/** Threads from each step to the next one: as many as there are rows after it, evenly spread. */
const threads = computed(() =>
  props.steps.map((one, at) => {
    const count = Math.ceil((one.rows ?? 0) / props.each);
    const gap = Math.min(7, (HEIGHT - 8) / Math.max(count, 1));
    const top = HEIGHT / 2 - ((count - 1) * gap) / 2;
    const from = x(at);
    const to = at + 1 < props.steps.length ? x(at + 1) : Math.min(100, from + 50 / props.steps.length);
    return { from, to, isPale: at >= props.at, width: Math.min(2.4, gap / 2), ys: Array.from({ length: count }, (_, nth) => top + nth * gap) };
  }),
);
</script>

<template>
  <nav class="path" aria-label="Steps">
    <svg :viewBox="`0 0 100 ${HEIGHT}`" preserveAspectRatio="none" aria-hidden="true">
      <g v-for="(one, nth) in threads" :key="nth" :class="{ pale: one.isPale }">
        <line v-for="y in one.ys" :key="y" :x1="one.from" :x2="one.to" :y1="y" :y2="y" vector-effect="non-scaling-stroke"
          :stroke-width="one.width" />
      </g>
      <rect v-for="(_, nth) in steps" :key="nth" :x="x(nth) - 0.4" y="4" width="0.8" :height="HEIGHT - 8" :class="{ here: nth === at }" />
    </svg>
    <ol>
      <li v-for="(step, nth) in steps" :key="nth" :class="{ here: nth === at, pale: nth > at }">
        <ElButton class="bare" :aria-current="nth === at ? 'step' : undefined" @click="emit('choose', nth)"><b>{{ STEP_NAMES[step.kind] ?? step.kind }}</b>
          <span>{{ told[nth] }}</span></ElButton>
      </li>
    </ol>
  </nav>
</template>

<style scoped>
.path {
  position: relative;
  padding: 4px 0 8px;
  border-bottom: 2px solid var(--line);
  background: var(--paper);
}

svg {
  display: block;
  width: 100%;
  height: 60px;
}

line {
  stroke: var(--thread);
}

.pale line {
  stroke: var(--line);
}

rect {
  fill: var(--ink);
}

rect.here {
  fill: var(--thread);
}

ol {
  display: flex;
}

li {
  flex: 1;
  text-align: center;
}

button {
  display: inline-grid;
  justify-items: center;
  padding: 2px 6px;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  cursor: pointer;
}

b {
  padding: 0 6px;
  font-family: var(--data);
}

.here b {
  background: var(--ink);
  color: var(--sheet);
}

.here span {
  font-weight: 700;
}

.pale button {
  color: var(--ink-3);
}
</style>
