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

function expectMark(text: string): void {
  if (!trial.value) return;
  trial.value.mark = text === "" ? null : Number(text);
}
</script>

<template>
  <template v-if="trial">
    <p class="name">
      <label>called <input v-model.lazy.trim="trial.name" class="field"></label>
      <label>ought to be
        <select v-model="trial.expected" class="field">
          <option v-for="one in VERDICTS" :key="one" :value="one">{{ VERDICT_WORDS[one] }}</option>
        </select></label>
      <label>and earn <input class="field few" type="number" min="0" step="any" placeholder="any"
        :value="trial.mark ?? ''" @change="expectMark(($event.target as HTMLInputElement).value)"></label>
      <button type="button" class="word-button" @click="remove">remove</button>
    </p>
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

.few {
  width: 58px;
}
</style>
