<script setup lang="ts">
import { computed } from "vue";

import type { Schemas } from "../../api/client";
import MarkLedger from "../../components/MarkLedger.vue";
import SqlText, { type SqlMark } from "../../components/SqlText.vue";
import VerdictWord from "../../components/VerdictWord.vue";
import { dayAndTime } from "../../composables/words";

/** What is known about a submission: its text, its mark, and the reference answer. */
const props = defineProps<{ submission: Schemas["Submission"] }>();

const place = computed<SqlMark | null>(() => {
  for (const { evidence } of props.submission.findings) {
    if (typeof evidence.line === "number" && typeof evidence.column === "number") {
      const near = typeof evidence.near === "string" ? evidence.near.length : 1;
      const length = typeof evidence.length === "number" ? evidence.length : near;
      return { line: evidence.line, column: evidence.column, length: Math.max(length, 1) };
    }
  }
  return null;
});

const outdatedWords = computed(() => {
  const { graded_version: then, version: now } = props.submission;
  return then > 0 && then !== now
    ? `it was graded by version ${then} of the exercise, which has version ${now} by now.`
    : "the rows, the exercise or the engine were others when it was graded.";
});
</script>

<template>
  <aside aria-label="What is known about this answer">
    <h2>{{ submission.learner }}</h2>
    <p class="quiet">handed in {{ dayAndTime(submission.submitted_at) }}</p>
    <SqlText :sql="submission.sql" :mark="place" class="query" />
    <p class="outcome">
      <VerdictWord :verdict="submission.verdict" />
      <span v-if="submission.mark !== null">{{ submission.undecided ? "?" : submission.mark }} of
        {{ submission.points }}</span>
    </p>
    <p v-if="submission.problem" class="to-decide">{{ submission.problem }}</p>
    <p v-if="submission.outdated" class="to-decide">Out of date: {{ outdatedWords }} The table shows what is due
      now; grade the answers again on the exercise's page.</p>
    <p v-if="submission.undecided" class="to-decide">This one is yours to decide: {{ submission.undecided }}.
      By itself it would earn {{ submission.mark }}.</p>
    <MarkLedger v-if="submission.ledger.length > 1" :lines="submission.ledger" />
    <p v-if="submission.late && submission.late.share === 1">Late on {{ submission.late.sheet }}, where late answers
      count in full.</p>
    <p v-else-if="submission.late">Late on {{ submission.late.sheet }}: {{ Math.round(submission.late.share * 100) }} %
      of the mark counts, <strong>{{ submission.late.mark }} of {{ submission.points }}</strong>.</p>
    <h3>Reference answer</h3>
    <SqlText :sql="submission.reference" />
  </aside>
</template>

<style scoped>
.query {
  margin: 8px 0 10px;
}

.outcome {
  display: flex;
  justify-content: space-between;
  padding-bottom: 6px;
  border-bottom: 1.5px solid var(--ink);
  font-size: var(--size-2);
  font-weight: 650;
}

.to-decide {
  padding: 6px 0;
  border-bottom: 1px dashed var(--ink-2);
}

h3 {
  margin: 18px 0 6px;
}
</style>
