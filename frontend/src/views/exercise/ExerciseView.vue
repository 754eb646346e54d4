<script setup lang="ts">
import { computed, nextTick, useTemplateRef } from "vue";
import { useRoute, useRouter } from "vue-router";

import StateNotice from "../../components/notices/StateNotice.vue";
import { useInAddress } from "../../composables/use-address";
import { useKeys } from "../../composables/use-keys";
import { usePageName } from "../../composables/use-page-title";
import { counted, dayAndTime } from "../../composables/words";
import { provideEngine } from "../../editor/dialects";
import StepTrace from "../../steps/StepTrace.vue";
import AlsoPanel from "./AlsoPanel.vue";
import AnswerList from "./AnswerList.vue";
import CountsPanel from "./CountsPanel.vue";
import ExerciseVersions from "./ExerciseVersions.vue";
import MarksPanel from "./MarksPanel.vue";
import ProofPanel from "./ProofPanel.vue";
import ReferencePanel from "./ReferencePanel.vue";
import MeasurePanel from "./MeasurePanel.vue";
import SampleTables from "./SampleTables.vue";
import SpotPanel from "./SpotPanel.vue";
import TaskPanel from "./TaskPanel.vue";
import TrialPanel from "./TrialPanel.vue";
import { shortPrompt, usePresented } from "../present/present";
import { useAnswers } from "./use-answers";
import { type Part, useExerciseBench } from "./use-exercise-bench";

const route = useRoute();
const router = useRouter();
const slug = computed(() => String(route.params.slug));
const bench = useExerciseBench(slug);
const { exercise, isPending, error, refetch, content, shown, saving, isChanged, problem } = bench;
usePageName(() => content.value?.title);
provideEngine(computed(() => content.value?.engine ?? "sqlite"));
const answers = useAnswers(exercise);

const left = useInAddress("left", "task", ["task", "counts", "marks"]);
const right = useInAddress("side", "proof", ["proof", "answers"]);
const LEFT = [
  { label: "what is asked", value: "task" },
  { label: "what counts", value: "counts" },
  { label: "marks", value: "marks" },
];
const parts = computed(() => [
  { label: "reference", value: "reference" },
  { label: "step by step", value: "steps" },
  { label: `also right ${content.value?.alternatives.length || ""}`.trim(), value: "also" },
  { label: "tables", value: "tables" },
  { label: "versions", value: "versions" },
]);
const rightParts = computed(() => [
  { label: "proof", value: "proof" },
  { label: counted(exercise.value?.counts.total ?? 0, "answer"), value: "answers" },
]);
const part = computed({
  get: () => (["trial", "spot", "measure"].includes(shown.value) ? "" : shown.value),
  set: (next: string) => {
    shown.value = next as Part;
  },
});

/** What the middle shows beside the parts that are always there. */
const OTHER_PARTS: Record<string, string> = { trial: "trial", spot: "blind spot", measure: "datasets made to measure" };

const reference = useTemplateRef<InstanceType<typeof ReferencePanel>>("reference");
const steps = useTemplateRef<InstanceType<typeof StepTrace>>("steps");
const versions = useTemplateRef<InstanceType<typeof ExerciseVersions>>("versions");

/** From here on a mistake counts as one that learners make often. */
const LIKELY = 0.6;
const state = computed(() => {
  if (saving.value === "offline") return "not saved: the server does not answer; kept in this browser";
  if (!isChanged.value) {
    const likely = bench.spots.value.filter((one) => one.usual && one.likelihood >= LIKELY).length;
    const warns = likely ? `: ${counted(likely, "likely mistake")} ${likely === 1 ? "gets" : "get"} full marks` : "";
    return `version ${exercise.value?.version ?? 1}${warns}`;
  }
  return saving.value === "unsaved" ? "writing …" : "draft saved";
});

function open(id: number | undefined): void {
  if (id !== undefined) void router.push({ name: "submission", params: { id } });
}

function move(by: number): void {
  if (shown.value === "steps") steps.value?.move(by);
  else if (shown.value === "versions") versions.value?.step(by);
  else if (right.value === "answers") answers.move(by);
  else moveTrial(by);
}

function moveTrial(by: number): void {
  const count = content.value?.trials.length ?? 0;
  if (!count) return;
  const from = shown.value === "trial" ? bench.trialAt.value : by > 0 ? -1 : count;
  bench.openTrial(Math.min(Math.max(from + by, 0), count - 1));
}

const mindsCase = computed(() => content.value?.rules.like_case === "exact");
const presented = usePresented();
/** The reference answer on the projector, step by step. */
function present(): void {
  const found = content.value;
  if (!found) return;
  presented.value = {
    sql: found.reference, sample: found.sample, dataset: "open", engine: found.engine, mindsCase: mindsCase.value, prompt: shortPrompt(found.prompt), side: "due",
  };
  void router.push({ name: "present" });
}

async function write(): Promise<void> {
  shown.value = "reference";
  await nextTick();
  reference.value?.focus();
}

useKeys([
  { key: "s", ctrl: true, cap: "Ctrl S", says: "save", always: true, act: () => void bench.keep() },
  { key: "e", cap: "E", says: "write the reference", act: () => void write() },
  { key: "p", cap: "P", says: "step by step", act: () => { shown.value = "steps"; } },
  { key: "b", cap: "B", says: "present, large", rare: true, act: present },
  { key: "a", cap: "A", says: "also right", act: () => { shown.value = "also"; } },
  { key: "t", cap: "T", says: "tables", act: () => { shown.value = "tables"; } },
  { key: "v", cap: "V", says: "versions", act: () => { shown.value = "versions"; } },
  { key: "n", cap: "N", says: "new trial", act: () => bench.addTrial() },
  { key: "d", cap: "D", says: "blind spots", act: () => bench.openSpot((bench.spotAt.value + 1) % Math.max(bench.spots.value.length, 1)) },
  { key: "ArrowDown", cap: "↓", says: "next trial, step or answer", act: () => move(1) },
  { key: "ArrowUp", cap: "↑", says: "the one before", rare: true, act: () => move(-1) },
  { key: "1", cap: "1 2 3", says: "asked, counts, marks", rare: true, act: () => { left.value = "task"; } },
  { key: "2", cap: "2", says: "what counts", rare: true, act: () => { left.value = "counts"; } },
  { key: "3", cap: "3", says: "marks", rare: true, act: () => { left.value = "marks"; } },
  { key: "r", cap: "R", says: "answers, or the proof", act: () => { right.value = right.value === "proof" ? "answers" : "proof"; } },
  { key: "f", cap: "F", says: "answers of another verdict", rare: true, act: () => answers.turnFilter() },
  { key: "Enter", cap: "⏎", says: "open the answer", rare: true, act: () => { if (right.value === "answers") open(answers.chosen.value?.id); } },
  { key: "Escape", cap: "Esc", says: "all exercises", act: () => void router.push({ name: "exercises" }) },
]);
</script>

<template>
  <StateNotice :alone="!exercise || !content" :waiting="isPending" :problem="error" @again="refetch()" />
  <main v-if="exercise && content" class="task exercise">
    <section class="ask" tabindex="0" aria-label="What is asked, what counts, marks">
      <h1 class="only-read-aloud">{{ content.title }}</h1>
      <h2 class="only-read-aloud">{{ LEFT.find((one) => one.value === left)?.label }}</h2>
      <ElSegmented v-model="left" :options="LEFT" aria-label="What the left side shows" class="turn" />
      <TaskPanel v-if="left === 'task'" v-model:content="content" :bench="bench" />
      <CountsPanel v-else-if="left === 'counts'" v-model:content="content" :bench="bench" />
      <MarksPanel v-else v-model:content="content" />
    </section>
    <section class="sheet middle">
      <h2 class="only-read-aloud">{{ OTHER_PARTS[shown] ?? parts.find((one) => one.value === shown)?.label }}</h2>
      <div class="tools">
        <ElSegmented v-model="part" :options="parts" aria-label="What the middle shows" />
        <span class="state" aria-live="polite">
          <span :class="saving === 'offline' ? 'problem' : 'quiet'">{{ state }}</span>
          <ElTooltip v-if="isChanged" :disabled="!exercise.drafted_at"
            :content="`draft of ${dayAndTime(exercise.drafted_at ?? new Date().toISOString())}`">
            <ElButton link @click="bench.discard()">discard</ElButton>
          </ElTooltip>
          <ElButton :type="(isChanged) ? 'primary' : ''" :disabled="!isChanged" @click="bench.keep()">Save</ElButton>
        </span>
      </div>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <ReferencePanel v-if="shown === 'reference'" ref="reference" v-model:content="content" :bench="bench" />
      <StepTrace v-else-if="shown === 'steps'" ref="steps" :on="{ sample: content.sample, dataset: 'open', engine: content.engine, mindsCase }"
        :sql="bench.looked.value?.reference ?? ''" />
      <AlsoPanel v-else-if="shown === 'also'" v-model:content="content" :bench="bench" />
      <SampleTables v-else-if="shown === 'tables'" :sample="content.sample" />
      <ExerciseVersions v-else-if="shown === 'versions'" ref="versions" :bench="bench" />
      <SpotPanel v-else-if="shown === 'spot'" v-model:content="content" :bench="bench" />
      <MeasurePanel v-else-if="shown === 'measure'" v-model:content="content" :bench="bench" />
      <TrialPanel v-else v-model:content="content" :bench="bench" />
    </section>
    <aside aria-label="The proof, and the answers">
      <ElSegmented v-model="right" :options="rightParts" aria-label="What the right side shows" class="turn" />
      <ProofPanel v-if="right === 'proof'" v-model:content="content" :bench="bench" />
      <AnswerList v-else v-model:filter="answers.filter.value" v-model:at="answers.chosenAt.value"
        :answers="answers.answers.value" :counts="exercise.counts" :points="exercise.content.points ?? 1" />
    </aside>
  </main>
</template>

<style scoped>
.exercise {
  grid-template-columns: clamp(270px, 24.7vw, 316px) 1fr clamp(260px, 24.7vw, 316px);
}

.turn {
  margin-bottom: 10px;
}

.middle {
  display: flex;
  flex-direction: column;
  overflow: hidden;
}

.tools {
  display: flex;
  flex: none;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 12px;
  margin-bottom: 8px;
}

.state {
  display: flex;
  align-items: center;
  gap: 8px;
  margin-left: auto;
}
</style>
