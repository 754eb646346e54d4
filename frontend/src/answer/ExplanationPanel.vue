<script setup lang="ts">
import { computed, ref, watch } from "vue";

import type { Schemas } from "../api/client";
import { useExplanation, useMadeRows, useTwoEdits } from "../api/explanations";
import ExampleRows from "../components/rows/ExampleRows.vue";
import ProseText from "../components/text/ProseText.vue";
import { counted } from "../composables/words";

/** What explains an answer: the edit that mends it, the rows that show it, or that it was right by luck. */
const props = defineProps<{ submission: Schemas["Submission"] }>();
const emit = defineEmits<{ regrade: [] }>();

const isExplained = computed(() => ["correct", "incorrect"].includes(props.submission.verdict));
const { data: found, isFetching, error } = useExplanation(() => props.submission.id, isExplained);
const { takeIn } = useMadeRows();
const two = useTwoEdits();
const taken = ref("");
const problem = ref("");
watch(() => props.submission.id, () => {
  taken.value = problem.value = "";
  two.reset();
});

/** The edits that mend it, each by itself; or two, one after the other. */
const edits = computed(() => (found.value?.near_misses.length ? found.value.near_misses : (two.data.value ?? [])));
const luck = computed(() => found.value?.luck);
const verdict = computed(() => {
  const one = luck.value;
  if (!one) return "";
  const tried = counted(one.tried, "made-up dataset");
  if (one.grade === "usual") return `Right by luck: on data like yours it gives another result than the reference. Found at the ${tried} tried.`;
  if (one.grade === "unusual") return "On data like yours nothing tells it from the reference; only rows of a kind that the open data never shows do.";
  return `Nothing tells it from the reference: ${tried} were tried. That is no proof.`;
});

async function take(): Promise<void> {
  problem.value = "";
  try {
    const made = await takeIn.mutateAsync({
      sample: props.submission.sample,
      wanted: { datasets: [found.value?.rows ?? []], into: "held-back", name: `luck-${props.submission.id}` },
    });
    taken.value = made.names.join(", ");
  } catch (refused) {
    problem.value = (refused as Error).message;
  }
}
</script>

<template>
  <section class="explained" aria-label="What explains it" aria-live="polite">
    <p v-if="!isExplained" class="quiet">There is nothing to explain: it gave no rows to compare.</p>
    <p v-else-if="error" class="problem" role="alert">{{ error.message }}</p>
    <p v-else-if="!found" class="quiet">{{ isFetching ? "Looking on made-up rows …" : "" }}</p>
    <template v-else>
      <p v-if="found.without" class="quiet">{{ found.without }}</p>
      <template v-if="submission.verdict === 'incorrect' && !found.without">
        <h3>{{ found.near_misses.length ? "One edit away" : "No single edit mends it" }}</h3>
        <p v-if="!found.near_misses.length" class="quiet">None of the single edits that were tried makes it right on the
          exercise's datasets and on made-up ones.</p>
        <p v-if="!found.near_misses.length && !two.data.value"><ElButton :disabled="two.isPending.value" @click="two.mutate(submission.id)">Look for
          two edits</ElButton> <small v-if="two.isPending.value" role="status">looking …</small></p>
        <p v-else-if="two.data.value && !two.data.value.length" class="quiet">No two edits were found either.</p>
        <ol v-if="edits.length" class="near">
          <li v-for="(one, at) in edits" :key="at">
            <p class="edit"><small>line {{ one.line }}</small>
              <del v-if="one.old.trim()">{{ one.old.trim() }}</del><span v-if="one.old.trim() && one.new.trim()" aria-label="becomes">→</span><ins
                v-if="one.new.trim()">{{ one.new.trim() }}</ins><span v-if="!one.new.trim()">left out</span><span v-if="!one.old.trim()">added</span>
              <small v-if="one.borrows" class="borrows">borrows from the reference</small></p>
            <p v-if="at === 0 || two.data.value"><ProseText :text="one.mistake" /></p>
          </li>
        </ol>
      </template>
      <p v-if="luck" :class="{ lucky: luck.grade === 'usual', quiet: luck.grade !== 'usual' }">{{ verdict }}</p>
      <ExampleRows v-if="found.example" :example="found.example" :texts="[submission.sql, submission.reference]">
        <template v-if="luck && found.rows.length">
          <span v-if="taken" role="status">taken in as {{ taken }} <ElButton @click="emit('regrade')">Preview regrade</ElButton></span>
          <ElButton v-else :disabled="takeIn.isPending.value" @click="take">Take in as a held-back dataset</ElButton>
        </template>
      </ExampleRows>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    </template>
  </section>
</template>

<style scoped>
.explained {
  display: grid;
  gap: 8px;
}

.near {
  display: grid;
  gap: 6px;
}

.edit {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 8px;
}

del,
ins {
  padding: 0 5px;
  border-left: 2px solid var(--given);
  color: var(--given);
  font: 12.5px / 1.6 var(--data);
  text-decoration: none;
  white-space: pre-wrap;
}

ins {
  border-left: 3px double var(--due);
  color: var(--due);
}

.borrows {
  padding: 0 5px;
  border: 1px dashed var(--ink-3);
}

.lucky {
  padding: 5px 8px;
  border-left: 3px double var(--due);
  background: var(--due-wash);
}
</style>
