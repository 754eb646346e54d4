<script setup lang="ts">
import { computed, ref } from "vue";
import { useEventListener } from "@vueuse/core";

import { isTyping, useKeyStore } from "../composables/use-keys";

const keys = useKeyStore();
const open = ref(false);
const shown = computed(() => keys.actions.filter((action) => !action.rare));

useEventListener(document, "keydown", (event: KeyboardEvent) => {
  if (event.key === "?" && !isTyping(event.target)) open.value = true;
});
</script>

<template>
  <footer class="keys">
    <span v-for="action in shown" :key="action.cap">
      <kbd>{{ action.cap }}</kbd> {{ action.says }}
    </span>
    <button type="button" @click="open = true"><kbd>?</kbd> all keys</button>
    <ElDialog v-model="open" title="Keys" width="420">
      <dl class="all">
        <template v-for="action in keys.actions" :key="action.cap">
          <dt><kbd>{{ action.cap }}</kbd></dt>
          <dd>{{ action.says }}</dd>
        </template>
        <dt><kbd>Tab</kbd></dt>
        <dd>to the next link or control</dd>
        <dt><kbd>Esc</kbd></dt>
        <dd>close this list</dd>
      </dl>
    </ElDialog>
  </footer>
</template>

<style scoped>
.keys {
  display: flex;
  flex: none;
  align-items: center;
  gap: 18px;
  min-height: 30px;
  padding: 0 var(--edge);
  border-top: 1px solid var(--line);
  color: var(--ink-2);
  white-space: nowrap;
  overflow: hidden;
}

button {
  border: 0;
  padding: 0;
  background: none;
  color: inherit;
  font: inherit;
  cursor: pointer;
}

.all {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 8px 16px;
}
</style>
