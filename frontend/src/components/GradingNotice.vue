<script setup lang="ts">
import { useGrading } from "../composables/use-grading";
import { counted } from "../composables/words";

/** How far grading is, where anything waits; it can be stopped and gone on with. */
const grading = useGrading();
grading.listen();
</script>

<template>
  <span v-if="grading.state && grading.ready > 0" class="grading" role="status">
    <progress :value="grading.state.done" :max="grading.state.total" aria-label="graded" />
    <template v-if="grading.state.paused">grading is stopped, {{ counted(grading.ready, "answer") }} wait{{
      grading.ready === 1 ? "s" : "" }}</template>
    <template v-else>grading {{ grading.state.done.toLocaleString("en") }} of {{
      grading.state.total.toLocaleString("en") }}</template>
    <button type="button" @click="grading.turn()">{{ grading.state.paused ? "go on" : "stop" }}</button>
  </span>
  <span v-else-if="grading.state && grading.state.blocked > 0" class="grading" role="status">
    {{ counted(grading.state.blocked, "answer") }} cannot be graded: {{ grading.state.exercise }} does not work
  </span>
</template>

<style scoped>
.grading {
  display: flex;
  align-items: center;
  gap: 8px;
  margin-left: auto;
  color: var(--bar-ink-2);
  white-space: nowrap;
}

progress {
  appearance: none;
  width: 90px;
  height: 7px;
  border: 0;
  background: var(--bar-line);
}

progress::-webkit-progress-bar {
  background: var(--bar-line);
}

progress::-webkit-progress-value {
  background: var(--given-on-bar);
}

progress::-moz-progress-bar {
  background: var(--given-on-bar);
}

button {
  border: 0;
  padding: 0;
  background: none;
  color: var(--bar-ink);
  font: inherit;
  text-decoration: underline;
  cursor: pointer;
}
</style>
