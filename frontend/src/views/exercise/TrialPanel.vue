<script setup lang="ts">
import { computed } from "vue";

import type { ExerciseContent } from "../../api/exercises";
import { VERDICT_WORDS } from "../../composables/words";
import AnswerPanel from "./AnswerPanel.vue";
import type { ExerciseBench } from "./use-exercise-bench";

/** One trial answer, and the verdict that it ought to get. */
const props = defineProps<{ bench: ExerciseBench }>();
const content = defineModel<ExerciseContent>("content", { required: true });

const VERDICTS = ["correct", "incorrect", "error", "refused", "stopped"] as const;
const trial = computed(() => content.value.trials[props.bench.trialAt.value]);

function remove(): void {
  content.value.trials.splice(props.bench.trialAt.value, 1);
  props.bench.closeTrial();
}

/** The hints that are there, and room for one more, up to three. */
const MOST_WORDS = 3;
const words = computed(() => {
  const said = trial.value?.words ?? [];
  return said.length < MOST_WORDS ? [...said, ""] : said;
});

function say(at: number, text: string): void {
  if (!trial.value) return;
  const said = [...words.value];
  said[at] = text.trim();
  trial.value.words = said.filter(Boolean);
}

function expectMark(mark: number | undefined): void {
  if (trial.value) trial.value.mark = mark ?? null;
}
</script>

<template>
  <template v-if="trial">
    <p class="name">
      <label>called <ElInput v-model.lazy.trim="trial.name" /></label>
      <span class="labelled">ought to be
        <ElSelect v-model="trial.expected" aria-label="ought to be">
          <ElOption v-for="one in VERDICTS" :key="one" :value="one" :label="VERDICT_WORDS[one]" />
        </ElSelect></span>
      <label>and earn <ElInputNumber :controls="false" class="few" :min="0" placeholder="any" :model-value="trial.mark ?? undefined" @change="expectMark($event)" /></label>
      <ElButton link @click="remove">remove</ElButton>
    </p>
    <details v-if="trial.expected !== 'correct' || trial.mark != null" class="words" :open="Boolean(trial.words?.length)">
      <summary>Words for learners whose answer behaves the same
        <small>{{ trial.words?.length ? "they open them one by one, the first one first" : "none yet" }}</small></summary>
      <ElInput v-for="(one, at) in words" :key="at" :model-value="one" type="textarea" :rows="1" autosize maxlength="2000"
        :aria-label="`hint ${at + 1} of this trial`" :placeholder="at ? 'and more, if they ask again' : 'a first hint'" @change="say(at, String($event))" />
    </details>
    <AnswerPanel :key="bench.trialAt.value" v-model="trial.sql" :bench="bench" :label="`trial ${trial.name}`" />
  </template>
</template>

<style scoped>
.name {
  display: flex;
  flex: none;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 12px;
  margin-bottom: 6px;
}

.name .el-select {
  --el-select-width: 104px;
}

.words {
  flex: none;
  margin-bottom: 6px;
}

.words summary {
  cursor: pointer;
}

.words > .el-textarea {
  margin-top: 4px;
}

.few {
  width: 58px;
}
</style>
