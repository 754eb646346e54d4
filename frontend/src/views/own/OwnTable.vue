<script setup lang="ts">
import { computed } from "vue";

import type { Schemas } from "../../api/client";
import { type OwnPlace, useOwnRows } from "../../api/own";
import { tableColumn } from "../../components/rows/cells";
import DataTable from "../../components/rows/DataTable.vue";
import TableNotes from "../../components/rows/TableNotes.vue";

/** A table: its columns with their types and keys, what is noted on it, and its first rows. */
const props = defineProps<{ place: OwnPlace; table: Schemas["OwnTable"]["table"]; inCopy: boolean }>();
const SHOWN = 100;

const { data, error } = useOwnRows(
  () => props.place,
  () => ({
    table: props.table.kind === "table" || !props.inCopy ? props.table.name : "",
    inCopy: props.inCopy,
    limit: SHOWN,
  }),
);

type Column = Schemas["OwnTable"]["table"]["columns"][number];

/** What a column is for: part of the key, or the key of a row elsewhere; what it must and may hold. */
function role(column: Column): string {
  const said = props.table.primary_key.includes(column.name) ? ["key"] : [];
  for (const key of props.table.foreign_keys) {
    const at = key.columns.indexOf(column.name);
    if (at >= 0) said.push(`→ ${key.table}`);
  }
  if (column.not_null && !said.includes("key")) said.push("NOT NULL");
  if (column.default !== null) said.push(`DEFAULT ${column.default}`);
  return said.join(", ");
}

const result = computed(() => {
  if (!data.value) return undefined;
  return {
    columns: props.table.columns.map(tableColumn),
    rows: data.value.rows,
    row_count: data.value.total,
  };
});
</script>

<template>
  <div class="own-table">
    <TableNotes :table="table" />
    <ul class="columns" :aria-label="`Columns of ${table.name}`">
      <li v-for="column in table.columns" :key="column.name">
        <b>{{ column.name }}</b> <span>{{ column.type }}</span> <small>{{ role(column) }}<i v-if="column.note">{{
          role(column) ? " · " : "" }}{{ column.note }}</i></small>
      </li>
    </ul>
    <p v-if="error" class="problem">{{ error.message }}</p>
    <div v-else-if="result && !table.stands_in" class="rows" tabindex="0" role="group" :aria-label="`Rows of ${table.name}`">
      <DataTable :result="result" :label="table.name" />
    </div>
  </div>
</template>

<style scoped>
.own-table {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-height: 0;
}

.columns {
  flex: none;
  max-height: 34%;
  margin-bottom: 6px;
  overflow: auto;
}

.columns li {
  display: grid;
  grid-template-columns: minmax(90px, max-content) minmax(84px, max-content) 1fr;
  gap: 10px;
}

.columns b {
  font-family: var(--data);
  font-weight: 600;
}

.columns span,
.columns i {
  color: var(--ink-2);
}

.rows {
  position: relative;
  flex: 1;
  min-height: 0;
  overflow: auto;
}

.rows :deep(th) {
  background: var(--behind, var(--paper));
}

.rows :deep(td),
.rows :deep(th) {
  padding-left: 0;
}

.rows :deep(th),
.rows :deep(td *) {
  white-space: pre;
}

.rows :deep(td) {
  height: 24px;
  font-size: 12px;
}
</style>
