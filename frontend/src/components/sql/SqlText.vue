<script setup lang="ts">
import { classHighlighter, highlightCode } from "@lezer/highlight";
import { computed } from "vue";

import { dialectOf, useEngine } from "../../editor/dialects";

/** A place to point at, counted from 1; `length` characters long. */
export interface SqlMark {
  line: number;
  column: number;
  length: number;
}

const props = defineProps<{ sql: string; mark?: SqlMark | null; engine?: string }>();
const around = useEngine();

interface Piece {
  text: string;
  style: string;
  marked: boolean;
}

const lines = computed<Piece[][]>(() => {
  const found: Piece[][] = [[]];
  const text = props.sql.replace(/\s+$/, "");
  let column = 1;
  const put = (part: string, style: string) => {
    for (const piece of split(part, found.length, column)) {
      found[found.length - 1]?.push({ ...piece, style });
    }
    column += part.length;
  };
  highlightCode(text, dialectOf(props.engine ?? around.value).language.parser.parse(text), classHighlighter, put, () => {
    found.push([]);
    column = 1;
  });
  return found;
});

/** Cuts a piece of text at the ends of the mark. */
function split(text: string, line: number, column: number): Omit<Piece, "style">[] {
  const mark = props.mark;
  if (!mark || mark.line !== line) return [{ text, marked: false }];
  const start = Math.min(Math.max(mark.column - column, 0), text.length);
  const end = Math.min(Math.max(mark.column + mark.length - column, 0), text.length);
  return [
    { text: text.slice(0, start), marked: false },
    { text: text.slice(start, end), marked: true },
    { text: text.slice(end), marked: false },
  ].filter((piece) => piece.text);
}
/** A line that is too long goes on below, a little further in than it began. */
function hanging(pieces: Piece[]): Record<string, string> {
  const text = pieces.map((piece) => piece.text).join("");
  const indent = text.length - text.trimStart().length + 2;
  return { paddingLeft: `${indent}ch`, textIndent: `-${indent}ch` };
}
</script>

<template>
  <ol class="sql" tabindex="0" aria-label="SQL">
    <li v-for="(pieces, at) in lines" :key="at"><code :style="hanging(pieces)"><template v-for="(piece, i) in pieces"
          :key="i"><mark v-if="piece.marked" :class="piece.style">{{ piece.text }}</mark><span
            v-else :class="piece.style">{{ piece.text }}</span></template></code></li>
  </ol>
</template>

<style scoped>
.sql {
  padding: 8px 8px 8px 0;
  border: 1px solid var(--line);
  background: var(--paper);
  font: 12.5px / 1.6 var(--data);
  counter-reset: line;
  overflow: auto;
}

li {
  display: grid;
  grid-template-columns: 30px 1fr;
  counter-increment: line;
}

li::before {
  content: counter(line);
  padding-right: 10px;
  color: var(--ink-3);
  text-align: right;
}

code {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  font-size: 12.5px;
}

mark {
  border-bottom: 3px double var(--given);
  background: none;
  color: var(--given);
  font-weight: 700;
}
</style>
