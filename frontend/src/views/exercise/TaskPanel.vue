<script setup lang="ts">
import { computed, ref } from "vue";

import type { ExerciseContent, Feedback } from "../../api/exercises";
import { useSamples } from "../../api/samples";
import DataTable from "../../components/DataTable.vue";
import ProseText from "../../components/ProseText.vue";
import TextEditor from "../../components/TextEditor.vue";
import { counted } from "../../composables/words";
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
const tags = computed({
  get: () => content.value.tags.join(", "),
  set: (text: string) => {
    content.value.tags = text.split(",").map((tag) => tag.trim()).filter(Boolean);
  },
});
const shown = computed(() => content.value.feedback.expected ?? {});

function show(name: string, value: unknown): void {
  content.value.feedback = { ...content.value.feedback, expected: { ...shown.value, [name]: value } };
}

function tell(change: Feedback): void {
  content.value.feedback = { ...content.value.feedback, ...change };
}

function chosen(event: Event): never {
  return (event.target as HTMLSelectElement).value as never;
}
const seen = computed(() => props.bench.proof.data.value?.shown);
const heldBack = computed(() => (props.bench.exercise.value?.datasets.length ?? 1) - 1);
</script>

<template>
  <div class="task-panel">
    <label class="whole"><span class="only-read-aloud">title</span>
      <input v-model="content.title" class="field title" placeholder="Title"></label>
    <p class="line">
      <label>points <input v-model.number="content.points" class="field few" type="number" min="0.01"
        step="any"></label>
      <label>sample
        <select v-model="content.sample" class="field">
          <option v-for="one in samples" :key="one.name">{{ one.name }}</option>
        </select></label>
      <span class="quiet">SQLite {{ bench.exercise.value?.engine_version }}</span>
    </p>
    <label class="line grow">tags <input v-model.lazy="tags" class="field" placeholder="joins, NULL"></label>
    <h3>Prompt
      <button type="button" class="word-button" @click="isWriting = !isWriting">
        {{ isWriting ? "done" : "write" }}</button>
    </h3>
    <TextEditor v-if="isWriting" v-model="content.prompt" label="prompt" :names="names"
      hint="What learners are asked, in Markdown" />
    <ProseText v-if="content.prompt.trim()" :text="content.prompt" />
    <h3>Learners see of the result</h3>
    <p class="checks">
      <label><input type="checkbox" :checked="shown.columns"
        @change="show('columns', ($event.target as HTMLInputElement).checked)"> column names</label>
      <label><input type="checkbox" :checked="shown.row_count"
        @change="show('row_count', ($event.target as HTMLInputElement).checked)"> how many rows</label>
    </p>
    <p class="line">
      <label>rows
        <select class="field" :value="shown.rows ?? 'none'"
          @change="show('rows', ($event.target as HTMLSelectElement).value)">
          <option value="none">none</option>
          <option value="first">the first</option>
          <option value="all">all</option>
        </select></label>
      <label v-if="shown.rows === 'first'"><span class="only-read-aloud">how many</span>
        <input class="field few" type="number" min="1" max="100" :value="shown.first ?? 3"
          @change="show('first', Number(($event.target as HTMLInputElement).value))"></label>
    </p>
    <div v-if="seen && (seen.columns || seen.row_count !== null)" class="glimpse"
      aria-label="As learners see it">
      <p v-if="seen.row_count !== null" class="quiet">{{ counted(seen.row_count, "row") }} due</p>
      <DataTable v-if="seen.result" :result="seen.result" label="What learners see" />
      <p v-else-if="seen.columns" class="names"><code v-for="(name, at) in seen.columns" :key="at">{{ name
      }}</code></p>
    </div>
    <h3>After handing in they are told</h3>
    <p class="line">
      <label><span class="only-read-aloud">how much</span>
        <select class="field" :value="content.feedback.level ?? 'kind'"
          @change="tell({ level: chosen($event) })">
          <option value="verdict">the verdict alone</option>
          <option value="kind">the kind of difference</option>
          <option value="rows">the rows that differ</option>
        </select></label>
      <label><span class="only-read-aloud">when</span>
        <select class="field" :value="content.feedback.when ?? 'at_once'" @change="tell({ when: chosen($event) })">
          <option value="at_once">at once</option>
          <option value="after_close">after the sheet closes</option>
        </select></label>
    </p>
    <label class="hint">a hint <span v-if="content.feedback.hint" class="after">after
      <input class="field few" type="number" min="1" max="100" :value="content.feedback.hint_after ?? 1"
        aria-label="wrong answers before the hint"
        @change="tell({ hint_after: Number(($event.target as HTMLInputElement).value) || 1 })"> wrong</span>
      <textarea class="field" rows="2" maxlength="2000" placeholder="none" :value="content.feedback.hint ?? ''"
        @change="tell({ hint: ($event.target as HTMLTextAreaElement).value })" /></label>
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

.grow .field {
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

.hint textarea {
  width: 100%;
  resize: vertical;
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
</style>
