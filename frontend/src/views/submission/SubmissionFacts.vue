<script setup lang="ts">
import { computed } from "vue";

import { placeOf } from "../../answer/place";
import type { Schemas } from "../../api/client";
import { useAnswerMarks } from "../../api/marking";
import MarkLedger from "../../components/verdict/MarkLedger.vue";
import SqlText from "../../components/sql/SqlText.vue";
import VerdictWord from "../../components/verdict/VerdictWord.vue";
import { dayAndTime } from "../../composables/words";

/** What is known about a submission: its text, its mark, and the reference answer. */
const props = defineProps<{ submission: Schemas["Submission"] }>();

const { data: marks } = useAnswerMarks(() => props.submission.id);

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
    <SqlText :sql="submission.sql" :engine="submission.engine" :mark="placeOf(submission)" class="query" />
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
    <p v-if="marks && marks.mark !== null" class="decided">Decided: <strong>{{ marks.mark }} of {{ submission.points }}</strong>
      <span v-if="marks.comment" class="comment">{{ marks.comment }}</span></p>
    <template v-if="marks?.events.length">
      <h3>History of the mark</h3>
      <ol class="events">
        <li v-for="(one, at) in marks.events" :key="at" :class="{ undone: one.undone_at }">{{ one.before ?? "–" }} → {{ one.mark }}
          <small>{{ one.by }}, {{ dayAndTime(one.at) }}<template v-if="one.joined">, with its group</template><template
            v-if="one.undone_at">, undone by {{ one.undone_by }}</template><template v-if="one.reason">: {{ one.reason }}</template></small></li>
      </ol>
    </template>
    <template v-if="marks?.questions.length">
      <h3>Questions</h3>
      <p v-for="one in marks.questions" :key="one.id"><b>{{ one.asked_by }}:</b> {{ one.text }}
        <small v-if="one.answered_at">{{ one.answered_by }}: {{ one.answer }}</small><small v-else>not answered yet</small></p>
    </template>
    <p><RouterLink :to="{ name: 'desk', params: { slug: submission.exercise } }">Decide at the marking desk</RouterLink></p>
    <h3>Reference answer</h3>
    <SqlText :sql="submission.reference" :engine="submission.engine" />
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

.decided {
  padding: 6px 0;
}

.comment,
.events small {
  display: block;
}

.events li {
  padding: 3px 0;
  border-top: 1px solid var(--line-soft);
}

.undone {
  color: var(--ink-3);
  text-decoration: line-through;
}

h3 {
  margin: 18px 0 6px;
}
</style>
