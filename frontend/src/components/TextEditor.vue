<script setup lang="ts">
import {
  autocompletion, type CompletionContext, completionKeymap, completeFromList,
} from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap } from "@codemirror/commands";
import { EditorState } from "@codemirror/state";
import { drawSelection, EditorView, keymap, placeholder } from "@codemirror/view";
import { onBeforeUnmount, onMounted, useTemplateRef, watch } from "vue";

/** An editor for prose, in which names of tables and columns are completed. */
const props = defineProps<{ label: string; names: string[]; hint?: string }>();
const text = defineModel<string>({ required: true });

const place = useTemplateRef<HTMLElement>("place");
let view: EditorView | undefined;

/** Names, once two letters of a word are there: prose is more than names. */
function complete(context: CompletionContext) {
  const word = context.matchBefore(/\w{2,}/);
  if (!word && !context.explicit) return null;
  return completeFromList(props.names)(context);
}

onMounted(() => {
  view = new EditorView({
    parent: place.value ?? undefined,
    state: EditorState.create({
      doc: text.value,
      extensions: [
        history(),
        drawSelection(),
        autocompletion({ icons: false, override: [complete] }),
        EditorView.lineWrapping,
        EditorView.contentAttributes.of({ "aria-label": props.label, spellcheck: "true", tabindex: "0" }),
        placeholder(props.hint ?? ""),
        EditorView.updateListener.of((change) => {
          if (change.docChanged) text.value = change.state.doc.toString();
        }),
        keymap.of([...completionKeymap, ...historyKeymap, ...defaultKeymap]),
      ],
    }),
  });
});
onBeforeUnmount(() => view?.destroy());

watch(text, (next) => {
  if (view && view.state.doc.toString() !== next) {
    view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: next } });
  }
});
</script>

<template>
  <div ref="place" class="prose-editor" />
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

.prose-editor :deep(.cm-focused) {
  box-shadow: inset 0 0 0 2px var(--focus);
}

.prose-editor :deep(.cm-content) {
  font: var(--size-1) / 1.5 var(--ui);
  color: var(--ink);
  caret-color: var(--ink);
}

.prose-editor :deep(.cm-placeholder) {
  color: var(--ink-3);
}

.prose-editor :deep(.cm-cursor) {
  border-left-color: var(--ink);
}

.prose-editor :deep(.cm-selectionBackground),
.prose-editor :deep(.cm-focused .cm-selectionBackground) {
  background: var(--given-wash) !important;
}

.prose-editor :deep(.cm-tooltip) {
  border: 1px solid var(--line);
  background: var(--sheet);
  color: var(--ink);
}

.prose-editor :deep(.cm-tooltip-autocomplete > ul > li[aria-selected]) {
  background: var(--given);
  color: var(--on-given);
}
</style>
