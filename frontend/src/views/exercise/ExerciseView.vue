<script setup lang="ts">
import { ElSegmented } from "element-plus";
import { computed } from "vue";
import { useRoute, useRouter } from "vue-router";

import DataTable from "../../components/DataTable.vue";
import SqlText from "../../components/SqlText.vue";
import StateNotice from "../../components/StateNotice.vue";
import { useKeys } from "../../composables/use-keys";
import { counted } from "../../composables/words";
import AnswerList from "./AnswerList.vue";
import ExerciseAsk from "./ExerciseAsk.vue";
import { useExerciseDesk } from "./use-exercise-desk";

const route = useRoute();
const router = useRouter();
const slug = computed(() => String(route.params.slug));
const desk = useExerciseDesk(slug);
const { exercise, isPending, error, refetch, shown, parts, answers, chosenAt } = desk;

function open(id: number | undefined): void {
  if (id !== undefined) void router.push({ name: "submission", params: { id } });
}

useKeys([
  { key: "ArrowDown", cap: "↓", says: "next answer", act: () => desk.move(1) },
  { key: "ArrowUp", cap: "↑", says: "answer before", act: () => desk.move(-1) },
  { key: "Enter", cap: "⏎", says: "open it", act: () => open(desk.chosen.value?.id) },
  { key: "t", cap: "T", says: "tables", act: () => desk.turn() },
  { key: "f", cap: "F", says: "other verdicts", act: () => desk.turnFilter() },
  {
    key: "Escape",
    cap: "Esc",
    says: "all exercises",
    act: () => void router.push({ name: "exercises" }),
  },
]);
</script>

<template>
  <StateNotice :waiting="isPending" :problem="error" @again="refetch()" />
  <main v-if="exercise" class="task exercise">
    <ExerciseAsk :exercise="exercise" />
    <section class="sheet">
      <div class="tools">
        <h2 v-if="shown === 'reference'">Reference answer</h2>
        <h2 v-else>Tables of {{ exercise.sample }}</h2>
        <ElSegmented v-model="shown" :options="parts" aria-label="What the middle shows" />
        <span class="quiet">{{ counted(exercise.expected.row_count, "row") }},
          {{ counted(exercise.expected.columns.length, "column") }} due</span>
      </div>
      <template v-if="shown === 'reference'">
        <SqlText :sql="exercise.reference" />
        <DataTable :result="exercise.expected" label="What is due" />
        <template v-for="other in exercise.alternatives" :key="other.name">
          <h3 class="also">Also accepted: {{ other.name }}</h3>
          <SqlText :sql="other.sql" />
        </template>
      </template>
      <template v-else>
        <figure v-for="table in exercise.tables" :key="table.name">
          <figcaption>
            <h3>{{ table.name }}</h3> <small>{{ counted(table.result.row_count, "row") }}</small>
          </figcaption>
          <DataTable :result="table.result" :label="table.name" />
        </figure>
      </template>
    </section>
    <AnswerList v-model:filter="desk.filter.value" v-model:at="chosenAt" :answers="answers"
      :counts="exercise.counts" :points="exercise.points" />
  </main>
</template>

<style scoped>
.exercise {
  grid-template-columns: 300px 1fr 360px;
}

.tools {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-bottom: 8px;
}

.tools h2 {
  margin-right: auto;
}

.sheet :deep(.sql) {
  margin-bottom: 10px;
}

.also {
  margin: 18px 0 6px;
}

figure + figure {
  margin-top: 18px;
}

figcaption h3 {
  display: inline;
  font-size: var(--size-2);
}
</style>
