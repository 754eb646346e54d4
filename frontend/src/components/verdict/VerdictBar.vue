<script setup lang="ts">
import { computed } from "vue";

import type { Schemas } from "../../api/client";
import { VERDICT_WORDS } from "../../composables/words";

const props = defineProps<{ counts: Schemas["VerdictCounts"] }>();

/** Broken answers share one part of the bar: what the engine said no to, refused or stopped. */
const parts = computed(() => {
  const { correct, incorrect, error, refused, stopped, undecided, waiting } = props.counts;
  return [
    { name: "correct", count: correct, says: VERDICT_WORDS.correct },
    { name: "incorrect", count: incorrect, says: VERDICT_WORDS.incorrect },
    { name: "broken", count: error + refused + stopped, says: brokenWords(error, refused, stopped) },
    { name: "undecided", count: undecided, says: VERDICT_WORDS.undecided },
    { name: "waiting", count: waiting, says: VERDICT_WORDS.waiting },
  ].filter((part) => part.count);
});

function brokenWords(error: number, refused: number, stopped: number): string {
  const named = [
    error && `${error} in error`,
    refused && `${refused} refused`,
    stopped && `${stopped} stopped`,
  ].filter(Boolean);
  return refused || stopped ? `do not run (${named.join(", ")})` : "in error";
}
</script>

<template>
  <div class="counts">
    <div v-if="counts.total" class="parts" aria-hidden="true">
      <i v-for="part in parts" :key="part.name" :class="part.name"
        :style="{ flexGrow: part.count }" />
    </div>
    <p v-if="counts.total">
      <span v-for="part in parts" :key="part.name" :class="part.name">
        <b>{{ part.count }}</b> {{ part.says }}
      </span>
    </p>
    <p v-else class="quiet">no answers yet</p>
  </div>
</template>

<style scoped>
.parts {
  display: flex;
  gap: 2px;
  height: 7px;
  margin-bottom: 4px;
  background: var(--line-soft);
}

.parts i {
  min-width: 4px;
}

.parts .correct {
  background: var(--agree);
}

.parts .incorrect {
  background: repeating-linear-gradient(135deg, var(--ink-2) 0 3px, var(--line) 3px 6px);
}

.parts .undecided {
  border: 1px dashed var(--ink-2);
}

.parts .broken {
  background: var(--stop);
}

p {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
}

p .correct b {
  color: var(--agree);
}

p .broken b {
  color: var(--stop);
}
</style>
