<script setup lang="ts">
import { useGrading } from "../../composables/use-grading";
import { counted } from "../../composables/words";

/** How far grading is, where anything waits; it can be stopped and gone on with. */
const { state, ready, turn } = useGrading();
</script>

<template>
  <span v-if="state && ready > 0" class="grading" role="status">
    <ElProgress :percentage="Math.round((100 * state.done) / Math.max(state.total, 1))" :show-text="false" aria-label="graded" />
    <span class="words"><template v-if="state.stopped">grading is stopped by the administrator, {{ counted(ready, "answer") }} wait{{
      ready === 1 ? "s" : "" }}</template>
      <template v-else-if="state.paused">grading is stopped, {{ counted(ready, "answer") }} wait{{
        ready === 1 ? "s" : "" }}</template>
      <template v-else>grading {{ state.done.toLocaleString("en") }} of {{
        state.total.toLocaleString("en") }}</template></span>
    <ElButton v-if="!state.stopped" class="bare" @click="turn()">{{ state.paused ? "continue" : "pause" }}</ElButton>
  </span>
  <span v-else-if="state && state.blocked > 0" class="grading" role="status">
    <span class="words">{{ counted(state.blocked, "answer") }} cannot be graded: {{ state.exercise
      ? `look at ${state.exercise}` : "look at the exercises" }}</span>
  </span>
</template>

<style scoped>
.grading {
  display: flex;
  align-items: center;
  gap: 8px;
  min-width: 0;
  margin-left: auto;
  color: var(--bar-ink-2);
  white-space: nowrap;
}

.words {
  overflow: hidden;
  text-overflow: ellipsis;
}

.el-progress {
  flex: none;
  --el-border-color-lighter: var(--bar-line);
  width: 90px;
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
