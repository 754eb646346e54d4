<script setup lang="ts">
import { usePageName } from "../../composables/use-page-title";

/** A page of somebody who comes in: what is asked of them, and beside it what it is about. */
const props = defineProps<{ title: string }>();
usePageName(() => props.title);
</script>

<template>
  <main class="task entry">
    <section>
      <h1>{{ title }}</h1>
      <slot />
    </section>
    <aside class="sheet">
      <svg viewBox="0 0 300 190" aria-hidden="true">
        <path class="due" d="M24 0 V40 C24 62 44 62 44 84 C44 106 24 106 24 128 V190" />
        <path class="given" d="M44 0 V40 C44 62 24 62 24 84 C24 106 44 106 44 128 V190" />
        <circle class="due" cx="24" cy="20" r="4" />
        <circle class="given" cx="44" cy="20" r="4" />
        <circle class="knot" cx="34" cy="62" r="5" />
        <circle class="knot" cx="34" cy="106" r="5" />
        <text x="70" y="25">what is due, and what is given</text>
        <text x="70" y="67">a table, a question, a query</text>
        <text x="70" y="111">held against each other, row by row</text>
      </svg>
      <slot name="beside" />
    </aside>
  </main>
</template>

<style scoped>
.entry {
  grid-template-columns: minmax(360px, 2fr) 3fr;
}

section {
  padding: 40px 56px;
}

aside {
  padding: 40px 56px;
}

h1 {
  margin-bottom: 16px;
  font-size: var(--size-4);
}

svg {
  width: 300px;
}

path {
  fill: none;
  stroke-width: 2.5;
}

.due {
  stroke: var(--due);
}

.given {
  stroke: var(--given);
}

circle.due {
  fill: var(--due);
}

circle.given {
  fill: var(--given);
}

.knot {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 2;
}

text {
  fill: var(--ink-2);
  font: 13px var(--ui);
}
</style>
