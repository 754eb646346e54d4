<script setup lang="ts">
import { nextTick, ref, watch } from "vue";

import { useExercise } from "../../api/queries";
import VerdictBar from "../../components/verdict/VerdictBar.vue";
import VerdictWord from "../../components/verdict/VerdictWord.vue";
import { counted } from "../../composables/words";

/** The other answers to the same exercise. */
const props = defineProps<{ exercise: string; title: string; current: number }>();
const { data } = useExercise(() => props.exercise);

const list = ref<HTMLElement>();
watch(
  [() => props.current, data],
  async () => {
    await nextTick();
    list.value?.querySelector(".chosen")?.scrollIntoView({ block: "nearest" });
  },
  { immediate: true },
);
</script>

<template>
  <nav aria-label="Answers to this exercise">
    <h1>
      <RouterLink :to="{ name: 'exercise', params: { slug: exercise } }">{{ title }}</RouterLink>
    </h1>
    <template v-if="data">
      <p class="quiet under">{{ counted(data.submissions.length, "answer") }} · {{ counted(data.content.points ?? 0, "point") }}</p>
      <VerdictBar :counts="data.counts" />
      <ol ref="list">
        <li v-for="answer in data.submissions" :key="answer.id"
          :class="{ chosen: answer.id === current }">
          <RouterLink :to="{ name: 'submission', params: { id: answer.id } }" replace
            :aria-current="answer.id === current ? 'page' : undefined">
            <span class="who">{{ answer.learner }}</span>
            <VerdictWord :verdict="answer.verdict" />
          </RouterLink>
        </li>
      </ol>
    </template>
  </nav>
</template>

<style scoped>
h1 a {
  color: inherit;
  text-decoration: none;
}

h1 a:hover {
  text-decoration: underline;
}

.under {
  margin: 2px 0 8px;
}

ol {
  margin-top: 10px;
}

li a {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  padding: 6px;
  border-top: 1px solid var(--line);
  color: inherit;
  text-decoration: none;
}

.who {
  overflow-wrap: anywhere;
}

/* Where everything stands below one another, the answer must not stand below all their names. */
@media (max-width: 900px) {
  ol {
    max-height: 118px;
    overflow: auto;
  }
}

.chosen a {
  margin-right: calc(-1 * var(--edge));
  padding: 6px var(--edge) 6px 10px;
  background: var(--sheet);
  box-shadow: inset 3px 0 var(--given);
}
</style>
