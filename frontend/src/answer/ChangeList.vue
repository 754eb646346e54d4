<script setup lang="ts">
import type { Schemas } from "../api/client";
import ListColumn from "../components/lists/ListColumn.vue";
import ListTable from "../components/lists/ListTable.vue";
import VerdictWord from "../components/verdict/VerdictWord.vue";

/** Answers that come out otherwise: from what to what, and why. */
type Change = Schemas["RegradeChange"];
defineProps<{ title: string; changes: Change[]; kept?: boolean; hidesNames?: boolean }>();
</script>

<template>
  <section v-if="changes.length">
    <h3>{{ title }} <small>{{ changes.length }}</small></h3>
    <ListTable untitled :rows="changes" by="submission">
      <ListColumn label="learner">
        <template #default="{ row }: { row: Change }"><RouterLink :to="{ name: 'submission', params: { id: row.submission } }">{{ hidesNames ? `answer ${row.submission}` : row.learner }}</RouterLink></template>
      </ListColumn>
      <ListColumn label="verdict">
        <template #default="{ row }: { row: Change }"><VerdictWord :verdict="row.before" /> → <VerdictWord :verdict="row.after" /></template>
      </ListColumn>
      <ListColumn label="mark" class-name="marks">
        <template #default="{ row }: { row: Change }">{{ row.mark_before ?? "–" }} → {{ row.mark_after }}<template v-if="kept"><br><b>stays {{ row.decided }}</b></template></template>
      </ListColumn>
      <ListColumn label="why" prop="why" />
    </ListTable>
  </section>
</template>

<style scoped>
section {
  margin-top: 12px;
}

:deep(.marks) {
  white-space: nowrap;
}
</style>
