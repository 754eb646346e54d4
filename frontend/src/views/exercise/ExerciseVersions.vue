<script setup lang="ts">
import { ref } from "vue";

import { useExerciseDifference, useExerciseVersions } from "../../api/exercises";
import TextDifference from "../../components/text/TextDifference.vue";
import VersionList from "../../components/lists/VersionList.vue";
import { useVersionChoice } from "../../composables/use-version-choice";
import { dayAndTime } from "../../composables/words";
import type { ExerciseBench } from "./use-exercise-bench";

/** The versions of an exercise: who kept them and when, any two compared, any brought back. */
const props = defineProps<{ bench: ExerciseBench }>();

const { data: versions, error } = useExerciseVersions(props.bench.slug);
const { chosen, against, last, between, step } = useVersionChoice(versions, true);
const { data: parts } = useExerciseDifference(props.bench.slug, between);
const problem = ref("");

async function restore(): Promise<void> {
  problem.value = "";
  await props.bench.restore(chosen.value).catch((refused: Error) => {
    problem.value = refused.message;
  });
}

defineExpose({ step });
</script>

<template>
  <div class="versions">
    <VersionList v-slot="{ version }" v-model="chosen" :versions="versions" :against="against">{{
      [version.by, dayAndTime(version.made_at)].filter(Boolean).join(", ") }}</VersionList>
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

.versions > * {
  min-width: 0;
  overflow: auto;
}

.tools {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 10px;
  margin-bottom: 10px;
}

.tools .el-button {
  margin-left: auto;
}
</style>
