<script setup lang="ts">
import { computed } from "vue";

/** A cell of a row in the making: nothing typed yet takes the column's default. */
const props = defineProps<{ label: string; otherwise: string; problem: string }>();
const text = defineModel<string | null | undefined>();
const emit = defineEmits<{ add: []; leave: [] }>();

const shown = computed(() => text.value ?? "");
const hint = computed(() => (text.value === null ? "NULL" : (text.value ?? props.otherwise)));

function onInput(event: Event): void {
  text.value = (event.target as HTMLInputElement).value;
}

function onKey(event: KeyboardEvent): void {
  if (event.key === "Enter") {
    event.preventDefault();
    emit("add");
  } else if (event.key === "Escape") {
    event.preventDefault();
    emit("leave");
  } else if (event.key === "Backspace" && event.ctrlKey) {
    event.preventDefault();
    text.value = null;
  } else if (event.key === "Backspace" && !text.value) {
    text.value = undefined;
  }
  event.stopPropagation();
}
</script>

<template>
  <!-- eslint-disable-next-line vue/no-restricted-html-elements -- a cell of a grid that is ours -->
  <input class="draft-cell" :class="{ null: text === null, empty: text === '' }" :value="shown"
    :placeholder="hint || (text === '' ? 'empty' : '')" :aria-label="label"
    :aria-invalid="Boolean(problem)" autocomplete="off" spellcheck="false" @input="onInput"
    @keydown="onKey">
</template>

<style scoped>
.draft-cell {
  width: 100%;
  min-width: 62px;
  padding: 2px 6px;
  border: 1px solid var(--line);
  border-radius: var(--radius);
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  text-align: inherit;
}

.draft-cell::placeholder {
  color: var(--ink-3);
  font: italic 11px var(--ui);
  opacity: 1;
}

.null::placeholder {
  font: 600 10px var(--ui);
  letter-spacing: 0.6px;
}

.empty {
  border-style: dotted;
}

.draft-cell[aria-invalid="true"] {
  border-color: var(--stop);
}
</style>
