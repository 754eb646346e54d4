<script setup lang="ts">
import { computed } from "vue";

import type { Schemas } from "../../api/client";
import ProseText from "../../components/ProseText.vue";
import { counted } from "../../composables/words";
import { rulesInWords } from "./rules-in-words";
import TrialList from "./TrialList.vue";

/** What is asked, and what counts when answers are compared. */
const props = defineProps<{ exercise: Schemas["Exercise"] }>();

const rules = computed(() => rulesInWords(props.exercise));
const heldBack = computed(() => props.exercise.datasets.slice(1));
</script>

<template>
  <section class="ask" tabindex="0" aria-label="What is asked">
    <h1>{{ exercise.title }}</h1>
    <p class="quiet under">
      {{ counted(exercise.points, "point") }} · sample {{ exercise.sample }} · SQLite
      {{ exercise.engine_version }}
    </p>
    <ProseText :text="exercise.prompt" />
    <h2>What counts</h2>
    <dl>
      <template v-for="rule in rules" :key="rule.name">
        <dt>{{ rule.name }}</dt>
        <dd>{{ rule.says }}</dd>
      </template>
      <dt>Graded on</dt>
      <dd>the open data{{ heldBack.length ? ` and ${counted(heldBack.length, "held-back dataset")}` : "" }}</dd>
    </dl>
    <TrialList :slug="exercise.slug" />
  </section>
</template>

<style scoped>
.under {
  margin: 2px 0 8px;
}

h2 {
  margin: 14px 0 4px;
  font-size: var(--size-1);
}

dl {
  display: grid;
  grid-template-columns: 104px 1fr;
  row-gap: 5px;
}

dt {
  color: var(--ink-3);
}
</style>
