<script setup lang="ts">
import { useQueryClient } from "@tanstack/vue-query";
import { useEventListener, useLocalStorage } from "@vueuse/core";
import { computed, nextTick, ref, watch } from "vue";
import { useRouter } from "vue-router";

import type { Schemas } from "../../api/client";
import { useSample } from "../../api/samples";
import { traceQuery, useStepRows, useTrace } from "../../api/steps";
import type { Cell } from "../../components/rows/cells";
import { counted } from "../../composables/words";
import { plainName, tells } from "../../steps/row-words";
import { flatten, tableOf } from "../../steps/trace";
import AddedRows from "./AddedRows.vue";
import PathThreads from "./PathThreads.vue";
import { placeOfClause, usePresented } from "./present";
import PresentedRows from "./PresentedRows.vue";
import { sentenceOf } from "./step-sentence";

/** A query, its steps and the rows at each, large enough for the last row of a room. */
const router = useRouter();
const presented = usePresented();
const added = computed(() => presented.value.added ?? []);
const on = computed(() => ({
  sample: presented.value.sample, dataset: presented.value.dataset, engine: presented.value.engine, added: added.value,
  mindsCase: presented.value.mindsCase ?? false,
}));
const { data: trace, error, isPending } = useTrace(on, () => presented.value.sql);
const queries = computed(() => (trace.value ? flatten(trace.value) : []));
const query = computed(() => queries.value[queryAt.value]?.trace);
const steps = computed(() => query.value?.steps ?? []);
const queryAt = ref(0);
const at = ref(0);
const rowAt = ref(-1);
const areRowsHidden = ref(false);
const size = useLocalStorage("jentrow present size", 22);
const SMALLEST = 22;
const LARGEST = 40;

const step = computed(() => steps.value[at.value]);
const { data: rows } = useStepRows(on, step, "");
const result = computed(() => rows.value?.result);
watch(step, () => {
  rowAt.value = -1;
});

const isGrouped = computed(() => steps.value.some((one) => one.kind === "group"));
const told = computed(() =>
  steps.value.map((one) => {
    if (one.rows === null) return "not counted";
    const areGroups = one.kind === "group" || one.kind === "having" || (one.kind === "select" && isGrouped.value);
    return counted(one.rows, areGroups ? "group" : "row");
  }),
);

const sentence = computed(() =>
  step.value ? sentenceOf(step.value, steps.value[at.value - 1]?.rows ?? undefined, isGrouped.value) : "",
);

const MOST_THREADS = 24;
/** Above so many rows a thread stands for several. */
const rowsOfThread = computed(() =>
  Math.max(1, Math.ceil(Math.max(0, ...steps.value.map((one) => one.rows ?? 0)) / MOST_THREADS)),
);

/** The query's text in lines, those of the step's clause marked. */
const lines = computed(() => {
  // The whole query stands as it was written; one inside it as it was taken out.
  const isWhole = query.value?.role === "query" || !query.value;
  const text = (isWhole ? presented.value.sql : (query.value?.sql ?? "")).trim();
  const [start, end] = placeOfClause(text, step.value?.clause ?? "") ?? [-1, -1];
  let index = 0;
  return text.split("\n").map((line) => {
    const from = index;
    index += line.length + 1;
    return { text: line, isMarked: start >= 0 && from < end && from + line.length > start };
  });
});

const toldColumns = computed(() => (rows.value?.told.length ? (step.value?.told ?? []) : []));

/** Of the row that is looked at: what its condition, or its CASE, makes of it. */
const ofRow = computed(() => {
  if (rowAt.value < 0 || !toldColumns.value.length) return "";
  return toldColumns.value
    .map((one, place) => {
      const said = tells(one, (rows.value?.told[rowAt.value]?.[place] ?? null) as Cell);
      return `${one.text} ${one.what === "truth" ? "is" : "takes"} ${said}`;
    })
    .join(", ");
});

// rows that are added in class

const { data: sample } = useSample(() => presented.value.sample);
const baseTables = computed(() => (sample.value?.tables ?? []).filter((one) => one.kind === "table"));
/** The tables of the query first: rows of others rarely change what it gives. */
const tables = computed(() => {
  const named = new Set(queries.value.flatMap((one) => one.trace.steps.map((each) => tableOf(each).replace(/"/g, "").toLowerCase())));
  return [...baseTables.value].sort((one, other) => Number(named.has(other.name.toLowerCase())) - Number(named.has(one.name.toLowerCase())));
});
/** What is noted on the table that a step brings in. */
const note = computed(() => {
  const name = step.value ? tableOf(step.value).replace(/"/g, "").toLowerCase() : "";
  return baseTables.value.find((one) => one.name.toLowerCase() === name)?.note ?? "";
});
const isAdding = ref(false);
const client = useQueryClient();
async function take(row: Schemas["AddedRow"]): Promise<string> {
  const more = { ...on.value, added: [...added.value, row] };
  try {
    await client.fetchQuery(traceQuery(more, presented.value.sql));
  } catch (problem) {
    return problem instanceof Error ? problem.message : String(problem);
  }
  presented.value = { ...presented.value, added: more.added };
  return "";
}
function remove(at_: number): void {
  presented.value = { ...presented.value, added: added.value.filter((_, nth) => nth !== at_) };
}

/** Whether a row at this step comes of one that was added: what was typed of it stands there. */
function isAdded(at_: number): boolean {
  const found = result.value;
  if (!found || !added.value.length) return false;
  const names = found.columns.map(plainName);
  return added.value.some((row) => {
    const keys = baseTables.value.find((one) => one.name === row.table)?.primary_key ?? [];
    const asked = Object.entries(row.values).map(([column, value]) => [names.indexOf(column.toLowerCase()), value] as const);
    return (
      keys.length > 0 && keys.every((key) => row.values[key] !== undefined && names.includes(key.toLowerCase())) &&
      asked.every(([place, value]) => place < 0 || String(found.rows[at_]?.[place] ?? null) === String(value))
    );
  });
}

const grid = ref<HTMLElement>();
async function moveRow(by: number): Promise<void> {
  const most = (result.value?.rows.length ?? 0) - 1;
  rowAt.value = Math.min(Math.max(rowAt.value + by, 0), most);
  await nextTick();
  // Wide rows stay where they are sideways.
  const left = grid.value?.scrollLeft ?? 0;
  grid.value?.querySelector(".looked")?.scrollIntoView({ block: "nearest" });
  grid.value?.scrollTo({ left });
}

function move(by: number): void {
  at.value = Math.min(Math.max(at.value + by, 0), Math.max(steps.value.length - 1, 0));
}

function turnQuery(): void {
  if (queries.value.length < 2) return;
  queryAt.value = (queryAt.value + 1) % queries.value.length;
  at.value = 0;
}

/** Back to where it was opened; a page that was opened by its address has no such place. */
function close(): void {
  if (router.options.history.state.back) router.back();
  else void router.push({ name: "exercises" });
}

const KEYS = computed(() => presented.value.sql ? [
  { cap: "→", says: "next step" }, { cap: "←", says: "back" }, { cap: "↓", says: "next row" }, { cap: "+ −", says: "larger, smaller" },
  { cap: "A", says: isAdding.value ? "close the new row" : "add a row" },
  { cap: "H", says: areRowsHidden.value ? "show the rows" : "hide the rows" },
  ...(queries.value.length > 1 ? [{ cap: "N", says: "next query inside" }] : []),
  { cap: "Esc", says: "close" },
] : [{ cap: "Esc", says: "close" }]);

useEventListener(document, "keydown", (event: KeyboardEvent) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.target instanceof HTMLElement && event.target.closest("input, .el-popper")) return;
  const acts: Record<string, () => void> = {
    ArrowRight: () => move(1), " ": () => move(1), PageDown: () => move(1), ArrowLeft: () => move(-1), PageUp: () => move(-1),
    ArrowDown: () => void moveRow(1), ArrowUp: () => void moveRow(-1), Home: () => { at.value = 0; },
    "+": () => { size.value = Math.min(size.value + 2, LARGEST); }, "-": () => { size.value = Math.max(size.value - 2, SMALLEST); },
    h: () => { areRowsHidden.value = !areRowsHidden.value; }, n: turnQuery,
    a: () => { isAdding.value = !isAdding.value && tables.value.length > 0; },
    Escape: close,
  };
  const act = acts[event.key.length === 1 ? event.key.toLowerCase() : event.key];
  if (!act) return;
  event.preventDefault();
  act();
});
</script>

<template>
  <main class="present" :class="presented.side" :style="{ fontSize: `${size}px` }">
    <section v-if="!presented.sql" class="nothing">
      <h1>Nothing is presented yet</h1>
      <p>A query is presented from its place: open an exercise, or an answer, and press <kbd>B</kbd> there. Its steps and the
        rows at each are shown here, large enough for the last row of a room.</p>
      <p><ElButton type="primary" @click="router.push({ name: 'exercises' })">Open the exercises</ElButton></p>
    </section>
    <template v-else>
      <h1 class="only-read-aloud">A query, step by step</h1>
      <PathThreads v-if="steps.length" :steps="steps" :at="at" :told="told" :each="rowsOfThread" @choose="at = $event" />
      <p v-else-if="isPending" class="alone">Taking it apart …</p>
      <p v-else class="alone">{{ error?.message ?? query?.note ?? "" }}</p>
      <div class="two">
        <section class="query" tabindex="0" aria-label="The query">
          <p v-if="presented.prompt" class="prompt">{{ presented.prompt }}</p>
          <ol class="lines">
            <li v-for="(line, nth) in lines" :key="nth" :class="{ marked: line.isMarked }"><code>{{ line.text || " " }}</code></li>
          </ol>
          <p v-if="note" class="noted">{{ note }}</p>
          <p class="sentence" aria-live="polite"><template v-if="ofRow">This row: {{ ofRow }}.</template><template v-else>{{ sentence }}</template>{{ rowsOfThread > 1 ? ` A thread is ${rowsOfThread} rows.` : "" }}{{ added.length ? ` ${counted(added.length, "row")} added for now.` : "" }}</p>
        </section>
        <section ref="grid" class="rows" tabindex="0" aria-label="The rows at this step">
          <p v-if="step?.problem" class="problem">{{ step.problem }}</p>
          <PresentedRows v-else-if="result && step && !areRowsHidden" :result="result" :step="step" :beside="(rows?.beside ?? []) as Cell[]"
            :told="toldColumns" :values="(rows?.told ?? []) as Cell[][]" :looked="rowAt" :is-added="isAdded" />
          <p v-if="result && !areRowsHidden && result.row_count > result.rows.length" class="alone">The first {{ result.rows.length }} of {{ result.row_count.toLocaleString("en") }} rows.</p>
        </section>
      </div>
      <AddedRows v-if="isAdding" :tables="tables" :added="added" :take="take" @remove="remove" @close="isAdding = false" />
    </template>
    <footer>
      <span v-for="one in KEYS" :key="one.cap"><kbd>{{ one.cap }}</kbd> {{ one.says }}</span>
    </footer>
  </main>
</template>

<style scoped>
.present {
  --thread: var(--due);
  --wash: var(--due-wash);

  display: flex;
  flex: 1;
  flex-direction: column;
  min-height: 0;
  background: var(--sheet);
}

.present.given {
  --thread: var(--given);
  --wash: var(--given-wash);
}

.nothing {
  flex: 1;
  max-width: 46rem;
  padding: 40px 20px;
}

.nothing h1 {
  font-size: 1.3em;
}

.nothing > * + * {
  margin-top: 14px;
}

.two {
  display: grid;
  flex: 1;
  grid-template-columns: minmax(0, 44fr) minmax(0, 56fr);
  min-height: 0;
}

.query,
.rows {
  overflow: auto;
  padding: 14px 20px;
}

.query {
  display: flex;
  flex-direction: column;
  border-right: 2px solid var(--line);
}

.prompt {
  margin-bottom: 10px;
}

.lines li {
  margin: 0 -20px;
  padding: 0 20px;
}

.lines code {
  font-size: 1em;
  line-height: 1.45;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}

.marked {
  background: var(--wash);
  box-shadow: inset 6px 0 var(--thread);
  font-weight: 700;
}

.sentence {
  margin-top: auto;
  padding-top: 14px;
  border-top: 2px solid var(--line);
}

.noted {
  margin-top: 14px;
  padding-left: 10px;
  border-left: 6px solid var(--line);
  color: var(--ink-2);
}

.alone {
  padding: 14px 20px;
}

footer {
  display: flex;
  flex: none;
  flex-wrap: wrap;
  gap: 4px 22px;
  padding: 8px 20px;
  border-top: 2px solid var(--line);
}

kbd {
  font-size: 1em;
}
</style>
