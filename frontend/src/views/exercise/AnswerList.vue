<script setup lang="ts">
import { computed, nextTick, ref, watch } from "vue";

import type { Schemas } from "../../api/client";
import VerdictWord from "../../components/verdict/VerdictWord.vue";
import type { VerdictFilter } from "./use-answers";

/** The answers to an exercise, narrowed to some verdicts. */
const props = defineProps<{
  answers: Schemas["SubmissionLine"][];
  counts: Schemas["VerdictCounts"];
  points: number;
}>();
const filter = defineModel<VerdictFilter>("filter", { required: true });
const at = defineModel<number>("at", { required: true });

const options = computed(() => {
  const { total, correct, incorrect, error, refused, stopped, undecided } = props.counts;
  return [
    { count: total, label: `all ${total}`, value: "all" },
    { count: correct, label: `${correct} right`, value: "correct" },
    { count: incorrect, label: `${incorrect} wrong`, value: "incorrect" },
    { count: undecided, label: `${undecided} undecided`, value: "undecided" },
    { count: error + refused + stopped, label: `${error + refused + stopped} not run`, value: "broken" },
  ].filter((one) => one.count || one.value === "all" || one.value === filter.value);
});

function markOf(answer: Schemas["SubmissionLine"]): string {
  if (answer.mark === null) return "–";
  return `${answer.verdict === "undecided" ? "?" : answer.mark} of ${props.points}`;
}

const list = ref<HTMLElement>();
watch(
  at,
  async () => {
    await nextTick();
    list.value?.querySelector(".chosen")?.scrollIntoView({ block: "nearest" });
  },
  { immediate: true },
);
</script>

<template>
  <section aria-label="Answers">
    <ElSegmented v-if="counts.total" v-model="filter" :options="options" aria-label="Which answers" class="filter" />
    <ol ref="list">
      <li v-for="(answer, place) in answers" :key="answer.id" :class="{ chosen: place === at }">
        <RouterLink :to="{ name: 'submission', params: { id: answer.id } }" @focus="at = place">
          <span class="who">{{ answer.learner }}</span>
          <VerdictWord :verdict="answer.verdict" />
          <small v-if="answer.summary" class="summary">{{ answer.summary }}</small>
          <span class="mark">{{ markOf(answer) }}</span>
        </RouterLink>
      </li>
    </ol>
    <p v-if="!answers.length" class="quiet">{{ counts.total ? "No answer came out so."
      : "No answers yet: they appear here when learners hand in, or when you import some." }}</p>
  </section>
</template>

<style scoped>
.filter {
  margin: 8px 0;
}

a {
  display: grid;
  grid-template-columns: 1fr auto 52px;
  gap: 0 10px;
  padding: 7px 6px;
  border-top: 1px solid var(--line);
  color: inherit;
  text-decoration: none;
}

a:hover .who {
  text-decoration: underline;
}

.chosen a {
  background: var(--sheet);
  box-shadow: inset 3px 0 var(--given);
  padding-left: 10px;
}

.mark {
  grid-column: 3;
  grid-row: 1;
  color: var(--ink-2);
  text-align: right;
}

.summary {
  grid-column: 1 / -1;
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  line-clamp: 2;
  overflow: hidden;
}
</style>
