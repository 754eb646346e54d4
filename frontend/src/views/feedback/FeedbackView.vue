<script setup lang="ts">
import { computed } from "vue";
import { useRoute, useRouter } from "vue-router";

import { useFeedbackPages } from "../../api/marking";
import FeedbackSheet from "../../components/verdict/FeedbackSheet.vue";
import StateNotice from "../../components/notices/StateNotice.vue";
import { useKeys } from "../../composables/use-keys";
import { usePageName, usePageTitle } from "../../composables/use-page-title";
import { counted } from "../../composables/words";

/** The feedback pages of a sheet, of one learner or of all, a page each when they are printed. */
const route = useRoute();
const router = useRouter();
const sheet = computed(() => String(route.params.sheet));
const learner = computed(() => (route.query.learner ? Number(route.query.learner) : undefined));
const { data: pages, isPending, error, refetch } = useFeedbackPages(sheet, learner);
usePageName(() => pages.value?.[0] && `Feedback on ${pages.value[0].title}`);
const title = usePageTitle();
const shown = computed(() =>
  learner.value === undefined
    ? (pages.value ?? []).filter((one) => one.exercises.some((each) => each.submission || each.state === "excused"))
    : (pages.value ?? []),
);

function print(): void {
  window.print();
}

useKeys([
  { key: "p", cap: "P", says: "print", act: print },
  { key: "Escape", cap: "Esc", says: "all marks", act: () => void router.push({ name: "marks" }) },
]);
</script>

<template>
  <main class="pages sheet" tabindex="0" aria-label="Feedback">
    <h1 class="only-read-aloud">{{ title }}</h1>
    <StateNotice :waiting="isPending" :problem="error" @again="refetch()" />
    <template v-if="pages">
      <p class="tools"><RouterLink :to="{ name: 'marks' }">Marks</RouterLink>
        <span class="quiet">{{ pages[0]?.published_at ? "Learners see this now." : "Learners see this when the sheet is published." }}</span>
        <RouterLink v-if="learner !== undefined" :to="{ name: 'feedback', params: { sheet } }">All learners of the sheet</RouterLink>
        <span v-else class="quiet">{{ counted(shown.length, "learner") }}</span>
        <ElButton @click="print">Print</ElButton></p>
      <FeedbackSheet v-for="one in shown" :key="one.learner_id" class="one" :page="one" />
    </template>
  </main>
</template>

<style scoped>
.pages {
  position: relative;
  flex: 1;
  padding: 14px var(--edge);
  overflow: auto;
  background: var(--sheet);
}

.tools {
  display: flex;
  align-items: baseline;
  gap: 14px;
  margin-bottom: 10px;
}

.one + .one {
  margin-top: 40px;
}

@media print {
  .tools {
    display: none;
  }

  .pages {
    overflow: visible;
  }

  .one + .one {
    break-before: page;
    margin-top: 0;
  }
}
</style>
