<script setup lang="ts">
import type { Schemas } from "../../api/client";
import DataTable from "../../components/rows/DataTable.vue";
import { counted } from "../../composables/words";

/** What came of the statements that were run on a learner's own copy. */
defineProps<{ came: Schemas["CopyRun"] | undefined; error: string }>();
</script>

<template>
  <p v-if="error" class="problem" role="alert">{{ error }}</p>
  <p v-else-if="came?.message" class="problem" role="alert">{{ came.message }}</p>
  <template v-for="(one, at) in came?.done ?? []" :key="at">
    <p class="statement"><code>{{ one.sql }}</code> <small>{{ one.result ? counted(one.result.row_count, "row")
      : one.changed ? `${counted(one.changed, "row")} changed` : "done" }}</small></p>
    <p v-if="one.remark" class="remark">{{ one.remark }}</p>
    <DataTable v-if="one.result" :result="one.result" :label="one.sql" />
  </template>
</template>

<style scoped>
.statement {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  padding: 6px 0;
  border-top: 1px solid var(--line);
}

.statement small {
  flex: none;
}

.statement code {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.remark {
  padding: 2px 8px 6px;
  border-left: 3px solid var(--due);
}
</style>
