<script setup lang="ts">
import { computed, ref, watch } from "vue";

import type { Schemas } from "../api/client";
import { type StepsOn, useStepRows, useTrace } from "../api/steps";
import DataTable from "../components/rows/DataTable.vue";
import { counted } from "../composables/words";
import StepRows from "./StepRows.vue";
import { flatten, keysOf, partnersOf, STEP_NAMES, tableOf, type TracedQuery } from "./trace";

/** A query step by step: each with its rows, nested queries as traces of their own. */
const props = defineProps<{ on: StepsOn; sql: string }>();

const { data: trace, error, isPending } = useTrace(() => props.on, () => props.sql);
const queries = computed<TracedQuery[]>(() => (trace.value ? flatten(trace.value) : []));
const queryAt = ref(0);
const stepAt = ref(0);
const query = computed(() => queries.value[queryAt.value]);
const step = computed<Schemas["Step"] | undefined>(() => query.value?.trace.steps[stepAt.value]);
const before = computed(() => {
  const found = query.value?.trace.steps[stepAt.value - 1];
  return found?.kind === "group" ? (found.parts.rows ?? null) : (found?.rows ?? null);
});
/** Of WHERE and HAVING: only the rows that were kept, false or unknown. */
const TRUTHS = [
  { name: "kept", says: "kept: the condition is true" },
  { name: "false", says: "false" },
  { name: "unknown", says: "unknown" },
] as const;
const only = ref<"" | "kept" | "false" | "unknown">("");
const { data: rows, isFetching: isReading } = useStepRows(() => props.on, step, only);
watch(step, () => {
  only.value = "";
});

watch(
  () => props.sql,
  () => {
    queryAt.value = 0;
    stepAt.value = 0;
  },
);

function open(at: number): void {
  queryAt.value = at;
  stepAt.value = 0;
}

/** Goes on through the steps, and from the last of a query to the next query. */
function move(by: number): void {
  const steps = query.value?.trace.steps.length ?? 0;
  const next = stepAt.value + by;
  if (next >= 0 && next < steps) {
    stepAt.value = next;
    return;
  }
  const to = queryAt.value + by;
  if (!queries.value[to]) return;
  queryAt.value = to;
  stepAt.value = by > 0 ? 0 : Math.max(0, (queries.value[to]?.trace.steps.length ?? 1) - 1);
}

function told(one: Schemas["Step"], trace: Schemas["Trace"]): string {
  if (one.rows === null) return "not counted";
  if (one.kind === "group") return counted(one.rows, "group");
  // A row of what SELECT gives is a group, until one of the steps after it looks at rows again.
  if (one.kind === "select" && trace.steps.some((each) => each.kind === "group")) return counted(one.rows, "group");
  if (one.kind === "having") return `${counted(one.rows, "group")} kept`;
  if (one.kind === "where") return `${counted(one.rows, "row")} kept`;
  if (one.beside === "round") return `${counted(one.rows, "row")} in ${counted(one.parts.rounds ?? 0, "round")}`;
  return counted(one.rows, "row");
}

defineExpose({ move });
</script>

<template>
  <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
  <p v-else-if="isPending && sql.trim()" class="quiet">Taking it apart …</p>
  <div v-else-if="trace" class="trace">
    <nav aria-label="Steps">
      <template v-for="(one, at) in queries" :key="at">
        <h3 :style="{ paddingLeft: `${one.depth * 12}px` }">
          <ElButton class="bare" :class="{ here: at === queryAt }" @click="open(at)">{{ one.words }}</ElButton>
        </h3>
        <p v-if="one.trace.note" class="quiet" :style="{ paddingLeft: `${one.depth * 12}px` }">{{
          one.trace.note }}</p>
        <ol :style="{ paddingLeft: `${one.depth * 12}px` }">
          <li v-for="(each, place) in one.trace.steps" :key="place">
            <ElButton class="bare" :aria-current="at === queryAt && place === stepAt ? 'step' : undefined"
              :class="{ here: at === queryAt && place === stepAt }"
              @click="queryAt = at; stepAt = place">
              <b>{{ STEP_NAMES[each.kind] }} <i>{{ tableOf(each) }}</i></b><span>{{ told(each, one.trace) }}</span>
            </ElButton>
          </li>
        </ol>
      </template>
    </nav>
    <section class="rows" tabindex="0" aria-label="The rows at this step">
      <template v-if="step">
        <pre class="clause">{{ step.clause }}</pre>
        <p v-if="step.problem" class="problem">{{ step.problem }}</p>
        <p v-else-if="step.beside === 'truth'" class="parts">
          <ElButton v-for="one in TRUTHS" :key="one.name" class="bare truth" :class="one.name"
            :aria-pressed="only === one.name" :disabled="!step.parts[one.name]"
            @click="only = only === one.name ? '' : one.name"><b>{{
              (step.parts[one.name] ?? 0).toLocaleString("en") }}</b> {{ one.says }}</ElButton>
        </p>
        <p v-else-if="step.beside === 'group'" class="parts"><span>{{ counted(step.parts.rows ?? 0, "row") }}
          in {{ counted(step.rows ?? 0, "group") }}</span></p>
        <p v-else-if="before !== null && step.rows !== null && step.kind !== 'operand'" class="parts">
          <span>{{ before.toLocaleString("en") }} → <b>{{ step.rows.toLocaleString("en") }}</b> rows</span>
          <span v-if="step.kind === 'join'" class="partners">{{ partnersOf(step, before) }}</span></p>
        <StepRows v-if="rows?.result && (step.beside || rows.told.length)" :result="rows.result" :beside="rows.beside"
          :kind="step.beside" :keys="keysOf(step)" :told="step.told" :values="rows.told" />
        <DataTable v-else-if="rows?.result" :result="rows.result" label="Rows at this step" />
        <p v-else-if="rows?.message" class="problem">{{ rows.message }}</p>
        <p v-else-if="isReading" class="quiet">Reading the rows …</p>
      </template>
      <p v-else class="quiet">{{ query?.trace.note }}</p>
    </section>
  </div>
  <p v-else class="quiet">There is no query yet.</p>
</template>

<style scoped>
.trace {
  flex: 1;
  display: grid;
  grid-template-columns: 196px 1fr;
  gap: 16px;
  min-height: 0;
}

nav,
.rows {
  min-width: 0;
  overflow: auto;
}

h3 {
  margin-top: 10px;
}

h3:first-child {
  margin-top: 0;
}

nav button {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  width: 100%;
  min-height: 24px;
  padding: 3px 6px;
  border: 0;
  border-left: 3px solid transparent;
  background: none;
  color: var(--ink);
  font: inherit;
  text-align: left;
  cursor: pointer;
}

nav b {
  font: 700 12px var(--data);
}

nav i {
  font-style: normal;
  font-weight: 400;
}

nav span {
  color: var(--ink-2);
  font-size: var(--size-0);
  white-space: nowrap;
}

nav li {
  border-left: 1px solid var(--due);
}

nav li .here {
  border-left-color: var(--due);
  background: var(--due-wash);
}

h3 .here {
  color: var(--due);
}

h3 button {
  font-weight: 650;
  padding-left: 0;
}

.clause {
  padding: 6px 8px;
  border: 1px solid var(--line);
  background: var(--paper);
  font: 12.5px / 1.5 var(--data);
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}

.parts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  padding: 6px 0;
}

.partners {
  color: var(--ink-2);
}

.truth {
  padding: 1px 8px;
  border: 1px solid var(--line);
  border-radius: var(--radius);
  background: none;
  color: var(--ink);
  font: inherit;
  cursor: pointer;
}

.truth:disabled {
  color: var(--ink-3);
  cursor: default;
}

.truth[aria-pressed="true"] {
  border-color: var(--due);
  background: var(--due-wash);
}

.truth.unknown b {
  border-bottom: 2px dotted var(--ink-3);
}

.rows :deep(td) {
  white-space: nowrap;
}

/* A value breaks only where it is too long for any column: dates stay in one line. */
.rows :deep(.value) {
  display: inline-block;
  width: max-content;
  max-width: 40ch;
}

.rows :deep(th) {
  background: var(--sheet);
  z-index: 1;
}
</style>
