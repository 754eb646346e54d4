<script setup lang="ts">
/** What a view shows while it waits, and when the server cannot answer. */
defineProps<{ waiting: boolean; problem: Error | null }>();
defineEmits<{ again: [] }>();
</script>

<template>
  <p v-if="problem" class="notice" role="alert">
    {{ problem.message }}
    <button type="button" @click="$emit('again')">Try again</button>
  </p>
  <p v-else-if="waiting" class="notice quiet" aria-live="polite">Fetching …</p>
</template>

<style scoped>
.notice {
  flex: 1;
  padding: 14px var(--edge);
}

button {
  margin-left: 8px;
  padding: 3px 9px;
  border: 1px solid var(--line);
  border-radius: var(--radius);
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  cursor: pointer;
}
</style>
