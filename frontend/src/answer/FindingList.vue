<script setup lang="ts">
import type { Schemas } from "../api/client";
import VerdictWord from "../components/verdict/VerdictWord.vue";
import { counted } from "../composables/words";

/** The difference in words: what was found, and how each dataset came out. */
const props = defineProps<{ submission: Schemas["Submission"] }>();

function engineWords(finding: Schemas["FindingView"]): string {
  return typeof finding.evidence.engine === "string" ? finding.evidence.engine : "";
}

function rowsOf(one: Schemas["DatasetVerdict"]): string {
  if (one.given_rows === null || one.expected_rows === null) return "no rows given";
  return `${counted(one.given_rows, "row")} given, ${one.expected_rows} due`;
}

function measure(): string {
  const { answer } = props.submission;
  return answer === "reference" ? "the reference answer" : `the accepted alternative ${answer}`;
}
</script>

<template>
  <section class="words" aria-label="The difference in words">
    <h3>In words</h3>
    <p v-if="submission.verdict === 'correct'">The same result as {{ measure() }}.</p>
    <ul v-if="submission.findings.length">
      <li v-for="(finding, at) in submission.findings" :key="at">
        <span>{{ finding.message }}
          <small v-if="engineWords(finding)">In the engine's words: {{ engineWords(finding)
          }}</small></span>
        <code>{{ finding.code }}</code>
      </li>
    </ul>
    <template v-if="submission.datasets.length > 1">
      <h3>On each dataset</h3>
      <ul>
        <li v-for="one in submission.datasets" :key="one.name">
          <span>{{ one.is_open ? "open data" : one.name }} <small>{{ rowsOf(one) }}</small></span>
          <VerdictWord :verdict="one.verdict" />
        </li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
.words {
  margin-top: 18px;
}

h3 {
  margin: 12px 0 4px;
}

li {
  display: flex;
  align-items: baseline;
  justify-content: space-between;
  gap: 14px;
  padding: 5px 0;
  border-top: 1px solid var(--line-soft);
}

code {
  flex: none;
  color: var(--ink-3);
  font-size: var(--size-0);
}
</style>
