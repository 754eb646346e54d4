<script setup lang="ts">
import { refDebounced } from "@vueuse/core";
import { computed, ref, watch } from "vue";

import { useJudged } from "../../api/exercises";
import { useFunctions } from "../../api/queries";
import LayoutPair from "../../components/sql/LayoutPair.vue";
import MarkLedger from "../../components/verdict/MarkLedger.vue";
import SqlEditor from "../../components/sql/SqlEditor.vue";
import StandInText from "../../components/sql/StandInText.vue";
import VerdictWord from "../../components/verdict/VerdictWord.vue";
import WovenTable from "../../components/rows/WovenTable.vue";
import { counted } from "../../composables/words";
import type { ExerciseBench } from "./use-exercise-bench";

/** One query held against the exercise: its text, verdict, ledger, and its rows woven with what is due. */
const SAME_WORDS: Record<string, string> = {
  correct: "same", incorrect: "differs", undecided: "same rows, order unknown",
};
const props = defineProps<{ bench: ExerciseBench; label: string; alone?: boolean }>();
const sql = defineModel<string>({ required: true });

const dataset = ref("");
const settled = refDebounced(sql, 300);
const asked = computed(() => ({
  sql: settled.value, dataset: dataset.value, alone: props.alone ?? false,
}));
const { data: judged, error, refetch } = useJudged(props.bench.slug, props.bench.looked, asked);
const mark = computed(() =>
  judged.value?.place
    ? { ...judged.value.place, length: Math.max(judged.value.near.length, 1) }
    : null,
);
const counts = computed(() => (judged.value?.ledger.length ?? 0) > 1);
const seesLayout = ref(false);
const functions = useFunctions(() => props.bench.content.value?.engine ?? "sqlite");
watch(
  () => props.label,
  () => {
    dataset.value = "";
    seesLayout.value = false;
  },
);
</script>

<template>
  <SqlEditor v-model="sql" class="writing" :label="label" :tables="bench.schema.value" :functions="functions" :mark="mark"
    @run="refetch()" />
  <p v-if="error" class="problem said" role="alert">{{ error.message }}</p>
  <template v-else-if="judged">
    <p class="said">
      <VerdictWord :verdict="judged.verdict" />
      <span v-if="!alone && judged.verdict !== 'undecided'">{{ judged.mark }} of {{ counted(judged.points, "point") }}</span>
      <span v-for="one in judged.datasets" :key="one.name" class="dataset">
        <ElButton link :aria-pressed="one.name === judged.shown_dataset" :disabled="one.name === judged.shown_dataset" @click="dataset = one.name">{{
            one.is_open ? "open data" : one.name }}</ElButton>
        <small>{{ SAME_WORDS[one.verdict] ?? "" }}</small>
      </span>
      <ElButton v-if="judged.layout?.changes.length" link :aria-expanded="seesLayout" @click="seesLayout = !seesLayout">layout: {{
          counted(judged.layout.changes.length, "place") }}</ElButton>
    </p>
    <ul v-if="judged.findings.length" class="findings">
      <li v-for="(finding, at) in judged.findings.slice(0, 4)" :key="at">{{ finding.message }}</li>
    </ul>
    <StandInText :sql="judged.runs_as" :doubts="judged.doubts" />
    <MarkLedger v-if="counts && !alone" :lines="judged.ledger" />
    <LayoutPair v-if="seesLayout && judged.layout?.changes.length" :sql="sql" :layout="judged.layout"
      @take="sql = judged.layout.text" />
    <div class="rows" tabindex="0">
      <WovenTable v-if="judged.woven" :woven="judged.woven" :only-differences="false" />
    </div>
  </template>
</template>

<style scoped>
.writing {
  flex: none;
  min-height: 84px;
  max-height: 36%;
}

.said {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 14px;
  padding: 6px 0;
}

.dataset small {
  margin-left: 4px;
}

.el-button.is-link:disabled {
  color: var(--ink);
  text-decoration: none;
  font-weight: 650;
}

.findings li {
  padding: 1px 0;
  color: var(--ink-2);
}

.rows {
  flex: 1;
  min-height: 0;
  overflow: auto;
}

.rows :deep(thead th) {
  top: 0;
}
</style>
