<script setup lang="ts">
import { computed } from "vue";

import type { Schemas } from "../../api/client";
import ProseText from "../../components/ProseText.vue";
import { counted, VERDICT_WORDS } from "../../composables/words";
import { rulesInWords } from "./rules-in-words";

/** What is asked, and what counts when answers are compared. */
const props = defineProps<{ exercise: Schemas["Exercise"] }>();

const rules = computed(() => rulesInWords(props.exercise));
const failing = computed(() => props.exercise.trials.filter((trial) => !trial.holds).length);
const heldBack = computed(() => props.exercise.datasets.slice(1));

function got(trial: Schemas["Trial"]): string {
  const actual = VERDICT_WORDS[trial.actual] ?? trial.actual;
  const expected = VERDICT_WORDS[trial.expected] ?? trial.expected;
  return trial.holds ? `${actual}, as expected` : `${actual}, should be ${expected}`;
}
</script>

<template>
  <section class="ask">
    <h1>{{ exercise.title }}</h1>
    <p class="quiet under">
      {{ counted(exercise.points, "point") }} · sample {{ exercise.sample }} · SQLite
      {{ exercise.engine_version }}
    </p>
    <ProseText :text="exercise.prompt" />
    <h3>What counts</h3>
    <dl>
      <template v-for="rule in rules" :key="rule.name">
        <dt>{{ rule.name }}</dt>
        <dd>{{ rule.says }}</dd>
      </template>
      <dt>Graded on</dt>
      <dd>the open data{{ heldBack.length ? ` and ${counted(heldBack.length, "held-back dataset")}` : "" }}</dd>
    </dl>
    <h3>
      Trials
      <small v-if="exercise.trials.length">{{ exercise.trials.length - failing }} hold{{
        failing ? `, ${failing} not` : "" }}</small>
    </h3>
    <ul>
      <li v-for="trial in exercise.trials" :key="trial.name">
        <span>{{ trial.name }}</span>
        <span class="got" :class="{ fails: !trial.holds }">{{ got(trial) }}</span>
      </li>
    </ul>
    <p v-if="!exercise.trials.length" class="quiet">No trial answers yet.</p>
  </section>
</template>

<style scoped>
.under {
  margin: 2px 0 8px;
}

h3 {
  margin: 14px 0 4px;
}

dl {
  display: grid;
  grid-template-columns: 104px 1fr;
  row-gap: 5px;
}

dt {
  color: var(--ink-3);
}

li {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 0 8px;
  padding: 3px 0;
  border-top: 1px solid var(--line-soft);
}

.got {
  margin-left: auto;
  color: var(--agree);
  font-size: var(--size-0);
}

.fails {
  color: var(--stop);
  font-weight: 700;
}
</style>
