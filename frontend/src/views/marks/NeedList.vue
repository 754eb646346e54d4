<script setup lang="ts">
import { ref } from "vue";
import type { RouteLocationRaw } from "vue-router";

import type { Schemas } from "../../api/client";
import SheetDialog from "./SheetDialog.vue";

/** What waits for somebody, each with the one thing to do about it. */
type Need = Schemas["Need"];
const props = withDefaults(
  defineProps<{
    needs: Need[];
    /** Whether the first of them is what is to be done next. */
    leads?: boolean;
  }>(),
  { leads: true },
);

function isNext(at: number): boolean {
  return props.leads && at === 0;
}

const ACTS: Record<Need["kind"], string> = {
  question: "Answer", undecided: "Decide", outdated: "Regrade", contradicted: "Look", set_aside: "Look", trials: "Open",
  sheetless: "Choose a sheet",
  publish: "Publish", closing: "Open", silent: "Show",
};
const WHAT: Record<Need["kind"], string> = {
  question: "", undecided: "undecided in", outdated: "out of date in", contradicted: "contradicted in",
  sheetless: "on no sheet in", set_aside: "not graded in", trials: "trials do not hold in", publish: "answers decided of", closing: "", silent: "",
};

const sheetless = ref<Need>();

function placeOf(need: Need): RouteLocationRaw {
  switch (need.kind) {
    case "question":
      return { name: "desk", params: { slug: need.exercise }, query: { answer: String(need.submission) } };
    case "set_aside":
      return { name: "submission", params: { id: need.submission } };
    case "undecided":
    case "contradicted":
      return { name: "desk", params: { slug: need.exercise } };
    case "outdated":
      return { name: "desk", params: { slug: need.exercise }, query: { do: "regrade" } };
    case "trials":
      return { name: "exercise", params: { slug: need.exercise } };
    case "closing":
      return { name: "sheets", query: { sheet: need.sheet } };
    case "silent":
      return { name: "marks", query: { state: "missing" } };
    default:
      return { name: "marks", query: { publish: need.sheet } };
  }
}
</script>

<template>
  <ol class="needs">
    <li v-for="(need, at) in needs" :key="at" :class="{ urgent: need.urgent }" :data-next="isNext(at) || undefined">
      <b class="count">{{ need.kind === "question" ? "?" : need.count }}</b>
      <span>{{ WHAT[need.kind] }}{{ " " }}<b>{{ need.title }}</b>
        <small class="says">{{ need.says }}</small></span>
      <ElButton v-if="need.kind === 'sheetless'" :type="isNext(at) ? 'primary' : undefined" @click="sheetless = need">{{ ACTS[need.kind] }}</ElButton>
      <RouterLink v-else class="button" :class="{ main: isNext(at) }" :to="placeOf(need)">{{ ACTS[need.kind] }}</RouterLink>
    </li>
  </ol>
  <SheetDialog v-if="sheetless" :need="sheetless" @close="sheetless = undefined" />
</template>

<style scoped>
li {
  display: grid;
  grid-template-columns: 40px 1fr auto;
  gap: 4px 8px;
  align-items: start;
  padding: 9px 0;
  border-top: 1px solid var(--line);
}

.count {
  color: var(--ink-3);
  font-size: var(--size-3);
  line-height: 1.2;
}

.urgent .count {
  color: var(--ink);
}

.says {
  display: block;
  overflow-wrap: anywhere;
}
</style>
