<script setup lang="ts">
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import type { Schemas } from "../../api/client";
import { useDataset, useSample } from "../../api/samples";
import EmptyCourse from "../../components/notices/EmptyCourse.vue";
import MakingNotes from "../../components/notices/MakingNotes.vue";
import ListColumn from "../../components/lists/ListColumn.vue";
import ListTable from "../../components/lists/ListTable.vue";
import StateNotice from "../../components/notices/StateNotice.vue";
import { useKeys } from "../../composables/use-keys";
import { counted, dayAndTime } from "../../composables/words";
import SampleMap from "../../components/map/SampleMap.vue";
import { rowCounts } from "../bench/use-bench";
import SampleActions from "./SampleActions.vue";
import { useSampleList } from "./use-sample-list";

type Line = Schemas["SampleLine"];

const router = useRouter();
const { samples, chosen, chosenAt, isPending, error, refetch, move } = useSampleList();
const { data: whole } = useSample(() => chosen.value?.name ?? "");
const { data: dataset } = useDataset(() => ({
  sample: chosen.value?.name ?? "",
  dataset: chosen.value?.datasets[0]?.name ?? "",
}));
const counts = computed(() => rowCounts(dataset.value));
const card = ref("");
const most = computed(() =>
  Math.max(1, ...(samples.value ?? []).map(rowsOf)),
);

function rowsOf(one: Line): number {
  return one.datasets[0]?.rows ?? 0;
}

function open(name: string | undefined): void {
  if (name) void router.push({ name: "sample", params: { sample: name } });
}

function make(): void {
  void router.push({ name: "make" });
}

useKeys([
  { key: "ArrowDown", cap: "↓", says: "next sample", act: () => move(1) },
  { key: "ArrowUp", cap: "↑", says: "sample before", act: () => move(-1) },
  { key: "Enter", cap: "⏎", says: "open it", act: () => open(chosen.value?.name) },
  { key: "n", cap: "N", says: "make a sample", act: make },
]);
</script>

<template>
  <main class="task list">
    <section class="sheet">
      <div class="tools">
        <h1>Samples</h1>
        <RouterLink class="button main" :to="{ name: 'make' }">Make a sample</RouterLink>
      </div>
      <StateNotice :waiting="isPending" :problem="error" @again="refetch()" />
      <EmptyCourse v-if="samples && !samples.length" />
      <ListTable v-if="samples?.length" :rows="samples" by="name" :chosen="chosenAt" @choose="chosenAt = $event"
        @open="open($event.name)">
        <ListColumn label="sample">
          <template #default="{ row, $index }: { row: Line; $index: number }">
            <RouterLink :to="{ name: 'sample', params: { sample: row.name } }" @focus="chosenAt = $index">{{
              row.name }}</RouterLink>
          </template>
        </ListColumn>
        <ListColumn label="tables" class-name="number">
          <template #default="{ row }: { row: Line }">{{ row.tables.length }}</template>
        </ListColumn>
        <ListColumn label="rows" class-name="number">
          <template #default="{ row }: { row: Line }">{{ rowsOf(row).toLocaleString("en") }}</template>
        </ListColumn>
        <ListColumn label="size" unseen class-name="size">
          <template #default="{ row }: { row: Line }"><i aria-hidden="true"
            :style="{ width: `${(Math.log10(1 + rowsOf(row)) / Math.log10(1 + most)) * 70}px` }" /></template>
        </ListColumn>
        <ListColumn label="datasets">
          <template #default="{ row }: { row: Line }">{{ row.datasets.map((one) => one.name).join(", ") }}</template>
        </ListColumn>
        <ListColumn label="exercises" prop="exercises" class-name="number" />
        <ListColumn label="changed">
          <template #default="{ row }: { row: Line }">{{
            dayAndTime(row.datasets.map((one) => one.changed_at).sort().at(-1) ?? "") }}</template>
        </ListColumn>
      </ListTable>
      <SampleMap v-if="whole" v-model:chosen="card" class="picture" :tables="whole.tables"
        :counts="counts" :pinned="[]" @pin="open(chosen?.name)" />
    </section>
    <aside v-if="chosen" aria-label="The sample chosen">
      <h2>{{ chosen.name }}</h2>
      <p class="quiet under">
        {{ counted(chosen.tables.length, "table") }} · {{ counted(chosen.exercises, "exercise") }} over it
      </p>
      <SampleActions :key="chosen.name" :sample="chosen" />
      <MakingNotes v-if="whole?.notes.length" :notes="whole.notes" heading="Left out when it was made, or to be known" />
    </aside>
  </main>
</template>

<style scoped>
.list {
  grid-template-columns: 1fr clamp(280px, 30vw, 380px);
}

.tools {
  display: flex;
  align-items: center;
  justify-content: space-between;
  margin-bottom: 10px;
}

td a {
  color: var(--ink);
  font-size: var(--size-2);
  font-weight: 650;
  text-decoration: none;
}

td a:hover {
  text-decoration: underline;
}

.sheet {
  display: flex;
  flex-direction: column;
}

.picture {
  min-height: 240px;
  margin-top: 18px;
}

:deep(.size) {
  width: 90px;
}

.size i {
  display: block;
  height: 7px;
  background: var(--ink-3);
}

h3 {
  margin: 16px 0 4px;
}

.under {
  margin: 2px 0 10px;
}
</style>
