<script setup lang="ts">
import { computed } from "vue";

import type { Schemas } from "../../api/client";
import { useTrials } from "../../api/queries";
import { VERDICT_WORDS } from "../../composables/words";

/** The exercise's own tests: trial answers, and whether each gets the verdict that it ought to. */
const props = defineProps<{ slug: string }>();
const { data: trials, error } = useTrials(() => props.slug);

const failing = computed(() => trials.value?.filter((trial) => !trial.holds).length ?? 0);
const summary = computed(() => {
  if (!trials.value) return "";
  const holding = `${trials.value.length - failing.value} hold`;
  return failing.value ? `${holding}, ${failing.value} not` : holding;
});

function got(trial: Schemas["Trial"]): string {
  const actual = VERDICT_WORDS[trial.actual] ?? trial.actual;
  const expected = VERDICT_WORDS[trial.expected] ?? trial.expected;
  return trial.holds ? `${actual}, as expected` : `${actual}, should be ${expected}`;
}
</script>

<template>
  <h2>Trials <small>{{ summary }}</small></h2>
  <p v-if="error" class="quiet" role="alert">{{ error.message }}</p>
  <p v-else-if="!trials" class="quiet">Running them …</p>
  <p v-else-if="!trials.length" class="quiet">No trial answers yet.</p>
  <ul v-else>
    <li v-for="trial in trials" :key="trial.name">
      <span>{{ trial.name }}</span>
      <span class="got" :class="{ fails: !trial.holds }">{{ got(trial) }}</span>
    </li>
  </ul>
</template>

<style scoped>
h2 {
  margin: 14px 0 4px;
  font-size: var(--size-1);
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
