<script setup lang="ts">
import { useTemplateRef } from "vue";

import type { Schemas } from "../../api/client";
import { useResultCells } from "../../editor/value-cells";
import { isNumeric, placesOf } from "./cells";
import DataCell from "./DataCell.vue";

/**
 * Rows under their columns.
 *
 * Beside an editor, a click on a cell or Enter puts its value into the text; the arrow keys move.
 */
const props = defineProps<{ result: Schemas["Result"]; label: string }>();

const body = useTemplateRef<HTMLElement>("body");
const cells = useResultCells(body, () => props.result);
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
    <tbody ref="body" v-bind="cells.attributes(label)">
      <tr v-for="(row, at) in result.rows" :key="at">
        <td v-for="(cell, column) in row" :key="column"
          :class="{
            number: isNumeric(result.columns[column]?.kind ?? ''),
            active: cells.isActive(at, column),
          }" @click="cells.take(at, column)">
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

.none {
  padding: 8px 10px;
}
</style>
