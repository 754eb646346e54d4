<script setup lang="ts">
import { sql } from "@codemirror/lang-sql";
import { syntaxHighlighting } from "@codemirror/language";
import { unifiedMergeView } from "@codemirror/merge";
import { EditorState } from "@codemirror/state";
import { EditorView } from "@codemirror/view";
import { classHighlighter } from "@lezer/highlight";
import { onBeforeUnmount, onMounted, useTemplateRef, watch } from "vue";

import { dialectOf, useEngine } from "../../editor/dialects";
import { linesOf } from "./text-lines";

/** Two texts in one: the lines of both in the hues of their sides, and in them the words that changed. */
const props = defineProps<{
  label: string;
  first: string;
  second: string;
  /** What the sides are called, at each line of theirs. */
  before: string;
  after: string;
  isSql?: boolean;
}>();

const place = useTemplateRef<HTMLElement>("place");
const engine = useEngine();
let view: EditorView | undefined;

/** Lines of context around what differs, and how many alike are worth folding. */
const FOLDED = { margin: 2, minSize: 4 };
/** Milliseconds after which two texts are told apart by whole lines. */
const PATIENCE = 200;

function draw(): void {
  view?.destroy();
  view = new EditorView({
    parent: place.value ?? undefined,
    state: EditorState.create({
      doc: linesOf(props.second),
      extensions: [
        EditorState.readOnly.of(true),
        EditorView.editable.of(false),
        EditorView.lineWrapping,
        EditorView.contentAttributes.of({ "aria-label": props.label, "aria-readonly": "true", tabindex: "0" }),
        ...(props.isSql ? [sql({ dialect: dialectOf(engine.value) })] : []),
        syntaxHighlighting(classHighlighter),
        EditorState.phrases.of({ "$ unchanged lines": "more lines, alike" }),
        unifiedMergeView({
          original: linesOf(props.first),
          mergeControls: false,
          gutter: false,
          collapseUnchanged: FOLDED,
          diffConfig: { timeout: PATIENCE },
        }),
      ],
    }),
  });
}

onMounted(draw);
watch(() => [props.first, props.second, props.label, engine.value], draw, { flush: "post" });
onBeforeUnmount(() => view?.destroy());
</script>

<template>
  <div ref="place" class="merge code-editor" :style="{ '--before': JSON.stringify(before), '--after': JSON.stringify(after) }" />
</template>

<style scoped>
.merge {
  border: 1px solid var(--line);
  background: var(--paper);
}

.merge :deep(.cm-editor) {
  background: none;
}

.merge :deep(.cm-content) {
  padding: 0;
}

.merge :deep(.cm-line),
.merge :deep(.cm-deletedLine) {
  display: block;
  position: relative;
  padding: 0 8px 0 68px;
  border-left: 3px solid transparent;
}

/* Each line has its end, so that lines at the end are told as lines: the empty one behind it is none. */
.merge :deep(.cm-line:last-child) {
  height: 0;
  overflow: hidden;
}

/* Whose line it is stands at the line: no hue says it alone. */
.merge :deep(.cm-deletedLine)::before,
.merge :deep(.cm-changedLine)::before {
  position: absolute;
  left: 8px;
  width: 54px;
  overflow: hidden;
  font-family: var(--ui);
  font-size: var(--size-0);
  font-weight: 400;
  text-overflow: ellipsis;
}

.merge :deep(.cm-deletedLine)::before {
  content: var(--before);
  color: var(--due);
}

.merge :deep(.cm-changedLine)::before {
  content: var(--after);
  color: var(--given);
}

.merge :deep(.cm-deletedChunk) {
  padding: 0;
  background: none;
}

.merge :deep(.cm-deletedLine) {
  border-left-color: var(--due);
  background: var(--due-wash);
}

.merge :deep(.cm-deletedLine del) {
  text-decoration: none;
}

.merge :deep(.cm-changedLine) {
  border-left-color: var(--given);
  background: var(--given-wash);
}

/* The words that changed, as a value that differs is marked: due with a double line, given with one. */
.merge :deep(.cm-deletedText) {
  border-bottom: 3px double var(--due);
  background: none;
}

.merge :deep(.cm-changedText) {
  border-bottom: 2px solid var(--given);
  background: none;
}

.merge :deep(.cm-collapsedLines) {
  padding: 1px 8px 1px 71px;
  background: none;
  color: var(--ink-3);
  font-family: var(--ui);
  font-size: var(--size-0);
  text-decoration: underline;
}

.merge :deep(.cm-collapsedLines)::before,
.merge :deep(.cm-collapsedLines)::after {
  content: none;
}
</style>
