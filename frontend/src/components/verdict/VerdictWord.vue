<script setup lang="ts">
import { VERDICT_WORDS } from "../../composables/words";

defineProps<{ verdict: string }>();
</script>

<template>
  <span class="verdict" :class="verdict">{{ VERDICT_WORDS[verdict] ?? verdict }}</span>
</template>

<style scoped>
.verdict {
  font-weight: 650;
  white-space: nowrap;
}

.correct {
  color: var(--agree);
}

.error,
.refused,
.stopped {
  color: var(--stop);
}

.undecided {
  font-style: italic;
}

.waiting,
.held {
  color: var(--ink-3);
  font-weight: 400;
}
</style>
