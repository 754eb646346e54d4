<script setup lang="ts">
import { type CompletionContext, completeFromList } from "@codemirror/autocomplete";
import { placeholder } from "@codemirror/view";
import { useTemplateRef } from "vue";

import { useCodeEditor } from "../../editor/use-code-editor";

/** An editor for prose, in which names of tables and columns are completed. */
const props = defineProps<{ label: string; names: string[]; hint?: string }>();
const text = defineModel<string>({ required: true });

const place = useTemplateRef<HTMLElement>("place");

/** Names, once two letters of a word are there: prose is more than names. */
function complete(context: CompletionContext) {
  const word = context.matchBefore(/\w{2,}/);
  if (!word && !context.explicit) return null;
  return completeFromList(props.names)(context);
}

useCodeEditor(place, text, {
  label: props.label,
  completions: complete,
  attributes: { spellcheck: "true" },
  extensions: [placeholder(props.hint ?? "")],
});
</script>

<template>
  <div ref="place" class="prose-editor code-editor" />
</template>

<style scoped>
.prose-editor {
  border: 1px solid var(--line);
  border-radius: var(--radius);
  background: var(--sheet);
}

.prose-editor :deep(.cm-editor) {
  min-height: 110px;
  outline: none;
}

.prose-editor :deep(.cm-content) {
  font: var(--size-1) / 1.5 var(--ui);
  color: var(--ink);
  caret-color: var(--ink);
}

.prose-editor :deep(.cm-placeholder) {
  color: var(--ink-3);
}
</style>
