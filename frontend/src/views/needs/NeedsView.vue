<script setup lang="ts">
import { computed } from "vue";
import { useRouter } from "vue-router";

import { useFailingTrials, useNeeds } from "../../api/marking";
import { useAbout, useExercises } from "../../api/queries";
import EmptyCourse from "../../components/notices/EmptyCourse.vue";
import StateNotice from "../../components/notices/StateNotice.vue";
import { useKeys } from "../../composables/use-keys";
import NeedList from "../marks/NeedList.vue";

/** The front page of a course: what waits for somebody, what holds something up first. */
const router = useRouter();
const { data: about } = useAbout();
const { data: needs, isPending, error, refetch } = useNeeds();
const { data: trials, isPending: areTrialsRunning } = useFailingTrials();
const { data: exercises } = useExercises();
const urgent = computed(() => [...(needs.value ?? []).filter((one) => one.urgent), ...(trials.value ?? [])]);
const rest = computed(() => (needs.value ?? []).filter((one) => !one.urgent));

useKeys([
  { key: "Enter", cap: "⏎", says: "the first of them", act: () => document.querySelector<HTMLElement>(".needs [data-next] :is(a, button)")?.click() },
  { key: "e", cap: "E", says: "exercises", act: () => void router.push({ name: "exercises" }) },
  { key: "a", cap: "A", says: "answers", act: () => void router.push({ name: "answers" }) },
  { key: "m", cap: "M", says: "marks", act: () => void router.push({ name: "marks" }) },
]);
</script>

<template>
  <main class="front sheet">
    <h1>What needs you <small>{{ about?.course }}</small></h1>
    <StateNotice :waiting="isPending" :problem="error" @again="refetch()" />
    <EmptyCourse v-if="exercises && !exercises.length" />
    <div v-else-if="needs" class="columns">
      <section aria-label="What holds something up">
        <h2>Holds something up</h2>
        <NeedList v-if="urgent.length" :needs="urgent" />
        <p v-else class="quiet">{{ areTrialsRunning ? "Running the trials …" : "Nothing. Every question is answered, every trial holds." }}</p>
      </section>
      <section aria-label="What can wait">
        <h2>Can wait</h2>
        <NeedList v-if="rest.length" :needs="rest" :leads="!urgent.length" />
        <p v-else class="quiet">Nothing more.</p>
      </section>
    </div>
  </main>
</template>

<style scoped>
.front {
  flex: 1;
  padding: 14px var(--edge);
  overflow: auto;
  background: var(--sheet);
}

.columns {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(420px, 100%), 1fr));
  gap: 10px 48px;
  max-width: 1160px;
  margin-top: 12px;
}

h2 {
  padding-bottom: 6px;
}
</style>
