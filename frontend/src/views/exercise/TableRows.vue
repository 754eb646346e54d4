<script setup lang="ts">
import { computed } from "vue";

import type { Schemas } from "../../api/client";
import { type DatasetName, useRows } from "../../api/samples";
import { tableColumn } from "../../components/rows/cells";
import DataTable from "../../components/rows/DataTable.vue";
import TableNotes from "../../components/rows/TableNotes.vue";
import { counted } from "../../composables/words";

const props = defineProps<{ name: DatasetName; table: Schemas["Sample"]["tables"][number]; version: number | undefined }>();

const SHOWN = 100;
const { data } = useRows(
  () => props.name,
  () => props.version,
  () => ({ table: props.table.name, sort: [], where: "", offset: 0, limit: SHOWN }),
);
const result = computed(() =>
  data.value
    ? {
        columns: props.table.columns.map(tableColumn),
        rows: data.value.rows.map((row) => row.cells),
        row_count: data.value.total,
      }
    : undefined,
);
</script>

<template>
  <figure v-if="result">
    <figcaption>
      <h3>{{ table.name }}</h3> <small>{{ counted(result.row_count, "row") }}</small>
    </figcaption>
    <TableNotes :table="table" columns />
    <DataTable :result="result" :label="table.name" />
  </figure>
</template>

<style scoped>
figure {
  margin-top: 16px;
}

h3 {
  display: inline;
  font-size: var(--size-2);
}

figure :deep(th) {
  background: var(--sheet);
}
</style>
