<script setup lang="ts">
import { computed, useTemplateRef } from "vue";
import { useRoute, useRouter } from "vue-router";

import DataTable from "../../components/DataTable.vue";
import StateNotice from "../../components/StateNotice.vue";
import WovenTable from "../../components/WovenTable.vue";
import { useInAddress } from "../../composables/use-address";
import { useKeys } from "../../composables/use-keys";
import StepTrace from "../../steps/StepTrace.vue";
import FindingList from "./FindingList.vue";
import NeighbourList from "./NeighbourList.vue";
import SubmissionFacts from "./SubmissionFacts.vue";
import { useSubmissionDesk } from "./use-submission-desk";

const route = useRoute();
const router = useRouter();
const id = computed(() => Number(route.params.id));
const desk = useSubmissionDesk(id);
const ran = computed(() => ["correct", "incorrect", "undecided"].includes(desk.submission.value?.verdict ?? ""));
const { submission, isPending, error, refetch, dataset, datasets, extent, headline } = desk;

const EXTENTS = [
  { label: "all rows", value: "all" },
  { label: "differences", value: "differences" },
];
/** Rows woven, or the submission step by step. */
const view = useInAddress("shown", "rows", ["rows", "steps"]);
const VIEWS = [
  { label: "rows", value: "rows" },
  { label: "step by step", value: "steps" },
];
const steps = useTemplateRef<InstanceType<typeof StepTrace>>("steps");

function open(other: number | null | undefined): void {
  if (other) void router.replace({ name: "submission", params: { id: other } });
}

function openExercise(): void {
  const slug = submission.value?.exercise;
  const query = { side: "answers", answer: String(id.value) };
  if (slug) void router.push({ name: "exercise", params: { slug }, query });
}

useKeys([
  { key: "ArrowDown", cap: "↓", says: "next answer", act: () => open(submission.value?.next) },
  { key: "ArrowUp", cap: "↑", says: "answer before", act: () => open(submission.value?.previous) },
  { key: "d", cap: "D", says: "next dataset", act: () => desk.nextDataset() },
  { key: "w", cap: "W", says: "only differences", act: () => desk.turnExtent() },
  { key: "p", cap: "P", says: "step by step", act: () => { view.value = view.value === "rows" ? "steps" : "rows"; } },
  { key: "ArrowRight", cap: "→", says: "next step", rare: true, act: () => steps.value?.move(1) },
  { key: "ArrowLeft", cap: "←", says: "step before", rare: true, act: () => steps.value?.move(-1) },
  { key: "Escape", cap: "Esc", says: "the exercise", act: openExercise },
]);
</script>

<template>
  <StateNotice :waiting="isPending" :problem="error" @again="refetch()" />
  <main v-if="submission" class="task submission">
    <NeighbourList :exercise="submission.exercise" :current="submission.id" />
    <section class="sheet">
      <div class="tools">
        <h2>{{ headline }}</h2>
        <ElSegmented v-if="datasets.length > 1" v-model="dataset" :options="datasets"
          aria-label="Dataset" />
        <ElSegmented v-if="ran" v-model="view" :options="VIEWS" aria-label="Rows or steps" />
        <ElSegmented v-if="submission.woven && view === 'rows'" v-model="extent" :options="EXTENTS"
          aria-label="Which rows" />
      </div>
      <StepTrace v-if="ran && view === 'steps'" ref="steps" class="steps" :sql="submission.sql"
        :on="{ sample: submission.sample, dataset }" />
      <WovenTable v-else-if="submission.woven" :woven="submission.woven"
        :only-differences="extent === 'differences'" />
      <template v-else-if="submission.expected">
        <p class="quiet said">The query gave no rows to compare. This is what is due:</p>
        <DataTable :result="submission.expected" label="What is due" />
      </template>
      <FindingList :submission="submission" />
    </section>
    <SubmissionFacts :submission="submission" />
  </main>
</template>

<style scoped>
.submission {
  grid-template-columns: clamp(190px, 18vw, 232px) 1fr clamp(300px, 31vw, 400px);
}

.tools {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 10px;
  margin-bottom: 8px;
}

.tools h2 {
  margin-right: auto;
}

.steps {
  height: 62%;
}

.said {
  margin: 6px 0 10px;
}
</style>
