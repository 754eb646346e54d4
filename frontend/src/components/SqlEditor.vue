<script setup lang="ts">
import {
  acceptCompletion, autocompletion, closeBrackets, closeBracketsKeymap, closeCompletion, completionKeymap,
  completionStatus, moveCompletionSelection, selectedCompletionIndex,
} from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap } from "@codemirror/commands";
import { sql, SQLite } from "@codemirror/lang-sql";
import { syntaxHighlighting } from "@codemirror/language";
import { EditorState, StateEffect, StateField } from "@codemirror/state";
import { Decoration, drawSelection, EditorView, keymap, lineNumbers } from "@codemirror/view";
import { classHighlighter } from "@lezer/highlight";
import { onBeforeUnmount, onMounted, useTemplateRef, watch } from "vue";

import { completionsAt } from "../editor/completion";
import { type Piece, pieceOf, statementAt, statementsIn } from "../editor/statements";
import type { SqlMark } from "./SqlText.vue";

/** An editor for queries: what is in scope is completed, Ctrl Enter runs what is selected, or the whole. */
const props = defineProps<{
  label: string;
  tables: Record<string, string[]>;
  functions?: string[];
  mark?: SqlMark | null;
}>();
const text = defineModel<string>({ required: true });
const emit = defineEmits<{ run: []; leave: [] }>();

const place = useTemplateRef<HTMLElement>("place");
const setMark = StateEffect.define<SqlMark | null>();
const marks = StateField.define({
  create: () => Decoration.none,
  update(found, change) {
    let next = change.docChanged ? Decoration.none : found;
    for (const effect of change.effects) {
      if (effect.is(setMark)) next = markIn(change.state, effect.value);
    }
    return next;
  },
  provide: (field) => EditorView.decorations.from(field),
});
let view: EditorView | undefined;

function markIn(state: EditorState, mark: SqlMark | null) {
  if (!mark || mark.line > state.doc.lines) return Decoration.none;
  const line = state.doc.line(mark.line);
  const from = Math.min(line.from + mark.column - 1, state.doc.length);
  const to = Math.min(Math.max(from + mark.length, from + 1), state.doc.length);
  if (to <= from) return Decoration.none;
  return Decoration.set([Decoration.mark({ class: "wrong-here" }).range(from, to)]);
}

/** Takes the chosen completion, or the first one; without a list, Tab goes on to the next control. */
function takeFirst(here: EditorView): boolean {
  if (completionStatus(here.state) !== "active") return false;
  if ((selectedCompletionIndex(here.state) ?? -1) < 0) moveCompletionSelection(true)(here);
  return acceptCompletion(here);
}

/** What is run: the selection; of several statements the one at the cursor, or all; else the whole text. */
function piece(all = false): Piece {
  const whole = view?.state.doc.toString() ?? text.value;
  const chosen = view?.state.selection.main;
  if (chosen && !chosen.empty && whole.slice(chosen.from, chosen.to).trim()) {
    return pieceOf(whole, chosen.from, chosen.to);
  }
  const at = !all && statementsIn(whole).length > 1 ? statementAt(whole, chosen?.head ?? 0) : undefined;
  return at ? pieceOf(whole, at.from, at.to) : pieceOf(whole, 0, whole.length);
}

/** Puts a value where the cursor is, in place of what is selected. */
function insert(literal: string): void {
  if (!view) return;
  const { from, to } = view.state.selection.main;
  const before = view.state.sliceDoc(Math.max(0, from - 1), from);
  const text = /[\w')]/.test(before) ? ` ${literal}` : literal;
  view.dispatch({ changes: { from, to, insert: text }, selection: { anchor: from + text.length } });
  view.focus();
}

onMounted(() => {
  view = new EditorView({
    parent: place.value ?? undefined,
    state: EditorState.create({
      doc: text.value,
      extensions: [
        lineNumbers(),
        history(),
        drawSelection(),
        sql({ dialect: SQLite }),
        closeBrackets(),
        // Nothing is chosen in the list until one moves into it: Enter stays a new line.
        autocompletion({
          icons: false, selectOnOpen: false, interactionDelay: 0, defaultKeymap: false,
          override: [(context) => completionsAt({ tables: props.tables, functions: props.functions ?? [] }, context)],
        }),
        syntaxHighlighting(classHighlighter),
        marks,
        EditorView.lineWrapping,
        EditorView.contentAttributes.of({ "aria-label": props.label, tabindex: "0" }),
        EditorView.updateListener.of((change) => {
          if (change.docChanged) text.value = change.state.doc.toString();
        }),
        keymap.of([
          { key: "Mod-Enter", run: (here) => (closeCompletion(here), emit("run"), true) },
          ...completionKeymap,
          ...closeBracketsKeymap,
          { key: "Tab", run: takeFirst },
          { key: "Escape", run: () => (emit("leave"), true) },
          ...historyKeymap,
          ...defaultKeymap,
        ]),
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
watch(
  () => props.mark,
  (mark) => view?.dispatch({ effects: setMark.of(mark ?? null) }),
);

defineExpose({ focus: () => view?.focus(), piece, insert });
</script>

<template>
  <div ref="place" class="editor" />
</template>

<style scoped>
.editor {
  border: 1px solid var(--line);
  background: var(--paper);
  overflow: auto;
}

.editor :deep(.cm-editor) {
  height: 100%;
  background: none;
  outline: none;
}

.editor :deep(.cm-focused) {
  box-shadow: inset 0 0 0 2px var(--focus);
}

.editor :deep(.cm-content),
.editor :deep(.cm-gutters) {
  font: 12.5px / 1.6 var(--data);
  color: var(--ink);
  caret-color: var(--ink);
}

.editor :deep(.cm-cursor) {
  border-left-color: var(--ink);
}

.editor :deep(.cm-gutters) {
  border: 0;
  background: none;
  color: var(--ink-3);
}

.editor :deep(.cm-selectionBackground),
.editor :deep(.cm-focused .cm-selectionBackground) {
  background: var(--given-wash) !important;
}

.editor :deep(.tok-keyword) {
  font-weight: 700;
}

.editor :deep(.tok-comment) {
  color: var(--ink-3);
  font-style: italic;
}

.editor :deep(.wrong-here) {
  border-bottom: 3px double var(--given);
  color: var(--given);
  font-weight: 700;
}

.editor :deep(.cm-tooltip) {
  border: 1px solid var(--line);
  background: var(--sheet);
  color: var(--ink);
}

.editor :deep(.cm-tooltip-autocomplete > ul > li) {
  font: 12.5px var(--data);
}

.editor :deep(.cm-tooltip-autocomplete > ul > li[aria-selected]) {
  background: var(--given);
  color: var(--on-given);
}
</style>
