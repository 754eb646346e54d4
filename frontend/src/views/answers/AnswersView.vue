<script setup lang="ts">
import { computed, watch } from "vue";
import { useRouter } from "vue-router";

import { useDeskLines } from "../../api/marking";
import EmptyCourse from "../../components/notices/EmptyCourse.vue";
import StateNotice from "../../components/notices/StateNotice.vue";

/** Goes on to the first exercise with something to decide: that is where the work is. */
const router = useRouter();
const { data: lines, error, isPending, refetch } = useDeskLines();
const first = computed(
  () => lines.value?.find((one) => one.undecided)?.slug ?? lines.value?.find((one) => one.total)?.slug,
);

watch(
  first,
  (slug) => {
    if (slug) void router.replace({ name: "desk", params: { slug } });
  },
  { immediate: true },
);
</script>

<template>
  <main class="answers">
    <h1 v-if="lines && !first">No answers yet</h1>
    <h1 v-else class="only-read-aloud">Answers</h1>
    <StateNotice :waiting="isPending || Boolean(first)" :problem="error" @again="refetch()" />
    <EmptyCourse v-if="lines && !first" />
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
