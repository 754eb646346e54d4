<script setup lang="ts">
import { computed, ref, watch } from "vue";

import type { Schemas } from "../../api/client";
import { type OwnPlace, useOwnRows } from "../../api/own";
import DataTable from "../../components/DataTable.vue";
import TableNotes from "../../components/TableNotes.vue";

/** The tables in sight: columns with their keys, and the rows of one. */
const props = defineProps<{
  place: OwnPlace;
  tables: Schemas["OwnTable"][];
  inCopy: boolean;
  /** What is asked: a table that is named there is the one to begin with. */
  prompt: string;
}>();
const SHOWN = 100;
const chosen = ref("");

watch(
  () => props.tables,
  (tables) => {
    if (tables.some((one) => one.table.name === chosen.value)) return;
    const words = new Set(props.prompt.toLowerCase().match(/\w+/g));
    const named = tables.find((one) => words.has(one.table.name.toLowerCase())) ?? tables[0];
    chosen.value = named?.table.name ?? "";
  },
  { immediate: true },
);
const shape = computed(() => props.tables.find((one) => one.table.name === chosen.value));
const { data, error } = useOwnRows(
  () => props.place,
  () => ({
    table: shape.value && (shape.value.table.kind === "table" || !props.inCopy) ? chosen.value : "",
    inCopy: props.inCopy,
    limit: SHOWN,
  }),
);

type Column = Schemas["OwnTable"]["table"]["columns"][number];

/** What a column is for: part of the key, or the key of a row elsewhere; what it must and may hold. */
function role(column: Column): string {
  const table = shape.value?.table;
  const said = table?.primary_key.includes(column.name) ? ["key"] : [];
  for (const key of table?.foreign_keys ?? []) {
    const at = key.columns.indexOf(column.name);
    if (at >= 0) said.push(`→ ${key.table}`);
  }
  if (column.not_null && !said.includes("key")) said.push("NOT NULL");
  if (column.default !== null) said.push(`DEFAULT ${column.default}`);
  return said.join(", ");
}

const result = computed(() => {
  if (!data.value || !shape.value) return undefined;
  return {
    columns: shape.value.table.columns.map((column) => ({
      name: column.name, kind: column.type_name ?? column.type,
    })),
    rows: data.value.rows,
    row_count: data.value.total,
  };
});

function turn(by: number): void {
  const names = props.tables.map((one) => one.table.name);
  chosen.value = names[(names.indexOf(chosen.value) + by + names.length) % names.length] ?? "";
}
defineExpose({ turn });
</script>

<template>
  <section class="own-tables" aria-label="Tables">
    <div role="tablist" aria-label="Tables" class="names">
      <button v-for="one in tables" :key="one.table.name" type="button" role="tab"
        :aria-selected="one.table.name === chosen" @click="chosen = one.table.name">
        {{ one.table.name }} <small v-if="one.rows !== null">{{ one.rows.toLocaleString("en") }}</small>
      </button>
    </div>
    <TableNotes v-if="shape" :table="shape.table" />
    <ul v-if="shape" class="columns" :aria-label="`Columns of ${chosen}`">
      <li v-for="column in shape.table.columns" :key="column.name">
        <b>{{ column.name }}</b> <span>{{ column.type }}</span> <small>{{ role(column) }}<i v-if="column.note">{{ role(column) ? " · " : "" }}{{ column.note }}</i></small>
      </li>
    </ul>
    <p v-if="error" class="problem">{{ error.message }}</p>
    <div v-else-if="result" class="rows" tabindex="0" role="tabpanel" :aria-label="chosen">
      <DataTable :result="result" :label="chosen" />
    </div>
  </section>
</template>

<style scoped>
.own-tables {
  display: flex;
  flex-direction: column;
  min-height: 0;
}

.names {
  display: flex;
  flex-wrap: wrap;
  flex: none;
  gap: 2px 14px;
  padding-bottom: 4px;
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

.columns span {
  color: var(--ink-2);
}

.columns i {
  color: var(--ink-2);
}

[role="tab"] {
  padding: 2px 0;
  border: 0;
  border-bottom: 2px solid transparent;
  background: none;
  color: var(--ink-2);
  font: 600 var(--size-1) var(--data);
  cursor: pointer;
}

[aria-selected="true"] {
  border-bottom-color: var(--ink);
  color: var(--ink);
}

.rows {
  position: relative;
  flex: 1;
  min-height: 0;
  overflow: auto;
}

.rows :deep(th) {
  background: var(--paper);
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
