<script setup lang="ts">
import { computed, watch } from "vue";
import { useRouter } from "vue-router";

import { useExercise, useExercises } from "../../api/queries";
import EmptyCourse from "../../components/EmptyCourse.vue";
import StateNotice from "../../components/StateNotice.vue";

/** Goes on to the first answer that is not right: that is where the work is. */
const router = useRouter();
const { data: exercises, error, isPending, refetch } = useExercises();
const first = computed(
  () => exercises.value?.find((one) => one.counts.total > one.counts.correct)?.slug
    ?? exercises.value?.find((one) => one.counts.total)?.slug,
);
const { data: exercise } = useExercise(first);

watch(
  exercise,
  (found) => {
    const id = (
      found?.submissions.find((one) => one.verdict !== "correct") ?? found?.submissions[0]
    )?.id;
    if (id !== undefined) void router.replace({ name: "submission", params: { id } });
  },
  { immediate: true },
);
</script>

<template>
  <main class="answers">
    <StateNotice :waiting="isPending || Boolean(first)" :problem="error" @again="refetch()" />
    <template v-if="exercises && !first">
      <h1>No answers yet</h1>
      <EmptyCourse />
    </template>
  </main>
</template>

<style scoped>
.answers {
  flex: 1;
  overflow: auto;
  padding: 14px var(--edge);
  background: var(--sheet);
}

h1 {
  margin-bottom: 10px;
}
</style>
