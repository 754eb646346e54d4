<script setup lang="ts">
import { computed, inject, ref, useTemplateRef } from "vue";

import type { Schemas } from "../api/client";
import { INSERT_VALUE, literalOf } from "../editor/literals";
import { type Cell, isNumeric, placesOf } from "./cells";
import DataCell from "./DataCell.vue";

/**
 * Rows under their columns.
 *
 * Beside an editor, a click on a cell or Enter puts its value into the text; the arrow keys move.
 */
const props = defineProps<{ result: Schemas["Result"]; label: string }>();

const insert = inject(INSERT_VALUE, undefined);
const body = useTemplateRef<HTMLElement>("body");
const active = ref({ row: 0, column: 0 });
const hasFocus = ref(false);
const lastRow = computed(() => props.result.rows.length - 1);

function take(row: number, column: number): void {
  active.value = { row, column };
  const literal = literalOf((props.result.rows[row]?.[column] ?? null) as Cell);
  if (literal !== undefined) insert?.(literal);
}

function move(event: KeyboardEvent): void {
  if (!insert || event.ctrlKey || event.metaKey || event.altKey) return;
  const { row, column } = active.value;
  const steps: Record<string, [number, number]> = {
    ArrowDown: [1, 0], ArrowUp: [-1, 0], ArrowRight: [0, 1], ArrowLeft: [0, -1],
  };
  const step = steps[event.key];
  if (event.key === "Enter") take(row, column);
  else if (step) {
    const next = (at: number, last: number) => Math.min(Math.max(at, 0), last);
    active.value = {
      row: next(row + step[0], lastRow.value),
      column: next(column + step[1], props.result.columns.length - 1),
    };
    body.value?.querySelectorAll("tr")[active.value.row]?.scrollIntoView({ block: "nearest" });
  } else return;
  event.preventDefault();
  event.stopPropagation();
}
</script>

<template>
  <table class="rows">
    <caption class="only-read-aloud">{{ label }}</caption>
    <thead>
      <tr>
        <th v-for="(column, at) in result.columns" :key="at" scope="col"
          :class="{ number: isNumeric(column.kind) }">
          {{ column.name }}<small>{{ column.declared || column.kind }}</small>
        </th>
      </tr>
    </thead>
    <tbody ref="body" :tabindex="insert && result.rows.length ? 0 : undefined" :aria-label="insert ? `${label}: Enter puts a value into the text` : undefined"
      :class="{ gives: insert }" @keydown="move" @focus="hasFocus = true" @blur="hasFocus = false">
      <tr v-for="(row, at) in result.rows" :key="at">
        <td v-for="(cell, column) in row" :key="column"
          :class="{
            number: isNumeric(result.columns[column]?.kind ?? ''),
            active: hasFocus && active.row === at && active.column === column,
          }" @mousedown="insert && $event.preventDefault()" @click="insert && take(at, column)">
          <DataCell :value="cell" :places="placesOf(result.columns[column]?.declared ?? '')" />
        </td>
      </tr>
    </tbody>
  </table>
  <p v-if="!result.rows.length" class="quiet none">No rows.</p>
  <p v-if="result.row_count > result.rows.length" class="quiet none">
    The first {{ result.rows.length }} of {{ result.row_count }} rows.
  </p>
</template>

<style scoped>
.rows {
  width: 100%;
  border-collapse: collapse;
  font: var(--size-1) var(--data);
}

th {
  position: sticky;
  top: 0;
  padding: 2px 10px 4px;
  border-bottom: 1.5px solid var(--ink);
  background: inherit;
  font: 600 var(--size-1) var(--ui);
  text-align: left;
  vertical-align: bottom;
}

th small {
  display: block;
}

td {
  height: var(--row);
  padding: 0 10px;
  border-bottom: 1px solid var(--line-soft);
}

.number {
  text-align: right;
}

.gives td {
  cursor: copy;
}

.gives td:hover,
.active {
  box-shadow: inset 0 0 0 1px var(--ink-3);
}

tbody:focus-visible {
  outline-offset: -2px;
}

.none {
  padding: 8px 10px;
}
</style>
