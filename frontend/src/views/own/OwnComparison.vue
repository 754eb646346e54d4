<script setup lang="ts">
import { computed, ref } from "vue";

import type { Schemas } from "../../api/client";
import { type OwnPlace, useOwnComparison } from "../../api/own";
import { linesOf } from "../../components/text/text-lines";
import TextMerge from "../../components/text/TextMerge.vue";
import VerdictWord from "../../components/verdict/VerdictWord.vue";
import WovenTable from "../../components/rows/WovenTable.vue";

/** Two texts of a learner's own side by side: what came of each, what changed, and the rows of both. */
const props = defineProps<{
  place: OwnPlace;
  attempts: Schemas["Attempt"][];
  /** What stands in the editor, and the attempt that is looked at. */
  text: string;
  chosen: number | undefined;
}>();

const NOW = 0;
interface Side {
  id: number;
  label: string;
  sql: string;
  attempt?: Schemas["Attempt"];
}
const sides = computed((): Side[] => [
  ...[...props.attempts].reverse().map((one) => ({ id: one.id, label: `attempt ${one.number}`, sql: one.sql, attempt: one })),
  { id: NOW, label: "the text now", sql: props.text },
]);

/** At first: the attempt that is looked at, else the last one, against the text as it is now. */
const last = props.attempts.at(-1);
const before = props.attempts.at(-2);
const isWritten = Boolean(last && last.sql.trim() === props.text.trim());
const first = ref(props.chosen ?? (isWritten && before ? before.id : (last?.id ?? NOW)));
const second = ref(isWritten && last && last.id !== first.value ? last.id : NOW);

function side(id: number): Side | undefined {
  return sides.value.find((one) => one.id === id);
}
const pair = computed(() => [side(first.value), side(second.value)] as const);
const texts = computed(() => {
  const [one, other] = pair.value;
  return one && other && one.id !== other.id ? { first: one.sql, second: other.sql } : undefined;
});
const { data: found, error, isFetching } = useOwnComparison(() => props.place, texts);
const isSameText = computed(() => texts.value && linesOf(texts.value.first) === linesOf(texts.value.second));
</script>

<template>
  <section class="comparison" aria-label="Two texts compared" aria-live="polite">
    <p class="sides">
      <span class="labelled due">before
        <ElSelect v-model="first" aria-label="the first text"><ElOption v-for="one in sides" :key="one.id" :value="one.id" :label="one.label" /></ElSelect>
        <VerdictWord v-if="pair[0]?.attempt" :verdict="pair[0].attempt.verdict" /></span>
      <span class="labelled given">after
        <ElSelect v-model="second" aria-label="the second text"><ElOption v-for="one in sides" :key="one.id" :value="one.id" :label="one.label" /></ElSelect>
        <VerdictWord v-if="pair[1]?.attempt" :verdict="pair[1].attempt.verdict" /></span>
    </p>
    <p v-if="!texts" class="quiet">Choose two different texts.</p>
    <p v-else-if="error" class="problem" role="alert">{{ error.message }}</p>
    <p v-else-if="!found" class="quiet">{{ isFetching ? "Comparing …" : "One of the texts is empty." }}</p>
    <template v-else>
      <p>{{ found.same ? "Both give the same rows." : found.message }}</p>
      <p v-if="isSameText" class="quiet">The texts are the same, line by line.</p>
      <TextMerge v-else-if="texts" label="what changed in the text" :first="texts.first" :second="texts.second" before="out" after="in" is-sql />
      <WovenTable v-if="found.woven && !found.same" :woven="found.woven" :only-differences="false" due="before" given="after" />
    </template>
  </section>
</template>

<style scoped>
.comparison {
  display: grid;
  gap: 8px;
}

.sides {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
}

.sides .el-select {
  --el-select-width: 136px;
}

.due {
  padding-left: 6px;
  border-left: 3px solid var(--due);
}

.given {
  padding-left: 6px;
  border-left: 3px solid var(--given);
}
</style>
