<script setup lang="ts">
import { computed } from "vue";

import { useSheets } from "../../api/exercises";
import { useCourse, useLearners } from "../../api/people";
import { useExercises } from "../../api/queries";
import { useSamples } from "../../api/samples";

/** Leads through a course that has nothing yet: what is done, what comes next, what comes then. */
const { data: course } = useCourse();
const { data: samples } = useSamples();
const { data: exercises } = useExercises();
const { data: sheets } = useSheets();
const { data: learners } = useLearners();

const steps = computed(() => [
  {
    name: "samples", title: "Make a sample", done: Boolean(samples.value?.length), to: { name: "make" },
    button: "Make a sample",
    says: "The tables that queries are written over: from CSV files, a script, an SQLite file, text that you paste, or by hand.",
  },
  {
    name: "exercises", title: "Write an exercise", done: Boolean(exercises.value?.length),
    to: { name: "exercises", query: { new: "1" } }, button: "New exercise",
    says: "What is asked, and the query that answers it. Trials prove that wrong answers are told from right ones.",
  },
  {
    name: "sheets", title: "Put exercises on a sheet", done: Boolean(sheets.value?.some((one) => one.entries.length)),
    to: { name: "sheets" }, button: "New sheet",
    says: "When learners may see them and hand in, how often, and what a late answer earns.",
  },
  {
    name: "people", title: "Let learners in", done: Boolean(learners.value?.length), to: { name: "people" },
    button: "Import a roster", says: "From a file of names, or with a code that they join with.",
  },
  {
    name: "answers", title: "Look at answers", done: false, to: { name: "taking" }, button: "Import answers",
    says: "What is handed in is graded at once. Answers that you have in a file can be imported.",
  },
]);
const next = computed(() => steps.value.find((one) => !one.done)?.name);
</script>

<template>
  <ol v-if="course" class="lead" aria-label="What to do, in order">
    <li v-for="(step, place) in steps" :key="step.name" :class="{ next: step.name === next, done: step.done }">
      <b class="place">{{ step.done ? "✓" : place + 1 }}<span v-if="step.done" class="only-read-aloud">done</span></b>
      <div>
        <h2>{{ step.title }}</h2>
        <p>{{ step.says }}</p>
        <RouterLink v-if="!step.done" class="button" :class="{ main: step.name === next }" :to="step.to">{{ step.button }}</RouterLink>
        <RouterLink v-if="step.name === 'exercises' && !step.done" class="also" :to="{ name: 'pack' }">Import a pack</RouterLink>
      </div>
    </li>
  </ol>
</template>

<style scoped>
.lead {
  display: grid;
  gap: 4px;
  max-width: 640px;
}

li {
  display: grid;
  grid-template-columns: 34px 1fr;
  padding: 12px 14px;
  border-left: 3px solid var(--line);
}

.next {
  border-color: var(--given);
  background: var(--paper);
}

.done .place {
  color: var(--agree);
}

.place {
  font-size: var(--size-2);
}

p {
  margin: 2px 0 10px;
  color: var(--ink-2);
}

.done p {
  margin-bottom: 0;
}

.also {
  margin-left: 14px;
}
</style>
