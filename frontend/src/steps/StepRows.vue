<script setup lang="ts">
import { computed, useTemplateRef } from "vue";

import type { Schemas } from "../api/client";
import { type Cell, isNumeric, placesOf } from "../components/rows/cells";
import DataCell from "../components/rows/DataCell.vue";
import { useResultCells } from "../editor/value-cells";
import { begins, says, tells } from "./row-words";

/** Rows with what a step makes of them beside: kept, false, unknown; their group; their round. */
const props = defineProps<{
  result: Schemas["Result"];
  beside: Cell[];
  kind: Schemas["Step"]["beside"];
  /** The columns that are grouped by: their values are what a group is called. */
  keys?: string[];
  /** What further columns tell, and their values, a list a row. */
  told?: Schemas["Told"][];
  values?: Cell[][];
}>();

const columns = computed(() => (props.values?.length ? (props.told ?? []) : []));
const rows = computed(() => ({ ...props, keys: props.keys ?? [] }));
const body = useTemplateRef<HTMLElement>("body");
const cells = useResultCells(body, () => props.result);
</script>

<template>
  <table>
    <caption class="only-read-aloud">Rows at this step</caption>
    <thead>
      <tr>
        <th v-if="kind" scope="col"><span class="only-read-aloud">what becomes of the row</span></th>
        <th v-for="(one, at) in columns" :key="`told ${at}`" scope="col" class="told"><code>{{ one.text }}</code>
          <small>{{ one.what === "truth" ? "part" : "branch" }}</small></th>
        <th v-for="(column, at) in result.columns" :key="at" scope="col"
          :class="{ number: isNumeric(column.kind) }">{{ column.name }}<small>{{ column.declared || column.kind }}</small></th>
      </tr>
    </thead>
    <tbody ref="body" v-bind="cells.attributes('Rows at this step')">
      <tr v-for="(row, at) in result.rows" :key="at" :class="[kind === 'truth' ? says(rows, at) : '', { begins: begins(rows, at) }]">
        <th v-if="kind" scope="row">{{ kind === "truth" || begins(rows, at) ? says(rows, at) : "" }}</th>
        <td v-for="(one, place) in columns" :key="`told ${place}`" class="told" :class="one.what === 'truth' ? tells(one, values?.[at]?.[place] ?? null) : 'taken'">
          <span>{{ tells(one, values?.[at]?.[place] ?? null) }}</span></td>
        <td v-for="(cell, column) in row" :key="column"
          :class="{ number: isNumeric(result.columns[column]?.kind ?? ''), active: cells.isActive(at, column) }" @click="cells.take(at, column)">
          <DataCell :value="cell" :places="placesOf(result.columns[column]?.declared ?? '')" />
        </td>
      </tr>
    </tbody>
  </table>
  <p v-if="result.row_count > result.rows.length" class="quiet">The first {{ result.rows.length }} of {{
    result.row_count }} rows.</p>
</template>

<style scoped>
table {
  width: 100%;
  border-collapse: collapse;
  font: var(--size-1) var(--data);
}

th {
  padding: 2px 10px 4px;
  font: 600 var(--size-1) var(--ui);
  text-align: left;
  vertical-align: bottom;
}

thead th {
  position: sticky;
  top: 0;
  border-bottom: 1.5px solid var(--ink);
  background: var(--sheet);
}

th small {
  display: block;
}

tbody th {
  width: 74px;
  padding: 0 10px 0 6px;
  color: var(--ink-2);
  font-weight: 400;
  font-size: var(--size-0);
  vertical-align: middle;
  white-space: nowrap;
}

td {
  white-space: nowrap;
  height: var(--row);
  padding: 0 10px;
  border-bottom: 1px solid var(--line-soft);
}

.number {
  text-align: right;
}

/* What the condition says of a row is not of the row: it stands on the side of what is due, apart. */
.told {
  border-right: 1px dotted var(--line);
}

thead .told code {
  display: inline-block;
  width: max-content;
  max-width: 15ch;
  overflow-wrap: break-word;
}

tbody .told {
  font-size: var(--size-0);
  text-decoration: none !important;
}

tbody .told.true span {
  padding-left: 6px;
  border-left: 3px solid var(--due);
}

tbody .told.false span {
  padding-left: 6px;
  border-left: 3px solid var(--line);
  text-decoration: line-through;
}

tbody .told.unknown span {
  padding-left: 6px;
  border-left: 3px dotted var(--ink-3);
}

.kept th {
  border-left: 3px solid var(--due);
  color: var(--ink);
  font-weight: 650;
}

.false td {
  color: var(--ink-3);
  text-decoration: line-through;
  text-decoration-color: var(--line);
}

.unknown th {
  border-left: 3px dotted var(--ink-3);
}

.unknown td {
  color: var(--ink-3);
}

.begins td,
.begins th {
  border-top: 1.5px solid var(--due);
}
</style>
