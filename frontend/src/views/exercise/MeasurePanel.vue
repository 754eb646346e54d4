<script setup lang="ts">
import { computed, onMounted, ref } from "vue";

import type { ExerciseContent } from "../../api/exercises";
import { useMadeRows } from "../../api/explanations";
import DataTable from "../../components/rows/DataTable.vue";
import { counted } from "../../composables/words";
import type { ExerciseBench } from "./use-exercise-bench";

/** Held-back datasets made to measure: a few small ones that see every mistake that can be seen. */
const props = defineProps<{ bench: ExerciseBench }>();
const content = defineModel<ExerciseContent>("content", { required: true });

const { measure, takeIn } = useMadeRows();
const name = ref("made");
const said = ref("");
const problem = ref("");
const found = computed(() => measure.data.value);
onMounted(() => measure.mutate({ slug: props.bench.slug.value, content: content.value }));

function rowsOf(dataset: { rows: unknown[] }[]): number {
  return dataset.reduce((sum, table) => sum + table.rows.length, 0);
}

async function take(): Promise<void> {
  problem.value = "";
  try {
    const wanted = { datasets: found.value?.datasets ?? [], into: "held-back" as const, name: name.value || "made" };
    const made = await takeIn.mutateAsync({ sample: content.value.sample, wanted });
    said.value = `Taken in: ${made.names.join(", ")}.`;
  } catch (refused) {
    problem.value = (refused as Error).message;
  }
}
</script>

<template>
  <div class="measured">
    <p v-if="measure.error.value" class="problem" role="alert">{{ measure.error.value.message }}</p>
    <p v-else-if="!found" class="quiet">Making datasets to measure …</p>
    <template v-else>
      <p v-if="found.trouble" class="problem">{{ found.trouble }}</p>
      <p v-else>{{ counted(found.datasets.length, "small dataset") }} of made-up rows together tell {{ found.told }} of
        {{ counted(found.edits, "likely mistake") }} from the reference.</p>
      <p v-if="said" role="status"><b>{{ said }}</b> Answers that were graded before are out of date now.</p>
      <p v-else-if="found.datasets.length" class="take">
        <ElButton type="primary" :disabled="takeIn.isPending.value" @click="take">Take all in as held-back datasets</ElButton>
        <label>called <ElInput v-model.trim="name" /></label>
      </p>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <section v-for="(dataset, at) in found.datasets" :key="at" class="dataset">
        <h3>{{ name || "made" }}{{ found.datasets.length > 1 ? `-${at + 1}` : "" }} <small>{{ counted(rowsOf(dataset), "row") }}</small></h3>
        <div class="tables">
          <div v-for="table in dataset" :key="table.table">
            <p class="name">{{ table.table }}</p>
            <DataTable :label="table.table" :result="{ columns: table.columns.map((one) => ({ name: one, kind: '', declared: '' })), rows: table.rows, row_count: table.rows.length }" />
          </div>
        </div>
      </section>
    </template>
  </div>
</template>

<style scoped>
.measured {
  display: grid;
  gap: 10px;
  overflow: auto;
}

.take {
  display: flex;
  align-items: center;
  gap: 12px;
}

label {
  display: inline-flex;
  align-items: center;
  gap: 6px;
}

label .el-input {
  width: 130px;
}

.tables {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 24px;
}

.name {
  font-weight: 650;
}

.dataset {
  padding-top: 6px;
  border-top: 1px solid var(--line);
}
</style>
