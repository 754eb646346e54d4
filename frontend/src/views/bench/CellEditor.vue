<script setup lang="ts">
import { onMounted, ref, useTemplateRef } from "vue";

/** Where a cell's text is typed. Enter takes it, Esc leaves it, Ctrl Backspace makes it NULL. */
const props = defineProps<{ label: string; start: string; problem: string }>();
const emit = defineEmits<{ take: [text: string | null, onward: boolean]; leave: [] }>();

const text = ref(props.start);
const input = useTemplateRef<HTMLInputElement>("input");

onMounted(() => input.value?.select());

function onKey(event: KeyboardEvent): void {
  if (event.key === "Enter" || event.key === "Tab") {
    event.preventDefault();
    emit("take", text.value, event.key === "Tab");
  } else if (event.key === "Escape") {
    event.preventDefault();
    emit("leave");
  } else if (event.key === "Backspace" && event.ctrlKey) {
    event.preventDefault();
    emit("take", null, false);
  }
  event.stopPropagation();
}
</script>

<template>
  <span class="cell-editor">
    <!-- eslint-disable-next-line vue/no-restricted-html-elements -- a cell of a grid that is ours -->
    <input ref="input" v-model="text" :aria-label="label" :aria-invalid="Boolean(problem)"
      autocomplete="off" spellcheck="false" @keydown="onKey">
    <ElButton class="bare" tabindex="-1" data-hint="Ctrl Backspace" @click="emit('take', null, false)">
      NULL
    </ElButton>
  </span>
</template>

<style scoped>
.cell-editor {
  display: flex;
  gap: 2px;
  margin: 0 -9px;
}

input {
  flex: 1;
  min-width: 70px;
  width: 100%;
  padding: 2px 8px;
  border: 0;
  outline: 2px solid var(--focus);
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  text-align: inherit;
}

input[aria-invalid="true"] {
  outline-color: var(--stop);
}

button {
  padding: 0 4px;
  border: 1px solid var(--line);
  border-radius: var(--radius);
  background: var(--paper);
  color: var(--ink-2);
  font: 600 9.5px var(--ui);
  cursor: pointer;
}
</style>
