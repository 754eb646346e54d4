<script setup lang="ts">
import { computed, ref } from "vue";

import type { ExerciseContent, Feedback } from "../../api/exercises";
import { useSamples } from "../../api/samples";
import DataTable from "../../components/rows/DataTable.vue";
import ProseText from "../../components/text/ProseText.vue";
import TextEditor from "../../components/text/TextEditor.vue";
import { counted } from "../../composables/words";
import EngineChoice from "./EngineChoice.vue";
import type { ExerciseBench } from "./use-exercise-bench";

/** What is asked: title, points, tags, sample, prompt, and what learners see of the result. */
const props = defineProps<{ bench: ExerciseBench }>();
const content = defineModel<ExerciseContent>("content", { required: true });
const { data: samples } = useSamples();

const isWriting = ref(!content.value.prompt.trim());
const names = computed(() => {
  const tables = props.bench.sample.value?.tables ?? [];
  return [...new Set(tables.flatMap((one) => [one.name, ...one.columns.map((c) => c.name)]))];
});
const shown = computed(() => content.value.feedback.expected ?? {});

function show(name: string, value: unknown): void {
  content.value.feedback = { ...content.value.feedback, expected: { ...shown.value, [name]: value } };
}

function tell(change: Feedback): void {
  content.value.feedback = { ...content.value.feedback, ...change };
}

const seen = computed(() => props.bench.proof.data.value?.shown);
const heldBack = computed(() => (props.bench.exercise.value?.datasets.length ?? 1) - 1);
</script>

<template>
  <div class="task-panel">
    <label class="whole"><span class="only-read-aloud">title</span>
      <ElInput v-model="content.title" class="title" placeholder="Title" /></label>
    <p class="line">
      <label>points <ElInputNumber v-model="content.points" :controls="false" class="few" :min="0.01" /></label>
      <span class="labelled">sample
        <ElSelect v-model="content.sample" aria-label="sample">
          <ElOption v-for="one in samples" :key="one.name" :value="one.name" :label="one.name" />
        </ElSelect></span>
    </p>
    <EngineChoice v-model="content" :slug="bench.exercise.value?.slug ?? ''" />
    <span class="labelled line grow">tags
      <ElInputTag v-model="content.tags" aria-label="tags" placeholder="joins, NULL" :trigger="'Enter'" /></span>
    <h3>Prompt
      <ElButton link @click="isWriting = !isWriting">
        {{ isWriting ? "done" : "write" }}</ElButton>
    </h3>
    <TextEditor v-if="isWriting" v-model="content.prompt" label="prompt" :names="names"
      hint="What learners are asked, in Markdown" />
    <ProseText v-if="content.prompt.trim()" :text="content.prompt" />
    <h3>Learners see of the result</h3>
    <p class="checks">
      <ElCheckbox :model-value="shown.columns" @change="show('columns', Boolean($event))">column names</ElCheckbox>
      <ElCheckbox :model-value="shown.row_count" @change="show('row_count', Boolean($event))">how many rows</ElCheckbox>
    </p>
    <p class="line">
      <span class="labelled">rows
        <ElSelect aria-label="rows" :model-value="shown.rows ?? 'none'" @change="show('rows', $event)">
          <ElOption value="none" label="none" />
          <ElOption value="first" label="the first" />
          <ElOption value="all" label="all" />
        </ElSelect></span>
      <label v-if="shown.rows === 'first'"><span class="only-read-aloud">how many</span>
        <ElInputNumber :controls="false" class="few" :min="1" :max="100" :model-value="shown.first ?? 3" @change="show('first', Number($event))" /></label>
    </p>
    <div v-if="seen && (seen.columns || seen.row_count !== null)" class="glimpse"
      aria-label="As learners see it">
      <p v-if="seen.row_count !== null" class="quiet">{{ counted(seen.row_count, "row") }} due</p>
      <DataTable v-if="seen.result" :result="seen.result" label="What learners see" />
      <p v-else-if="seen.columns" class="names"><code v-for="(name, at) in seen.columns" :key="at">{{ name
      }}</code></p>
    </div>
    <h3>After handing in they are told</h3>
    <p class="told">
      <span class="labelled"><ElSelect aria-label="how much" :model-value="content.feedback.level ?? 'kind'" @change="tell({ level: $event })">
          <ElOption value="verdict" label="the verdict alone" />
          <ElOption value="kind" label="the kind of difference" />
          <ElOption value="rows" label="the rows that differ" />
        </ElSelect></span>
      <span class="labelled"><ElSelect aria-label="when" :model-value="content.feedback.when ?? 'at_once'" @change="tell({ when: $event })">
          <ElOption value="at_once" label="at once" />
          <ElOption value="after_close" label="after the sheet closes" />
        </ElSelect></span>
    </p>
    <p class="checks"><ElCheckbox :model-value="content.feedback.steps ?? true" @change="tell({ steps: $event ? undefined : false })">may see their own query step by step</ElCheckbox></p>
    <p class="checks"><ElCheckbox :model-value="content.feedback.example ?? false" @change="tell({ example: $event ? true : undefined })">see made-up rows that show it</ElCheckbox></p>
    <p class="told"><span class="labelled">one edit away:
        <ElSelect aria-label="how much of the edit that mends it" :model-value="content.feedback.near_miss ?? 'none'" @change="tell({ near_miss: $event === 'none' ? undefined : $event })">
          <ElOption value="none" label="no hint" />
          <ElOption value="kind" label="the kind of mistake" />
          <ElOption value="where" label="and its place" />
          <ElOption value="what" label="and what to write" />
        </ElSelect></span>
      <span v-if="content.feedback.near_miss" class="after">after
        <ElInputNumber :controls="false" class="few" :min="1" :max="100" :model-value="content.feedback.near_miss_after ?? 1" aria-label="wrong answers before the edit is hinted at" @change="tell({ near_miss_after: Number($event) || 1 })" /> wrong</span></p>
    <p v-if="content.feedback.near_miss" class="checks"><ElCheckbox :model-value="content.feedback.borrowed ?? false" @change="tell({ borrowed: $event ? true : undefined })">also where it gives away a part of the reference</ElCheckbox></p>
    <label class="hint">a hint <span v-if="content.feedback.hint" class="after">after
      <ElInputNumber :controls="false" class="few" :min="1" :max="100" :model-value="content.feedback.hint_after ?? 1" aria-label="wrong answers before the hint" @change="tell({ hint_after: Number($event) || 1 })" /> wrong</span>
      <ElInput type="textarea" :rows="2" maxlength="2000" placeholder="none" :model-value="content.feedback.hint ?? ''" @change="tell({ hint: String($event) })" /></label>
    <p class="quiet">Graded on the open data{{ heldBack > 0 ? ` and ${counted(heldBack, "held-back dataset")}`
      : " alone" }}.</p>
  </div>
</template>

<style scoped>
.task-panel {
  display: flex;
  flex-direction: column;
  gap: 8px;
}

.title {
  width: 100%;
  font-size: var(--size-3);
  font-weight: 650;
}

.line {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 12px;
  color: var(--ink-2);
}

.line .quiet {
  margin-left: auto;
}

.grow .el-input-tag {
  flex: 1;
}

.few {
  width: 58px;
}

h3 {
  display: flex;
  justify-content: space-between;
  margin-top: 6px;
}

.checks {
  display: flex;
  gap: 14px;
}

.hint {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: 4px 8px;
  color: var(--ink-2);
}

.told {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 6px;
}

.told .labelled {
  flex-wrap: wrap;
}

.told .labelled,
.told .el-select {
  --el-select-width: 100%;
  width: 100%;
}

.glimpse {
  padding: 6px 8px;
  border-left: 3px solid var(--due);
  background: var(--sheet);
  overflow-x: auto;
}

.names {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
}

.lacks li {
  padding: 3px 0;
  border-top: 1px solid var(--line-soft);
}
</style>
