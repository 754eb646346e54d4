<script setup lang="ts">
import { computed, ref } from "vue";

import RegradeDialog from "../../answer/RegradeDialog.vue";
import type { ExerciseContent } from "../../api/exercises";
import VerdictWord from "../../components/verdict/VerdictWord.vue";
import { counted, VERDICT_WORDS } from "../../composables/words";
import BlindSpots from "./BlindSpots.vue";
import type { ExerciseBench } from "./use-exercise-bench";

/** Does this exercise work? Problems, warnings, trials, and the answers that would change. */
const props = defineProps<{ bench: ExerciseBench }>();
const content = defineModel<ExerciseContent>("content", { required: true });

const proof = computed(() => props.bench.proof.data.value);
const found = computed(() => props.bench.trials.data.value);
const changes = computed(() => props.bench.answers.data.value);
const byName = computed(() => new Map((found.value?.trials ?? []).map((one) => [one.name, one])));
const failing = computed(
  () => content.value.trials.filter((one) => byName.value.get(one.name)?.holds === false).length,
);
/** How many trials hold, how many do not, and how many nobody knows of. */
const standing = computed(() => {
  const holding = content.value.trials.filter((one) => byName.value.get(one.name)?.holds).length;
  const unknown = content.value.trials.length - holding - failing.value;
  return [
    holding || !unknown ? `${holding} hold` : "",
    failing.value ? `${failing.value} ${failing.value === 1 ? "does" : "do"} not` : "",
    unknown ? `${unknown} not run` : "",
  ].filter(Boolean).join(", ");
});
const isBusy = computed(
  () => props.bench.trials.isFetching.value || props.bench.answers.isFetching.value,
);
const trouble = computed(() => {
  if (proof.value?.problems.length) return proof.value.problems;
  return proof.value?.trouble ? [proof.value.trouble] : [];
});

function got(name: string): string {
  const trial = byName.value.get(name);
  if (!trial) return "not run";
  const actual = VERDICT_WORDS[trial.actual] ?? trial.actual;
  if (trial.holds) return `${actual}, as expected`;
  if (trial.actual === trial.expected) return `${trial.mark} points, should be another mark`;
  return `${actual}, should be ${VERDICT_WORDS[trial.expected] ?? trial.expected}`;
}

const outdated = computed(() => props.bench.exercise.value?.outdated ?? 0);
const isRegradeOpen = ref(false);
const canRegrade = computed(
  () => !props.bench.isChanged.value && (outdated.value > 0 || (changes.value?.changes.length ?? 0) > 0),
);
</script>

<template>
  <section aria-label="Does this exercise work?">
    <h2>Does it work? <small v-if="isBusy" aria-live="polite">looking …</small></h2>
    <template v-if="trouble.length">
      <h3>Not yet</h3>
      <ul class="trouble">
        <li v-for="problem in trouble" :key="problem">{{ problem }}</li>
      </ul>
    </template>
    <template v-else-if="found">
      <p v-if="!found.warnings.length && !failing && content.trials.length" class="fine">
        {{ counted(content.trials.length, "trial") }} hold, and there is nothing to warn of.
      </p>
      <template v-if="found.warnings.length">
        <h3>To know <small>{{ found.warnings.length }}</small></h3>
        <ul class="warnings">
          <li v-for="(warning, at) in found.warnings" :key="at">{{ warning.message }}</li>
        </ul>
      </template>
    </template>
    <h3>Trials <small v-if="content.trials.length">{{ standing }}</small>
      <ElButton link @click="bench.addTrial()">add one</ElButton>
    </h3>
    <ul class="trials choices">
      <li v-for="(trial, at) in content.trials" :key="at" :class="{ here: bench.shown.value === 'trial'
        && bench.trialAt.value === at }">
        <ElButton class="bare" @click="bench.openTrial(at)">
          <span>{{ trial.name }}</span>
          <span class="got" :class="{ fails: byName.get(trial.name)?.holds === false,
            waits: !byName.has(trial.name) }">{{ got(trial.name) }}</span>
        </ElButton>
      </li>
    </ul>
    <p v-if="!content.trials.length" class="quiet">
      A trial is an answer with the verdict that it ought to get: it runs again whenever data, reference or
      rules change.
    </p>
    <BlindSpots v-if="!trouble.length" :bench="bench" />
    <template v-if="changes && changes.answers">
      <h3>Answers <small>{{ changes.changes.length }} of {{ changes.answers }} would come out otherwise</small></h3>
      <ul v-if="changes.changes.length" class="changes">
        <li v-for="one in changes.changes.slice(0, 30)" :key="one.id">
          <RouterLink :to="{ name: 'submission', params: { id: one.id } }">{{ one.learner }}</RouterLink>
          <span><VerdictWord :verdict="one.before" /> → <VerdictWord :verdict="one.after" /></span>
          <small v-if="one.mark_before !== one.mark_after">{{ one.mark_before ?? "–" }} → {{ one.mark_after
          }}</small>
        </li>
      </ul>
      <p v-if="outdated" class="quiet">{{ counted(outdated, "answer") }} {{ outdated === 1 ? "was" : "were" }} graded before the
        exercise, its rows or the engine last changed.</p>
      <p v-if="canRegrade">
        <ElButton @click="isRegradeOpen = true">Preview regrade of {{ counted(changes.answers, "answer") }}</ElButton>
        <RegradeDialog v-model="isRegradeOpen" :slug="bench.slug.value" />
      </p>
      <p v-else-if="changes.changes.length" class="quiet">Save the exercise, then grade them anew.</p>
    </template>
  </section>
</template>

<style scoped>
/* Those of the blind spots are headings of this column too. */
section :deep(h3) {
  display: flex;
  align-items: baseline;
  gap: 6px;
  margin: 14px 0 3px;
}

section :deep(h3 .el-button) {
  margin-left: auto;
  font-weight: 400;
}

.trouble li,
.warnings li {
  padding: 4px 0 4px 10px;
  border-left: 3px double var(--due);
}

.trouble li {
  border-left-color: var(--stop);
}

.warnings li + li,
.trouble li + li {
  margin-top: 6px;
}

.fine {
  margin-top: 6px;
  color: var(--agree);
}

.here button {
  box-shadow: inset 3px 0 var(--given);
}

.got {
  margin-left: auto;
  color: var(--agree);
  font-size: var(--size-0);
}

.fails {
  color: var(--stop);
  font-weight: 700;
}

.waits {
  color: var(--ink-3);
}

.changes li {
  display: grid;
  grid-template-columns: 1fr max-content;
  gap: 0 8px;
  padding: 4px 0;
  border-top: 1px solid var(--line-soft);
}

.changes small {
  grid-column: 2;
  text-align: right;
}

p {
  margin-top: 6px;
}
</style>
