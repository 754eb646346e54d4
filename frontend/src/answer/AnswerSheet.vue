<script setup lang="ts">
import { computed, useTemplateRef } from "vue";

import DataTable from "../components/rows/DataTable.vue";
import WovenTable from "../components/rows/WovenTable.vue";
import StandInText from "../components/sql/StandInText.vue";
import StepTrace from "../steps/StepTrace.vue";
import ExplanationPanel from "./ExplanationPanel.vue";
import FindingList from "./FindingList.vue";
import PartingView from "./PartingView.vue";
import type { AnswerSheetState } from "./use-answer-sheet";

/** The middle of whatever is about one answer: its rows woven with what is due, or its steps. */
const props = defineProps<{ sheet: AnswerSheetState; headline?: string }>();

const emit = defineEmits<{ regrade: [] }>();
const { submission, dataset, datasets, extent, view } = props.sheet;
const ran = computed(() => ["correct", "incorrect", "undecided"].includes(submission.value?.verdict ?? ""));

const EXTENTS = [
  { label: "all", value: "all" },
  { label: "differences", value: "differences" },
];
const VIEWS = [
  { label: "rows", value: "rows" },
  { label: "parting", value: "parting" },
  { label: "steps", value: "steps" },
  { label: "why", value: "why" },
];
const steps = useTemplateRef<InstanceType<typeof StepTrace>>("steps");

defineExpose({ moveStep: (by: number) => steps.value?.move(by) });
</script>

<template>
  <section v-if="submission" class="sheet answer">
    <div class="tools">
      <h2>{{ headline ?? sheet.headline.value }}</h2>
      <ElSegmented v-if="datasets.length > 1" v-model="dataset" :options="datasets" aria-label="Dataset" />
      <ElSegmented v-if="ran" v-model="view" :options="VIEWS" aria-label="Rows or steps" />
      <ElSegmented v-if="submission.woven && view === 'rows'" v-model="extent" :options="EXTENTS"
        aria-label="Which rows" />
    </div>
    <StandInText :sql="submission.runs_as" :doubts="submission.doubts" />
    <StepTrace v-if="ran && view === 'steps'" ref="steps" class="steps" :sql="submission.sql"
      :on="{ sample: submission.sample, dataset, engine: submission.engine, mindsCase: submission.minds_case }" />
    <ExplanationPanel v-else-if="ran && view === 'why'" :key="submission.id" :submission="submission" @regrade="emit('regrade')" />
    <PartingView v-else-if="ran && view === 'parting'" :slug="submission.exercise" :answer="submission.id"
      :dataset="dataset" />
    <WovenTable v-else-if="submission.woven" :key="submission.id" :woven="submission.woven"
      :only-differences="extent === 'differences'" can-show-all @all="sheet.showAll()" />
    <template v-else-if="submission.expected">
      <FindingList :submission="submission" />
      <p class="quiet said">The query gave no rows to compare. This is what is due:</p>
      <DataTable :result="submission.expected" label="What is due" />
    </template>
    <FindingList v-if="submission.woven && view !== 'why'" :submission="submission" />
  </section>
</template>

<style scoped>
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
