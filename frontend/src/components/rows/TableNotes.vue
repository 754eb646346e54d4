<script setup lang="ts">
import { computed } from "vue";

import type { Schemas } from "../../api/client";

/** What the instructor noted on a table, and on its columns where those are not listed anyway. */
const props = defineProps<{ table: Schemas["Sample"]["tables"][number]; columns?: boolean }>();
const noted = computed(() => (props.columns ? props.table.columns.filter((one) => one.note) : []));
</script>

<template>
  <div v-if="table.note || noted.length" class="notes">
    <p v-if="table.note">{{ table.note }}</p>
    <p v-for="column in noted" :key="column.name"><b>{{ column.name }}</b> {{ column.note }}</p>
  </div>
</template>

<style scoped>
.notes {
  flex: none;
  max-height: 66px;
  margin-bottom: 4px;
  padding-left: 8px;
  border-left: 2px solid var(--due);
  color: var(--ink-2);
  overflow: auto;
  overflow-wrap: anywhere;
}

b {
  font: 600 12px var(--data);
}
</style>
