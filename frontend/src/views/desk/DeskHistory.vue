<script setup lang="ts">
import { computed, ref } from "vue";

import type { Schemas } from "../../api/client";
import ConfirmButton from "../../components/fields/ConfirmButton.vue";
import { counted, dayAndTime } from "../../composables/words";
import type { DecidingState } from "./use-deciding";
import type { DeskState } from "./use-desk";

/** Who decided what about this exercise's answers, and how often they were graded anew. */
const props = defineProps<{ desk: DeskState; deciding: DecidingState }>();
const isOpen = ref(false);
const found = computed(() => props.desk.desk.value);
const history = computed(() => found.value?.history ?? []);
const regrades = computed(() => found.value?.regrades ?? []);

function what(one: Schemas["DecisionLine"]): string {
  const mark = one.mark === null ? "the marks of grading" : `${one.mark} of ${found.value?.points ?? ""}`;
  const later = one.joined ? `, ${one.joined} of them joined` : "";
  return `${counted(one.count, "answer")}: ${mark}${later}`;
}
</script>

<template>
  <section v-if="history.length || regrades.length" class="history">
    <ElButton link :aria-expanded="isOpen" @click="isOpen = !isOpen">{{ isOpen ? "Hide history" : `Show history (${history.length +
      regrades.length})` }}</ElButton>
    <ol v-if="isOpen">
      <li v-for="one in history" :key="`d${one.id}`" :class="{ undone: one.undone_at }">
        <p>{{ what(one) }}</p>
        <p v-if="one.comment" class="comment">{{ one.comment }}</p>
        <p v-if="one.reason" class="quiet">Why: {{ one.reason }}</p>
        <p class="quiet">{{ one.by }}, {{ dayAndTime(one.at) }}<template v-if="one.undone_at">; undone by {{
          one.undone_by }}, {{ dayAndTime(one.undone_at) }}</template>
          <ElButton v-else link @click="deciding.undo(one)">Undo</ElButton></p>
      </li>
      <li v-for="one in regrades" :key="`r${one.id}`" :class="{ undone: one.undone_at }">
        <p>{{ counted(one.count, "answer") }} graded anew, by version {{ one.version }}</p>
        <p class="quiet">{{ one.by }}, {{ dayAndTime(one.at) }}<template v-if="one.undone_at">; taken back by {{
          one.undone_by }}</template>
          <ConfirmButton v-else question="Let the gradings stand again that did before?" yes="Take back"
            @confirm="deciding.attempt(() => deciding.changes.takeRegradeBack.mutateAsync({ slug: found!.slug, regrade: one.id }))">Take
            back</ConfirmButton></p>
      </li>
    </ol>
  </section>
</template>

<style scoped>
.history {
  margin-top: 14px;
}

li {
  padding: 6px 0;
  border-top: 1px solid var(--line-soft);
}

.undone p:first-child {
  text-decoration: line-through;
}

.comment {
  color: var(--ink-2);
}
</style>
