<script setup lang="ts">
import { computed, provide, ref, useTemplateRef, watch } from "vue";
import { useRouter } from "vue-router";

import { useEarlierRuns, useOwnCourse, useTidyText } from "../../api/own";
import { columnsByTable } from "../../api/samples";
import DataTable from "../../components/rows/DataTable.vue";
import ProseText from "../../components/text/ProseText.vue";
import RunHistory from "../../components/sql/RunHistory.vue";
import SqlEditor from "../../components/sql/SqlEditor.vue";
import StateNotice from "../../components/notices/StateNotice.vue";
import { useKeys } from "../../composables/use-keys";
import { usePageName } from "../../composables/use-page-title";
import { counted } from "../../composables/words";
import { provideEngine } from "../../editor/dialects";
import { INSERT_VALUE } from "../../editor/literals";
import { type Piece, placeInWhole } from "../../editor/statements";
import LayoutPair from "../../components/sql/LayoutPair.vue";
import StandInText from "../../components/sql/StandInText.vue";
import StepTrace from "../../steps/StepTrace.vue";
import AttemptFeedback from "./AttemptFeedback.vue";
import AttemptList from "./AttemptList.vue";
import CopyStatements from "./CopyStatements.vue";
import OwnComparison from "./OwnComparison.vue";
import OwnTables from "./OwnTables.vue";
import SheetWhen from "./SheetWhen.vue";
import { useOwnExercisePage } from "./use-own-exercise";

/** A learner's page: what is asked and the tables; what they write; what came of it. */
const router = useRouter();
const page = useOwnExercisePage();
const { exercise, isPending, error, refetch, text, saving, inCopy, run, copy, copyChanges, copyText, chosen } = page;
usePageName(() => exercise.value?.title);
const { data: course } = useOwnCourse();
provideEngine(computed(() => exercise.value?.engine_name ?? "sqlite"));
const zone = computed(() => course.value?.zone ?? "UTC");

const editor = useTemplateRef<InstanceType<typeof SqlEditor>>("editor");
const runButton = useTemplateRef<{ $el: HTMLButtonElement }>("runButton");
const came = useTemplateRef<InstanceType<typeof AttemptFeedback>>("came");
const tablesPanel = useTemplateRef<InstanceType<typeof OwnTables>>("tables");
const schema = computed(() => columnsByTable(page.tables.value.map((one) => one.table)));
const problem = computed(() => {
  const said = run.data.value;
  return said && said.verdict !== "ran" ? said : undefined;
});
/** Where the last run found something wrong: as long as its text is the one in the editor. */
const ranText = ref("");
const ran = ref<Piece>();
const isPart = computed(() => Boolean(ran.value && ran.value.sql.trim() !== ranText.value.trim()));

function markAt(said: { place: { line: number; column: number } | null; near: string } | undefined, now: string) {
  if (!said?.place || !ran.value || ranText.value !== now) return null;
  return { ...placeInWhole(ran.value, said.place), length: Math.max(said.near.length, 1) };
}
/** The stretch of the text that a hint points at, as long as the text is that of the attempt. */
const hinted = ref<{ start: number; end: number }>();
const hintMark = computed(() => {
  const one = hinted.value;
  if (!one || shownAttempt.value?.attempt.sql !== text.value) return null;
  const before = text.value.slice(0, one.start).split("\n");
  return { line: before.length, column: (before.at(-1)?.length ?? 0) + 1, length: Math.max(one.end - one.start, 1) };
});
const mark = computed(() => markAt(problem.value, text.value) ?? hintMark.value);
/** Where there is no room for columns, one pane is in sight at a time. */
const pane = ref("asked");
const PANES = [
  { label: "Asked", value: "asked" },
  { label: "Tables", value: "tables" },
  { label: "Write", value: "write" },
  { label: "Result", value: "result" },
  { label: "Attempts", value: "attempts" },
];
const copyMark = computed(() => markAt(copyChanges.run.data.value, copyText.value));
provide(INSERT_VALUE, (literal) => editor.value?.insert(literal));
const WHERE = [
  { label: "the sample", value: false },
  { label: "my own copy", value: true },
];
const feedback = computed(() => page.feedback.data.value);
const shownAttempt = computed(() =>
  chosen.value !== undefined && feedback.value?.attempt.id === chosen.value ? feedback.value : undefined,
);
const isBusy = computed(() => run.isPending.value || copyChanges.run.isPending.value);
const closed = computed(() => {
  const found = exercise.value;
  if (!found) return "";
  if (found.times.standing === "closed") return "The sheet is closed: you can still try things.";
  return found.attempts_left === 0 ? "All attempts are used: you can still try things." : "";
});
/** The very text that was handed in last would get the very same verdict. */
const again = computed(() => {
  const last = exercise.value?.attempts.at(-1);
  if (!last || last.verdict === "stopped" || !isSame(last.sql, text.value)) return "";
  return `The same text as attempt ${last.number}: change it first.`;
});
const canHandIn = computed(() => page.canHandIn.value && Boolean(text.value.trim()) && !again.value);
const used = computed(() => {
  const found = exercise.value;
  if (!found) return "";
  return found.attempts_left === null ? "" : `${counted(found.attempts_left, "attempt")} left`;
});
const MB = 1 << 20;
const room = computed(() => {
  const found = copy.data.value;
  return found ? `${(found.bytes / MB).toFixed(1)} of ${(found.room / MB).toFixed(0)} MB used` : "";
});

/** What stands under the text in place of the result: one thing at a time, and the text that it is about. */
const seen = ref<"" | "steps" | "tidy" | "comparison" | "runs">("");
const seenText = ref("");
const steps = useTemplateRef<InstanceType<typeof StepTrace>>("steps");
const earlier = useEarlierRuns(() => page.place.value, () => seen.value === "runs");
const tidy = useTidyText(() => page.place.value, () => (seen.value === "tidy" ? seenText.value : ""));
watch([chosen, inCopy, page.place], () => {
  seen.value = "";
  hinted.value = undefined;
});

/** Shows it, or the result again where it is in sight; of the text as it is now. */
function see(what: typeof seen.value): void {
  const of = what === "steps" ? (editor.value?.piece().sql ?? text.value) : text.value;
  const isOfText = what === "steps" || what === "tidy";
  seen.value = seen.value === what || (isOfText && !of) ? "" : what;
  seenText.value = of;
  pane.value = "result";
}

function takeTidy(): void {
  if (tidy.data.value) page.write(tidy.data.value.text);
  seen.value = "";
  edit();
}

function takeRun(line: { sql: string }): void {
  page.write(line.sql);
  seen.value = "";
  edit();
}

function isSame(one: string, other: string): boolean {
  return one.trim() === other.trim();
}

function handIn(): void {
  if (!canHandIn.value) return;
  page.handIn();
  pane.value = "result";
}

function edit(): void {
  pane.value = "write";
  editor.value?.focus();
}

async function go(): Promise<void> {
  pane.value = "result";
  seen.value = "";
  ranText.value = inCopy.value ? copyText.value : text.value;
  ran.value = editor.value?.piece(inCopy.value);
  await page.go(ran.value?.sql);
}

function choose(by: number): void {
  const ids = [...(exercise.value?.attempts ?? [])].reverse().map((one) => one.id);
  if (!ids.length) return;
  const at = chosen.value === undefined ? (by > 0 ? -1 : 0) : ids.indexOf(chosen.value);
  chosen.value = ids[(at + by + ids.length) % ids.length];
  pane.value = "result";
}

function takeText(): void {
  if (!shownAttempt.value) return;
  page.write(shownAttempt.value.attempt.sql);
  chosen.value = undefined;
  edit();
}

function visit(slug: string | null | undefined): void {
  if (slug) void router.push({ name: "own-exercise", params: { ...page.place.value, slug } });
}
watch(inCopy, () => {
  chosen.value = undefined;
});

useKeys([
  { key: "Enter", ctrl: true, cap: "Ctrl ⏎", says: "run", always: true, act: () => void go() },
  { key: "Enter", ctrl: true, shift: true, cap: "Ctrl Shift ⏎", says: "hand in", always: true, act: handIn },
  { key: "Enter", alt: true, cap: "Alt ⏎", says: "run on the made-up rows", always: true, rare: true, act: () => void came.value?.runOnRows() },
  { key: "h", cap: "H", says: "next hint", act: () => void came.value?.nextHint() },
  { key: "e", cap: "E", says: "write", act: () => editor.value?.focus() },
  { key: "t", cap: "T", says: "next table", act: () => tablesPanel.value?.turn(1) },
  { key: "b", cap: "B", says: "map, tables side by side", rare: true, act: () => tablesPanel.value?.showBeside() },
  { key: "a", cap: "A", says: "attempts", act: () => choose(1) },
  { key: "c", cap: "C", says: "sample or own copy", act: () => { inCopy.value = !inCopy.value; } },
  { key: "Backspace", ctrl: true, cap: "Ctrl ⌫", says: "a new copy", act: () => { if (inCopy.value) copyChanges.reset.mutate(); }, rare: true },
  { key: "r", cap: "R", says: "earlier runs", act: () => see("runs") },
  { key: "s", cap: "S", says: "step by step", act: () => { if (!inCopy.value && exercise.value?.steps) see("steps"); } },
  { key: "m", cap: "M", says: "compare two texts", rare: true, act: () => { if (!inCopy.value) see("comparison"); } },
  { key: "l", cap: "L", says: "tidy text", rare: true, act: () => { if (!inCopy.value) see("tidy"); } },
  { key: "ArrowDown", cap: "↓", says: "next step", rare: true, act: () => steps.value?.move(1) },
  { key: "ArrowUp", cap: "↑", says: "step before", rare: true, act: () => steps.value?.move(-1) },
  { key: "n", cap: "N", says: "next exercise", act: () => visit(exercise.value?.next) },
  { key: "p", cap: "P", says: "exercise before", act: () => visit(exercise.value?.previous) },
  { key: "Escape", cap: "Esc", says: "all sheets", act: () => void router.push({ name: "own" }) },
]);
</script>

<template>
  <StateNotice :alone="!exercise" :waiting="isPending" :problem="error" @again="refetch()" />
  <main v-if="exercise" class="task own-exercise" :class="`pane-${pane}`">
    <nav class="panes" aria-label="Parts of the page">
      <ElSegmented v-model="pane" :options="PANES" block aria-label="What is in sight" />
    </nav>
    <section class="asked" aria-label="What is asked">
      <p class="place"><RouterLink :to="{ name: 'own' }">{{ exercise.sheet_title }}</RouterLink>
        <span>
          <ElButton link :disabled="!exercise.previous" @click="visit(exercise.previous)">before</ElButton>
          <ElButton link :disabled="!exercise.next" @click="visit(exercise.next)">next</ElButton>
        </span></p>
      <h1>{{ exercise.title }} <small>{{ counted(exercise.points, "point") }}</small></h1>
      <div class="prompt">
        <ProseText :text="exercise.prompt" />
        <div v-if="exercise.shown && (exercise.shown.columns || exercise.shown.row_count !== null)" class="due"
          aria-label="What the result has">
          <p class="quiet">due{{ exercise.shown.row_count === null ? "" : `: ${counted(exercise.shown.row_count, "row")}` }}</p>
          <DataTable v-if="exercise.shown.result" :result="exercise.shown.result" label="What is due" />
          <p v-else class="names"><code v-for="(name, at) in exercise.shown.columns" :key="at">{{ name }}</code></p>
        </div>
      </div>
      <OwnTables ref="tables" class="tables" :place="page.place.value" :tables="page.tables.value"
        :in-copy="inCopy" :prompt="exercise.prompt" />
    </section>
    <section class="sheet work" aria-label="Your answer">
      <div class="tools">
        <ElSegmented v-model="inCopy" :options="WHERE" aria-label="Where statements run" />
        <span class="quiet saved" role="status">{{ inCopy ? room : saving === "saved" ? "" : saving === "offline"
          ? "kept in this browser: the server does not answer" : "…" }}</span>
        <span class="quiet">{{ inCopy && exercise.copy_note ? exercise.copy_note : exercise.engine }}</span>
      </div>
      <SqlEditor v-if="!inCopy" ref="editor" class="editor" :model-value="text" label="your answer" :tables="schema" :functions="exercise.functions"
        :mark="mark" @update:model-value="page.write" @run="go" @leave="runButton?.$el.focus()" />
      <SqlEditor v-else ref="editor" v-model="copyText" class="editor" label="statements on your copy" :engine="exercise.copy_engine" :tables="schema" :functions="exercise.functions"
        :mark="copyMark"
        @run="go" @leave="runButton?.$el.focus()" />
      <p class="act">
        <ElButton ref="runButton" :disabled="isBusy" @click="go">Run</ElButton>
        <ElButton v-if="!inCopy && exercise.steps" link class="runs" :aria-expanded="seen === 'steps'" @click="see('steps')">Step by step</ElButton>
        <ElButton v-if="!inCopy" link class="runs" :aria-expanded="seen === 'tidy'" @click="see('tidy')">Tidy text</ElButton>
        <ElButton v-if="!inCopy" link class="runs" :aria-expanded="seen === 'runs'" @click="see('runs')">Earlier runs</ElButton>
        <ElButton v-if="!inCopy && exercise.attempts.length" link class="runs" :aria-expanded="seen === 'comparison'" @click="see('comparison')">Compare</ElButton>
        <template v-if="!inCopy">
          <ElButton type="primary" :disabled="!canHandIn" @click="handIn">Hand in</ElButton>
          <span class="quiet">{{ closed || again || used }}</span>
        </template>
        <template v-else>
          <ElButton :disabled="copyChanges.reset.isPending.value" @click="copyChanges.reset.mutate()">Begin again with a new copy</ElButton>
          <span class="quiet">INSERT, UPDATE, DELETE, CREATE and ALTER work here; nothing of it is graded.</span>
        </template>
      </p>
      <p v-if="page.refusal.value" class="problem" role="alert">{{ page.refusal.value }}</p>
      <p v-for="one in page.kept.value" :key="one.key" class="kept" role="status">Handing in … Until the server has
        it, your answer is kept in this browser and sent again.</p>
      <div class="result" tabindex="0" aria-label="Result">
        <StepTrace v-if="seen === 'steps'" ref="steps" class="steps" :on="page.place.value" :sql="seenText" />
        <template v-else-if="seen === 'tidy'">
          <p v-if="tidy.error.value" class="problem" role="alert">{{ tidy.error.value.message }}</p>
          <LayoutPair v-else-if="tidy.data.value?.changes.length" :sql="seenText" :layout="tidy.data.value" @take="takeTidy" />
          <p v-else-if="tidy.data.value" class="quiet">Nothing to tidy: the text is laid out as it should be, or cannot be
            read yet.</p>
        </template>
        <OwnComparison v-else-if="seen === 'comparison'" :place="page.place.value" :attempts="exercise.attempts" :text="text" :chosen="chosen" />
        <RunHistory v-else-if="seen === 'runs'" :lines="earlier.data.value ?? []" :zone="zone" @take="takeRun"
          @name="(line, name) => earlier.rename.mutate({ id: line.id, name })" />
        <AttemptFeedback v-else-if="shownAttempt" ref="came" :feedback="shownAttempt" :points="exercise.points" :zone="zone"
          :is-written="isSame(shownAttempt.attempt.sql, text)" :can-hand-in="page.canHandIn.value" :text="text"
          @take="takeText" @edit="edit" @tidy="see('tidy')" @place="hinted = $event" />
        <CopyStatements v-else-if="inCopy" :came="copyChanges.run.data.value" :error="copyChanges.run.error.value?.message ?? ''" />
        <template v-else>
          <StandInText v-if="run.data.value && !isBusy" :sql="run.data.value.runs_as" :doubts="run.data.value.doubts" />
          <p v-if="run.error.value" class="problem" role="alert">{{ run.error.value.message }}</p>
          <p v-else-if="problem" class="problem" role="alert">{{ problem.message }}</p>
          <template v-else-if="run.data.value?.result">
            <p class="quiet">{{ counted(run.data.value.result.row_count, "row") }}{{ isPart ? ", of the part that was run" : "" }}</p>
            <DataTable :result="run.data.value.result" label="The rows of your query" />
          </template>
          <p v-else-if="isBusy" class="quiet">running …</p>
          <p v-else class="quiet">Run shows the rows of your query here; it costs nothing. What comes of an answer that
            you hand in stands here too.</p>
        </template>
      </div>
    </section>
    <aside aria-label="Attempts">
      <p><SheetWhen :times="exercise.times" :zone="zone" /></p>
      <h2>Attempts <small>{{ used }}</small></h2>
      <p v-if="!exercise.attempts.length" class="quiet">None yet.</p>
      <AttemptList v-else v-model:chosen="chosen" :attempts="exercise.attempts" :points="exercise.points" :zone="zone" @update:chosen="pane = 'result'" />
    </aside>
  </main>
</template>

<style scoped>
.own-exercise {
  grid-template-columns: 400px 1fr 230px;
}

.panes {
  display: none;
}

.asked {
  display: flex;
  flex-direction: column;
  gap: 8px;
}

.place {
  display: flex;
  justify-content: space-between;
}

.place span {
  display: flex;
  gap: 10px;
}

.prompt {
  flex: none;
  max-height: 46%;
  overflow: auto;
}

.due {
  margin-top: 8px;
  padding: 6px 8px;
  border-left: 3px solid var(--due);
  background: var(--sheet);
  overflow-x: auto;
}

.names {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
}

.tables {
  flex: 1;
  padding-top: 8px;
  border-top: 1px solid var(--line);
}

.work {
  display: flex;
  flex-direction: column;
  gap: 8px;
}

.tools {
  display: flex;
  align-items: center;
  gap: 12px;
}

.saved {
  margin-left: auto;
}

.editor {
  flex: none;
  height: 190px;
}

.act {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 12px;
}

.act .runs {
  order: 9;
}

.act .runs:first-of-type,
.act > .quiet {
  flex: 1 1 0;
  min-width: 90px;
  margin-right: auto;
}

.steps {
  height: 100%;
}

.kept {
  padding: 4px 8px;
  background: var(--due-wash);
}

.result {
  position: relative; /* what is only read aloud stays inside */
  flex: 1;
  min-height: 0;
  overflow: auto;
}

.result :deep(th) {
  top: 0;
  background: var(--sheet);
}

h2 {
  margin: 12px 0 4px;
}

@media (max-width: 1100px) {
  .own-exercise {
    grid-template-columns: 320px 1fr 200px;
  }
}

@media (max-width: 900px) {
  .own-exercise {
    grid-template-rows: auto 1fr;
  }

  .panes {
    display: block;
    padding: 6px var(--edge);
    overflow-x: auto;
  }

  /* One pane at a time: the others keep what is in them. */
  .asked,
  .work,
  aside {
    border-bottom: 0;
  }

  .pane-asked :is(.work, aside, .tables),
  .pane-tables :is(.work, aside, .asked > :not(.tables)),
  .pane-write :is(.asked, aside, .result),
  .pane-result :is(.asked, aside, .tools, .editor),
  .pane-attempts :is(.asked, .work) {
    display: none;
  }

  .prompt {
    max-height: none;
  }

  .editor {
    height: 42vh;
  }
}
</style>
