<script setup lang="ts">
import { computed, nextTick, useTemplateRef, watch } from "vue";
import { useRoute } from "vue-router";

import { useOwnCourse } from "../../api/own";
import { useCourseTitle } from "../../composables/use-page-title";
import AccountLink from "./AccountLink.vue";

/** The bar of a learner's pages: the course, and the exercises of the sheet at hand as their path. */
const route = useRoute();
const title = useCourseTitle();
const { data } = useOwnCourse();
const sheet = computed(() => data.value?.sheets.find((one) => one.slug === route.params.sheet));
const path = useTemplateRef<HTMLElement>("path");

const STATES = { right: "right", tried: "not right yet", untouched: "not begun" };

function state(line: { best: { verdict: string } | null; attempts: number }): keyof typeof STATES {
  if (line.best && ["correct", "undecided"].includes(line.best.verdict)) return "right";
  return line.attempts ? "tried" : "untouched";
}

watch(
  () => [route.params.slug, sheet.value],
  async () => {
    await nextTick();
    path.value?.querySelector(".here")?.scrollIntoView({ block: "nearest", inline: "center" });
  },
);
</script>

<template>
  <header class="bar">
    <RouterLink class="word" :to="{ name: 'courses' }">Jentrow</RouterLink>
    <RouterLink class="course" :to="{ name: 'own' }">{{ sheet?.title ?? data?.title ?? title ?? "The course" }}</RouterLink>
    <nav v-if="sheet" ref="path" aria-label="The exercises of the sheet">
      <RouterLink v-for="line in sheet.exercises" :key="line.slug"
        :to="{ name: 'own-exercise', params: { sheet: sheet.slug, slug: line.slug } }"
        :class="{ here: line.slug === route.params.slug }">
        <i :class="state(line)" aria-hidden="true" />{{ line.title }}
        <span class="only-read-aloud">({{ STATES[state(line)] }})</span>
      </RouterLink>
    </nav>
    <AccountLink />
  </header>
</template>

<style scoped>
nav {
  display: flex;
  flex: 1;
  min-width: 0;
  overflow-x: auto;
  scrollbar-width: none;
}

nav a {
  position: relative;
  display: flex;
  flex: none;
  align-items: center;
  gap: 7px;
  padding: 0 12px;
  color: var(--bar-ink-2);
  text-decoration: none;
  white-space: nowrap;
}

i {
  width: 9px;
  height: 9px;
  border: 1.5px solid var(--bar-ink-3);
}

.right,
.untouched {
  transform: rotate(45deg);
}

.right {
  background: var(--bar-ink-2);
}

.tried {
  border-radius: 50%;
}

@media (max-width: 600px) {
  nav {
    display: none;
  }
}
</style>
