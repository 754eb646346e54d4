<script setup lang="ts">
import { computed, ref, watch } from "vue";

import type { Schemas } from "../../api/client";
import type { ExerciseContent } from "../../api/exercises";
import { useMadeRows, useSpotRows } from "../../api/explanations";
import ExampleRows from "../../components/rows/ExampleRows.vue";
import SqlText from "../../components/sql/SqlText.vue";
import { counted } from "../../composables/words";
import type { ExerciseBench } from "./use-exercise-bench";

/** A blind spot: the query that passes, and the rows that would show it, to be taken in. */
const props = defineProps<{ bench: ExerciseBench }>();
const content = defineModel<ExerciseContent>("content", { required: true });

const spot = computed(() => props.bench.spots.value[props.bench.spotAt.value]);
const { data: found, isFetching, error } = useSpotRows(
  props.bench.slug, props.bench.looked, () => spot.value?.sql ?? "",
);
const { takeIn } = useMadeRows();
const name = ref("");
const said = ref("");
const problem = ref("");
watch(spot, () => {
  name.value = said.value = problem.value = "";
});
const usualName = computed(() => (spot.value ? `${spot.value.label.replace(/^(an?|the) /, "")}-${spot.value.line}`.replaceAll(/[^\w-]+/g, "-") : ""));
const mark = computed(() => {
  const one = spot.value;
  if (!one) return null;
  const length = Math.max(one.new.trim().length, 1);
  const offset = one.new.length - one.new.trimStart().length;
  return { line: one.line, column: one.column + offset, length };
});

async function take(into: Schemas["ToTakeIn"]["into"]): Promise<void> {
  problem.value = "";
  try {
    const wanted = { datasets: [found.value?.rows ?? []], into, name: name.value || usualName.value };
    const made = await takeIn.mutateAsync({ sample: content.value.sample, wanted });
    said.value = into === "open" ? "The rows are in the open dataset." : `Taken in as the held-back dataset ${made.names.join(", ")}.`;
  } catch (refused) {
    problem.value = (refused as Error).message;
  }
}
</script>

<template>
  <div class="spot">
    <template v-if="said">
      <p role="status"><b>{{ said }}</b> Answers that were graded before are out of date now.</p>
      <p><ElButton @click="bench.openSpot(0)">Next blind spot</ElButton></p>
    </template>
    <template v-else-if="spot">
      <p>This query gets full marks: no dataset tells it from the reference. <span class="quiet">{{ spot.mistake }}</span></p>
      <SqlText :sql="spot.sql" :mark="mark" />
      <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
      <p v-else-if="!found" class="quiet">{{ isFetching ? "Making rows that show it …" : "" }}</p>
      <p v-else-if="!found.example" class="quiet">{{ found.trouble || "No rows were found in time that show it on their own." }}</p>
      <template v-else>
        <ExampleRows :example="found.example" :texts="[spot.sql, content.reference]"
          :title="`${counted(found.example.row_count, 'row')} would show it`" />
        <p class="take">
          <ElButton type="primary" :disabled="takeIn.isPending.value" @click="take('held-back')">Take in as a held-back dataset</ElButton>
          <label>called <ElInput v-model.trim="name" :placeholder="usualName" /></label>
          <ElButton :disabled="takeIn.isPending.value" @click="take('open')">Add to the open dataset</ElButton>
        </p>
        <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      </template>
    </template>
    <p v-else class="quiet">{{ bench.sight.isFetching.value ? "Looking …" : "There is no such blind spot any more." }}</p>
  </div>
</template>

<style scoped>
.spot {
  display: grid;
  gap: 10px;
  overflow: auto;
}

.take {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 12px;
}

label {
  display: inline-flex;
  align-items: center;
  gap: 6px;
}

label .el-input {
  width: 150px;
}
</style>
