<script setup lang="ts">
import { computed, useTemplateRef } from "vue";
import { useRoute, useRouter } from "vue-router";

import AnswerSheet from "../../answer/AnswerSheet.vue";
import { useAnswerSheet } from "../../answer/use-answer-sheet";
import StateNotice from "../../components/notices/StateNotice.vue";
import { useKeys } from "../../composables/use-keys";
import { usePageName } from "../../composables/use-page-title";
import { usePresented } from "../present/present";
import NeighbourList from "./NeighbourList.vue";
import SubmissionFacts from "./SubmissionFacts.vue";

const route = useRoute();
const router = useRouter();
const id = computed(() => Number(route.params.id));
const sheet = useAnswerSheet(id);
const { submission, isPending, error, refetch } = sheet;
usePageName(() => submission.value && `Answer · ${submission.value.exercise_title}`);
const shown = useTemplateRef<InstanceType<typeof AnswerSheet>>("shown");

function open(other: number | null | undefined): void {
  if (other) void router.replace({ name: "submission", params: { id: other } });
}

/** Back to where one came from; who came by a link comes to the desk. */
function goBack(): void {
  const state = window.history.state as { back?: string } | null;
  if (state?.back) {
    router.back();
    return;
  }
  const slug = submission.value?.exercise;
  if (slug) void router.push({ name: "desk", params: { slug } });
}

const presented = usePresented();
/** The answer on the projector; nobody's name stands there. */
function present(): void {
  const found = submission.value;
  if (!found) return;
  presented.value = {
    sql: found.sql, sample: found.sample, dataset: found.shown_dataset, engine: found.engine, mindsCase: found.minds_case, prompt: found.exercise_title, side: "given",
  };
  void router.push({ name: "present" });
}

useKeys([
  { key: "ArrowDown", cap: "↓", says: "next answer", act: () => open(submission.value?.next) },
  { key: "ArrowUp", cap: "↑", says: "answer before", act: () => open(submission.value?.previous) },
  { key: "d", cap: "D", says: "next dataset", act: () => sheet.nextDataset() },
  { key: "w", cap: "W", says: "only differences", act: () => sheet.turnExtent() },
  { key: "p", cap: "P", says: "rows, parting, steps, why", act: () => sheet.turnView() },
  { key: "b", cap: "B", says: "present, large", rare: true, act: present },
  { key: "ArrowRight", cap: "→", says: "next step", rare: true, act: () => shown.value?.moveStep(1) },
  { key: "ArrowLeft", cap: "←", says: "step before", rare: true, act: () => shown.value?.moveStep(-1) },
  { key: "Escape", cap: "Esc", says: "back", act: goBack },
]);
</script>

<template>
  <StateNotice :alone="!submission" :waiting="isPending" :problem="error" @again="refetch()" />
  <main v-if="submission" class="task submission">
    <NeighbourList :exercise="submission.exercise" :title="submission.exercise_title" :current="submission.id" />
    <AnswerSheet ref="shown" :sheet="sheet"
      @regrade="router.push({ name: 'desk', params: { slug: submission.exercise }, query: { do: 'regrade' } })" />
    <SubmissionFacts :submission="submission" />
  </main>
</template>

<style scoped>
.submission {
  grid-template-columns: clamp(190px, 18vw, 232px) 1fr clamp(300px, 31vw, 400px);
}
</style>
