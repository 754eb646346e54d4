<script setup lang="ts">
import { closeBrackets, closeBracketsKeymap, closeCompletion } from "@codemirror/autocomplete";
import { sql } from "@codemirror/lang-sql";
import { syntaxHighlighting } from "@codemirror/language";
import { Compartment, EditorState, StateEffect, StateField } from "@codemirror/state";
import { Decoration, EditorView, lineNumbers } from "@codemirror/view";
import { classHighlighter } from "@lezer/highlight";
import { computed, useTemplateRef, watch } from "vue";

import { completionsAt } from "../../editor/completion";
import { dialectOf, quoteOf, useEngine } from "../../editor/dialects";
import { type Piece, pieceOf, statementAt, statementsIn } from "../../editor/statements";
import { useCodeEditor } from "../../editor/use-code-editor";
import type { SqlMark } from "./SqlText.vue";

/** An editor for queries: what is in scope is completed, Ctrl Enter runs what is selected, or the whole. */
const props = defineProps<{
  label: string;
  tables: Record<string, string[]>;
  functions?: string[];
  mark?: SqlMark | null;
  /** In whose dialect it is written; that of the view where it does not say. */
  engine?: string;
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
const around = useEngine();
const dialect = computed(() => dialectOf(props.engine ?? around.value));
const language = new Compartment();

function markIn(state: EditorState, mark: SqlMark | null) {
  if (!mark || mark.line > state.doc.lines) return Decoration.none;
  const line = state.doc.line(mark.line);
  const from = Math.min(line.from + mark.column - 1, state.doc.length);
  const to = Math.min(Math.max(from + mark.length, from + 1), state.doc.length);
  if (to <= from) return Decoration.none;
  return Decoration.set([Decoration.mark({ class: "wrong-here" }).range(from, to)]);
}

/** What is run: the selection; of several statements the one at the cursor, or all; else the whole text. */
function piece(all = false): Piece {
  const whole = view.value?.state.doc.toString() ?? text.value;
  const chosen = view.value?.state.selection.main;
  if (chosen && !chosen.empty && whole.slice(chosen.from, chosen.to).trim()) {
    return pieceOf(whole, chosen.from, chosen.to);
  }
  const at = !all && statementsIn(whole).length > 1 ? statementAt(whole, chosen?.head ?? 0) : undefined;
  return at ? pieceOf(whole, at.from, at.to) : pieceOf(whole, 0, whole.length);
}

/** Puts a value where the cursor is, in place of what is selected. */
function insert(literal: string): void {
  const here = view.value;
  if (!here) return;
  const { from, to } = here.state.selection.main;
  const before = here.state.sliceDoc(Math.max(0, from - 1), from);
  const written = /[\w')]/.test(before) ? ` ${literal}` : literal;
  here.dispatch({ changes: { from, to, insert: written }, selection: { anchor: from + written.length } });
  here.focus();
}

const view = useCodeEditor(place, text, {
  label: props.label,
  completions: (context) => completionsAt(
    { tables: props.tables, functions: props.functions ?? [], quote: quoteOf(dialect.value) }, context,
  ),
  keys: [
    { key: "Mod-Enter", run: (here) => (closeCompletion(here), emit("run"), true) },
    ...closeBracketsKeymap,
    { key: "Escape", run: () => (emit("leave"), true) },
  ],
  extensions: [
    lineNumbers(),
    language.of(sql({ dialect: dialect.value })),
    closeBrackets(),
    syntaxHighlighting(classHighlighter),
    marks,
  ],
});

watch(dialect, (next) => view.value?.dispatch({ effects: language.reconfigure(sql({ dialect: next })) }));
watch(
  () => props.mark,
  (mark) => view.value?.dispatch({ effects: setMark.of(mark ?? null) }),
);

defineExpose({ focus: () => view.value?.focus(), piece, insert });
</script>

<template>
  <div ref="place" class="editor code-editor" />
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

.editor :deep(.cm-content),
.editor :deep(.cm-gutters) {
  font: 12.5px / 1.6 var(--data);
  color: var(--ink);
  caret-color: var(--ink);
}

.editor :deep(.cm-gutters) {
  border: 0;
  background: none;
  color: var(--ink-3);
}

.editor :deep(.wrong-here) {
  border-bottom: 3px double var(--given);
  color: var(--given);
  font-weight: 700;
}

.editor :deep(.cm-tooltip-autocomplete > ul > li) {
  font: 12.5px var(--data);
}
</style>
