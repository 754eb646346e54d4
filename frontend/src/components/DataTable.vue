<script setup lang="ts">
import type { Schemas } from "../api/client";
import { isNumeric } from "./cells";
import DataCell from "./DataCell.vue";

/** Rows under their columns; `roles` say what a column is for, where that is known. */
defineProps<{ result: Schemas["Result"]; label: string; roles?: string[] }>();
</script>

<template>
  <table class="rows">
    <caption class="only-read-aloud">{{ label }}</caption>
    <thead>
      <tr>
        <th v-for="(column, at) in result.columns" :key="at" scope="col"
          :class="{ number: isNumeric(column.kind) }">
          {{ column.name }}<small>{{ column.kind }}{{ roles?.[at] ? ` · ${roles[at]}` : "" }}</small>
        </th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(row, at) in result.rows" :key="at">
        <td v-for="(cell, column) in row" :key="column"
          :class="{ number: isNumeric(result.columns[column]?.kind ?? '') }">
          <DataCell :value="cell" />
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

.none {
  padding: 8px 10px;
}
</style>
