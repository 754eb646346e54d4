<script setup lang="ts">
import { useMediaQuery } from "@vueuse/core";
import { computed } from "vue";
import { useRoute } from "vue-router";

import { useSheets } from "../../api/exercises";
import { useDeskLines } from "../../api/marking";
import { useLearners } from "../../api/people";
import { useAbout, useExercises } from "../../api/queries";
import { useSamples } from "../../api/samples";
import { useCourseTitle } from "../../composables/use-page-title";
import AccountLink from "./AccountLink.vue";
import GradingNotice from "./GradingNotice.vue";

const route = useRoute();
/** The bar has no room for everything. */
const isNarrow = useMediaQuery("(max-width: 1240px)");
const title = useCourseTitle();
const { data: about } = useAbout();
const { data: exercises } = useExercises();
const { data: samples } = useSamples();
const { data: sheets } = useSheets();
const { data: learners } = useLearners();

const { data: lines } = useDeskLines();
/** What waits there: answers to decide about, else all that there are. */
const answers = computed(() => {
  const open = (lines.value ?? []).reduce((sum, one) => sum + one.undecided, 0);
  if (open) return `${open} to decide`;
  return (exercises.value ?? []).reduce((sum, exercise) => sum + exercise.counts.total, 0) || undefined;
});
const engines = computed(() =>
  (about.value?.engines ?? []).map((engine) => `${engine.label} ${engine.version}`).join(", "),
);
const stops = computed(() => [
  { name: "samples", label: "Samples", count: samples.value?.length },
  { name: "exercises", label: "Exercises", count: exercises.value?.length },
  { name: "sheets", label: "Sheets", count: sheets.value?.length },
  { name: "answers", label: "Answers", count: answers.value },
  { name: "marks", label: "Marks", count: undefined },
]);
</script>

<template>
  <header class="bar">
    <RouterLink class="word" :to="{ name: 'courses' }">Jentrow</RouterLink>
    <ElTooltip :content="engines" placement="bottom">
      <RouterLink class="course" :class="{ here: route.meta.stop === 'needs' }" :to="{ name: 'needs' }">{{ about?.course ?? title ?? "The course" }}</RouterLink>
    </ElTooltip>
    <nav aria-label="The order of the work">
      <RouterLink v-for="stop in stops" :key="stop.name" :to="{ name: stop.name }"
        :class="{ here: route.meta.stop === stop.name }">
        {{ stop.label }} <span v-if="stop.count" class="count">{{ stop.count }}</span>
      </RouterLink>
    </nav>
    <GradingNotice v-if="!isNarrow" />
    <RouterLink class="people" :class="{ here: route.meta.stop === 'people' }" :to="{ name: 'people' }">People
      <span v-if="learners?.length" class="count">{{ learners.length }}</span></RouterLink>
    <AccountLink />
  </header>
  <GradingNotice v-if="isNarrow" class="below" />
</template>

<style scoped>
nav {
  display: flex;
  margin-right: auto;
  margin-left: 12px;
}

nav a,
.people {
  position: relative;
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 0 18px;
  color: var(--bar-ink-2);
  text-decoration: none;
}

nav a + a::before {
  content: "";
  position: absolute;
  left: -5px;
  top: 22px;
  width: 10px;
  height: 2px;
  background: var(--bar-line);
}

.course::after {
  display: none;
}

.bar + .below {
  flex: none;
  justify-content: flex-end;
  margin: 0;
  padding: 0 var(--edge) 8px;
  background: var(--bar);
}

.count {
  font-size: var(--size-0);
  color: var(--bar-ink-3);
}
</style>
