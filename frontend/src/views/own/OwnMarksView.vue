<script setup lang="ts">
import { computed } from "vue";
import { useRoute, useRouter } from "vue-router";

import { courseAddress } from "../../api/client";
import { useAskAboutMark, useOwnMarks } from "../../api/own";
import FeedbackSheet from "../../components/verdict/FeedbackSheet.vue";
import StateNotice from "../../components/notices/StateNotice.vue";
import { useAttempt } from "../../composables/use-attempt";
import { useEvents } from "../../composables/use-events";
import { useKeys } from "../../composables/use-keys";

/** A learner's marks and comments on a sheet; they may ask about each. */
const route = useRoute();
const router = useRouter();
const sheet = computed(() => String(route.params.sheet));
const { data: page, isPending, error, refetch } = useOwnMarks(sheet);
useEvents(() => courseAddress("/own/events"), "news", () => void refetch()).listen();
const asking = useAskAboutMark();
const { problem, isBusy, attempt } = useAttempt();

function print(): void {
  window.print();
}

useKeys([
  { key: "p", cap: "P", says: "print", act: print },
  { key: "Escape", cap: "Esc", says: "your sheets", act: () => void router.push({ name: "own" }) },
]);
</script>

<template>
  <main class="own-marks" tabindex="0" aria-label="Marks and comments">
    <h1 class="only-read-aloud">Marks and comments</h1>
    <StateNotice :waiting="isPending" :problem="error" @again="refetch()" />
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <FeedbackSheet v-if="page" :page="page" can-ask :is-busy="isBusy"
      @ask="(submission, text) => attempt(() => asking.mutateAsync({ submission, text }))" />
  </main>
</template>

<style scoped>
.own-marks {
  position: relative;
  flex: 1;
  padding: 14px var(--edge);
  overflow: auto;
  background: var(--sheet);
}

@media print {
  .own-marks {
    overflow: visible;
  }
}
</style>
