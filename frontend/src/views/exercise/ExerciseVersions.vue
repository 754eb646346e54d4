<script setup lang="ts">
import { computed, ref, watch } from "vue";

import { useExerciseDifference, useExerciseVersions } from "../../api/exercises";
import TextDifference from "../../components/TextDifference.vue";
import { dayAndTime } from "../../composables/words";
import type { ExerciseBench } from "./use-exercise-bench";

/** The versions of an exercise: who kept them and when, any two compared, any brought back. */
const props = defineProps<{ bench: ExerciseBench }>();

const { data: versions, error } = useExerciseVersions(props.bench.slug);
const chosen = ref(0);
const against = ref(0);
const last = computed(() => versions.value?.[0]?.number ?? 0);
watch(
  last,
  (number) => {
    chosen.value = number;
    against.value = Math.max(1, number - 1);
  },
  { immediate: true },
);
const between = computed(() => ({
  older: Math.min(chosen.value, against.value),
  newer: Math.max(chosen.value, against.value),
}));
const { data: parts } = useExerciseDifference(props.bench.slug, between);
const problem = ref("");

async function restore(): Promise<void> {
  problem.value = "";
  await props.bench.restore(chosen.value).catch((refused: Error) => {
    problem.value = refused.message;
  });
}

function step(by: number): void {
  chosen.value = Math.min(Math.max(chosen.value - by, 1), last.value);
  against.value = Math.max(1, chosen.value - 1);
}

defineExpose({ step });
</script>

<template>
  <div class="versions">
    <ol aria-label="Versions">
      <li v-for="one in versions" :key="one.number" :class="{ chosen: one.number === chosen }">
        <button type="button" :aria-current="one.number === chosen"
          @click="chosen = one.number; against = Math.max(1, one.number - 1)">
          <b>{{ one.number }}</b>
          <span>{{ one.summary }}<small>{{ one.by }}, {{ dayAndTime(one.made_at) }}</small></span>
        </button>
      </li>
    </ol>
    <section aria-label="What differs">
      <p v-if="error || problem" class="problem" role="alert">{{ error?.message ?? problem }}</p>
      <p class="tools">
        <span class="labelled">from <ElSelect v-model="against" aria-label="compared with version">
          <ElOption v-for="one in versions" :key="one.number" :value="one.number" :label="`version ${one.number}`" />
        </ElSelect></span>
        <strong>to version {{ chosen }}</strong>
        <ElButton :disabled="chosen === last" @click="restore">
          Bring version {{ chosen }} back</ElButton>
      </p>
      <TextDifference v-if="between.older < between.newer" :parts="parts ?? []"
        :before="`v. ${between.older}`" :after="`v. ${between.newer}`" />
      <p v-else class="quiet">{{ last > 1 ? "Choose another version to compare with." : "There is one version so far." }}</p>
    </section>
  </div>
</template>

<style scoped>
.versions {
  flex: 1;
  display: grid;
  grid-template-columns: 220px 1fr;
  gap: 16px;
  min-height: 0;
}

ol,
section {
  min-width: 0;
  overflow: auto;
}

li button {
  display: grid;
  grid-template-columns: 22px 1fr;
  gap: 8px;
  width: 100%;
  padding: 6px;
  border: 0;
  border-top: 1px solid var(--line-soft);
  background: none;
  color: var(--ink);
  font: inherit;
  text-align: left;
  cursor: pointer;
}

li small {
  display: block;
}

.chosen button {
  background: var(--paper);
  box-shadow: inset 3px 0 var(--given);
}

.tools {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-bottom: 10px;
}

.tools .el-button {
  margin-left: auto;
}
</style>
