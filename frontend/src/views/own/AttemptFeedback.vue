<script setup lang="ts">
import type { Schemas } from "../../api/client";
import MarkLedger from "../../components/MarkLedger.vue";
import { deadline } from "../../composables/words";

/** What came of an attempt, as far as the exercise tells. */
defineProps<{ feedback: Schemas["FeedbackView"]; zone: string }>();
const emit = defineEmits<{ take: [] }>();
</script>

<template>
  <section class="came" aria-label="What came of it" aria-live="polite">
    <p v-if="feedback.attempt.verdict === 'waiting'">It is being graded …</p>
    <p v-else-if="feedback.opens">It is graded. What came of it is told from {{ deadline(feedback.opens, zone)
    }} on.</p>
    <p v-else-if="feedback.attempt.verdict === 'undecided'">Your answer runs, and waits for your instructor: whether
      it is right cannot be told by running it alone.</p>
    <template v-else>
      <p v-if="feedback.attempt.verdict === 'correct'" class="right">This is right.</p>
      <ul v-if="feedback.findings.length">
        <li v-for="(one, at) in feedback.findings" :key="at">{{ one.message }}
          <small v-if="one.line">line {{ one.line }}, column {{ one.column }}</small></li>
      </ul>
      <p v-else-if="feedback.attempt.verdict === 'incorrect'">This is not what is due.</p>
      <p v-if="feedback.hint" class="hint"><b>Hint</b> {{ feedback.hint }}</p>
      <MarkLedger v-if="feedback.ledger.length" :lines="feedback.ledger" />
    </template>
    <ElButton link @click="emit('take')">Edit this text</ElButton>
  </section>
</template>

<style scoped>
.came {
  display: grid;
  gap: 8px;
  justify-items: start;
  margin-top: 10px;
}

.right {
  color: var(--agree);
  font-weight: 650;
}

li {
  padding: 4px 0;
  border-top: 1px solid var(--line);
}

ul {
  width: 100%;
}

small {
  display: block;
}

.hint {
  padding: 6px 8px;
  border-left: 3px solid var(--due);
  background: var(--due-wash);
}
</style>
