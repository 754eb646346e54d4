<script setup lang="ts">
import { computed, ref } from "vue";

import type { ExerciseContent } from "../../api/exercises";
import AnswerPanel from "./AnswerPanel.vue";
import type { ExerciseBench } from "./use-exercise-bench";

/** The accepted alternatives, each held against the reference answer alone. */
const props = defineProps<{ bench: ExerciseBench }>();
const content = defineModel<ExerciseContent>("content", { required: true });

const at = ref(0);
const chosen = computed(() => content.value.alternatives[at.value]);

function add(): void {
  const names = new Set(content.value.alternatives.map((one) => one.name));
  let number = names.size + 1;
  while (names.has(`way ${number}`)) number += 1;
  content.value.alternatives.push({ name: `way ${number}`, sql: content.value.reference });
  at.value = content.value.alternatives.length - 1;
}

function remove(): void {
  content.value.alternatives.splice(at.value, 1);
  at.value = Math.max(0, at.value - 1);
}

function verdict(name: string): string {
  const found = props.bench.proof.data.value?.alternatives.find((one) => one.name === name);
  if (!found) return "";
  return found.verdict === "correct" ? "same rows" : found.verdict === "incorrect" ? "other rows" : "does not run";
}
</script>

<template>
  <p class="ways">
    <ElButton v-for="(one, place) in content.alternatives" :key="place" class="bare way"
      :class="{ here: place === at }" :aria-pressed="place === at" @click="at = place">{{ one.name }}
      <small :class="{ problem: verdict(one.name) !== 'same rows' }">{{ verdict(one.name) }}</small></ElButton>
    <ElButton link @click="add">add a way</ElButton>
  </p>
  <template v-if="chosen">
    <p class="name">
      <label>called <ElInput v-model.lazy.trim="chosen.name" /></label>
      <ElButton link @click="remove">remove</ElButton>
    </p>
    <AnswerPanel v-model="chosen.sql" :bench="bench" :label="`also right: ${chosen.name}`" alone />
  </template>
  <p v-else class="quiet">
    Another way that is right too: an answer that matches it on every dataset is correct. It need not give
    the reference's rows.
  </p>
</template>

<style scoped>
.ways,
.name {
  display: flex;
  flex: none;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 12px;
  margin-bottom: 6px;
}

.way {
  padding: 2px 8px;
  border: 1px solid var(--line);
  border-radius: var(--radius);
  background: none;
  color: var(--ink);
  font: inherit;
  cursor: pointer;
}

.here {
  border-color: var(--ink);
  font-weight: 650;
}
</style>
