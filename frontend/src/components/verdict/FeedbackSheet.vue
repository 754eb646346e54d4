<script setup lang="ts">
import { computed, ref } from "vue";

import type { Schemas } from "../../api/client";
import { counted, dayAndTime } from "../../composables/words";
import MarkLedger from "./MarkLedger.vue";
import SqlText from "../sql/SqlText.vue";
import VerdictWord from "./VerdictWord.vue";

/** A learner's marks and comments on a sheet, as they see them; it prints on paper as it stands. */
const props = defineProps<{ page: Schemas["FeedbackPage"]; canAsk?: boolean; isBusy?: boolean }>();
const emit = defineEmits<{ ask: [submission: number, text: string] }>();

const STATES: Record<string, string> = {
  undecided: "not decided yet", waiting: "not graded yet", none: "not handed in", excused: "excused",
};
const asking = ref(0);
const text = ref("");

function ask(): void {
  emit("ask", asking.value, text.value);
  asking.value = 0;
  text.value = "";
}

const open = computed(() => new Set(
  props.page.exercises.filter((one) => one.questions.some((each) => each.by_learner && !each.answered_at)).map((one) => one.submission),
));
</script>

<template>
  <article class="feedback">
    <header>
      <h2>{{ page.title }}</h2>
      <p>{{ page.learner }} <small>{{ page.code }}</small></p>
      <p class="whole"><b>{{ page.mark }}</b> of {{ counted(page.points, "point") }}<template v-if="page.best_of">, the best
        {{ page.best_of }} exercises count</template></p>
    </header>
    <section v-for="one in page.exercises" :key="one.slug" class="exercise">
      <h3>{{ one.title }} <span class="mark"><b>{{ one.mark ?? "–" }}</b> of {{ one.points }}</span></h3>
      <p v-if="STATES[one.state]" class="quiet">{{ STATES[one.state] }}</p>
      <template v-if="one.submission">
        <p><VerdictWord :verdict="one.verdict" /><small v-if="one.late_days"> handed in {{ counted(one.late_days, "day") }} late</small></p>
        <p v-if="one.comment" class="comment">{{ one.comment }}</p>
        <SqlText :sql="one.sql" class="text" />
        <MarkLedger v-if="one.ledger.length > 1" :lines="one.ledger" />
        <p v-for="each in one.questions.filter((every) => every.by_learner)" :key="each.id" class="asked"><b>Asked:</b> {{ each.text }}<br>
          <template v-if="each.answered_at"><b>{{ each.answered_by }}:</b> {{ each.answer }} <small>{{ dayAndTime(each.answered_at) }}</small></template>
          <small v-else>not answered yet</small></p>
        <template v-if="canAsk && !open.has(one.submission)">
          <ElButton v-if="asking !== one.submission" link class="screen" @click="asking = one.submission">Ask about this mark</ElButton>
          <form v-else class="screen ask" @submit.prevent="ask">
            <ElInput v-model="text" type="textarea" :rows="2" aria-label="Your question" placeholder="What do you want to know about this mark?" />
            <ElButton native-type="submit" type="primary" :disabled="!text.trim() || isBusy">Send question</ElButton>
            <ElButton @click="asking = 0">Cancel</ElButton>
          </form>
        </template>
      </template>
    </section>
    <section v-if="page.extras.length" class="exercise">
      <h3>By hand</h3>
      <p v-for="one in page.extras" :key="one.id">{{ one.kind === "extra" ? `${one.points > 0 ? "+" : "−"}${Math.abs(one.points)} points` : `Excused from ${one.exercise}` }}:
        {{ one.reason }} <small>{{ one.by }}, {{ dayAndTime(one.at) }}</small></p>
    </section>
  </article>
</template>

<style scoped>
.feedback {
  max-width: 760px;
}

header {
  padding-bottom: 8px;
  border-bottom: 1.5px solid var(--ink);
}

.whole {
  margin-top: 4px;
  font-size: var(--size-2);
}

.exercise {
  padding: 10px 0;
  border-bottom: 1px solid var(--line);
  break-inside: avoid;
}

h3 {
  display: flex;
  justify-content: space-between;
  gap: 12px;
}

.mark {
  font-weight: 400;
  white-space: nowrap;
}

.comment {
  margin: 4px 0;
  padding-left: 10px;
  border-left: 3px double var(--due);
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}

.text {
  margin: 6px 0;
}

.asked {
  margin: 4px 0;
  padding-left: 10px;
  border-left: 2px solid var(--given);
  overflow-wrap: anywhere;
}

.ask .el-button {
  margin: 4px 6px 0 0;
}

@media print {
  .screen {
    display: none;
  }
}
</style>
