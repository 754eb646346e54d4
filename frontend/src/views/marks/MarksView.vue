<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useRoute, useRouter } from "vue-router";

import { courseAddress } from "../../api/client";
import { useAnswersBehind, useMarksChanges, useNeeds, usePlots } from "../../api/marking";
import { MARK_STEPS } from "../../api/terms";
import StateNotice from "../../components/notices/StateNotice.vue";
import VerdictWord from "../../components/verdict/VerdictWord.vue";
import { useInAddress } from "../../composables/use-address";
import { useAttempt } from "../../composables/use-attempt";
import { useKeys } from "../../composables/use-keys";
import CoursePlots from "./CoursePlots.vue";
import ExercisePlots from "./ExercisePlots.vue";
import LearnerMarks from "./LearnerMarks.vue";
import MarksGrid from "./MarksGrid.vue";
import NeedList from "./NeedList.vue";
import PublishDialog from "./PublishDialog.vue";
import { type MarkState, type Sheet, STATES, useMarksPage } from "./use-marks";

/** The end of the path: learners by exercises, what may still change, and publishing. */
const route = useRoute();
const router = useRouter();
const page = useMarksPage();
const { book, isPending, error, refetch, wanted, sort, SORTS, state, counts, rows, chosenRow, chosenColumn } = page;
const shown = useInAddress("shown", "grid", ["grid", "plots"]);
const SHOWN = [{ label: "marks", value: "grid" }, { label: "plots", value: "plots" }];
const side = ref<"exercise" | "learner">("exercise");
const SIDES = [{ label: "exercise", value: "exercise" }, { label: "learner", value: "learner" }];
/** The numbers behind plots are worked out when one is to be seen. */
const { data: plots } = usePlots(() => shown.value === "plots" || Boolean(chosenColumn.value));
/** What waits beside them is asked for when the marks are there: one need not hold up the other. */
const { data: needs } = useNeeds(() => Boolean(book.value));
const changes = useMarksChanges();
const { problem, isBusy, attempt } = useAttempt();

const states = computed(() =>
  (Object.keys(STATES) as MarkState[])
    .map((one) => ({ value: one, label: one === "all" ? "all" : `${STATES[one].says} ${counts.value[one]}` })),
);
const waits = computed(() =>
  (needs.value ?? []).filter((one) => ["undecided", "outdated", "publish", "question", "contradicted", "sheetless"].includes(one.kind)).slice(0, 4),
);
const chosenPlots = computed(() =>
  plots.value?.exercises.find(
    (one) => one.slug === chosenColumn.value?.exercise.slug && one.sheet === chosenColumn.value.sheet.slug,
  ),
);

const publishing = ref<Sheet>();
const isPublishOpen = computed({
  get: () => Boolean(publishing.value),
  set: (yes: boolean) => {
    if (!yes) publishing.value = undefined;
  },
});
watch(
  [book, () => route.query.publish],
  ([found, slug]) => {
    if (!found || !slug) return;
    publishing.value = found.sheets.find((one) => one.slug === slug && !one.published_at);
    // Once: the address does not open it again with the next news.
    void router.replace({ query: { ...route.query, publish: undefined } });
  },
  { immediate: true },
);

const behind = ref<{ title: string; ids: number[] }>({ title: "", ids: [] });
const { data: answers } = useAnswersBehind(() => behind.value.ids);
const isBehindOpen = computed({
  get: () => behind.value.ids.length > 0,
  set: (yes: boolean) => {
    if (!yes) behind.value = { title: "", ids: [] };
  },
});

function openAnswer(id: number): void {
  void router.push({ name: "submission", params: { id } });
}

function openChosen(): void {
  const id = chosenRow.value?.answers[chosenColumn.value?.at ?? -1];
  if (id) openAnswer(id);
}

function decide(): void {
  const slug = chosenColumn.value?.exercise.slug;
  if (slug) void router.push({ name: "desk", params: { slug } });
  else void router.push({ name: "answers" });
}

/** Why a sheet's marks cannot be published now; nothing where they can. */
function unpublishable(sheet: Sheet): string {
  if (sheet.published_at) return `${sheet.title} is published. Take it back to publish it again.`;
  if (sheet.counts_now) return "";
  return sheet.standing === "not_yet"
    ? `${sheet.title} is not open yet: there is nothing to publish.`
    : `${sheet.title} is still open: its marks are published once it has closed.`;
}

/** Why nothing was published when that was asked for. */
const withheld = ref("");

function publishNext(): void {
  const sheets = book.value?.sheets ?? [];
  const sheet = chosenColumn.value?.sheet ?? sheets.find((one) => !unpublishable(one));
  withheld.value = sheet ? unpublishable(sheet) : sheets.length ? "No sheet has marks to publish now." : "There is no sheet yet.";
  if (sheet && !withheld.value) publishing.value = sheet;
}
// Until one moves on: news of the course do not take it away, nor does moving what was refused.
watch([page.row, page.column], () => (withheld.value = ""));

const FORMATS = [
  { value: "csv", label: "CSV" },
  { value: "xlsx", label: "XLSX, for spreadsheets" },
  { value: "oneroster", label: "OneRoster result files" },
];

useKeys([
  { key: "ArrowDown", cap: "↑ ↓ ← →", says: "to a cell", act: () => page.move(1, 0) },
  { key: "ArrowUp", cap: "↑", says: "learner before", rare: true, act: () => page.move(-1, 0) },
  { key: "ArrowRight", cap: "→", says: "next exercise", rare: true, act: () => page.move(0, 1) },
  { key: "ArrowLeft", cap: "←", says: "exercise before", rare: true, act: () => page.move(0, -1) },
  { key: "Enter", cap: "⏎", says: "open the answer", act: openChosen },
  { key: "d", cap: "D", says: "decide", act: decide },
  { key: "p", cap: "P", says: "publish a sheet", act: publishNext },
  { key: "f", cap: "F", says: "find", act: () => document.querySelector<HTMLElement>(".find input")?.focus() },
  { key: "s", cap: "S", says: "sort", act: () => page.turnSort() },
  { key: "x", cap: "X", says: "exercise or learner", act: () => { side.value = side.value === "exercise" ? "learner" : "exercise"; } },
  { key: "v", cap: "V", says: "marks or plots", act: () => { shown.value = shown.value === "grid" ? "plots" : "grid"; } },
  { key: "Escape", cap: "Esc", says: "choose nothing", rare: true, act: () => { page.row.value = page.column.value = -1; } },
]);
</script>

<template>
  <StateNotice :alone="!book" :waiting="isPending" :problem="error" @again="refetch()" />
  <main v-if="book" class="task marks">
    <section class="sheet book">
      <div class="tools">
        <h1>Marks</h1>
        <ElSegmented v-model="shown" :options="SHOWN" aria-label="Marks or plots" />
        <template v-if="shown === 'grid'">
          <ElInput v-model="wanted" class="find" placeholder="find a learner" aria-label="Find a learner" clearable />
          <ElSelect v-model="sort" class="sort" aria-label="Sort by"><ElOption v-for="one in SORTS" :key="one.value" :value="one.value"
            :label="`by ${one.label}`" /></ElSelect>
          <ElSegmented v-model="state" :options="states" aria-label="Which learners" />
        </template>
        <ElPopover trigger="click" :width="230" placement="bottom-end">
          <template #reference><ElButton class="export">Export</ElButton></template>
          <ul class="formats">
            <li v-for="one in FORMATS" :key="one.value"><a :href="courseAddress(`/marks/export?format=${one.value}`)" download>{{ one.label }}</a></li>
          </ul>
          <p class="round"><label for="step">totals rounded to</label> <ElSelect id="step" :model-value="book.step" aria-label="totals rounded to"
            @change="attempt(() => changes.round.mutateAsync($event))"><ElOption v-for="one in MARK_STEPS" :key="one" :value="one" :label="String(one)" /></ElSelect></p>
        </ElPopover>
      </div>
      <p v-if="problem || withheld" class="problem" role="alert">{{ problem || withheld }}</p>
      <MarksGrid v-if="shown === 'grid'" :state="page" :is-busy="isBusy" @open="openAnswer" @publish="publishing = $event"
        @unpublish="attempt(() => changes.unpublish.mutateAsync($event.slug))">
        <template #legend>
          <dl class="legend" aria-label="How to read a cell">
            <div><dt>3</dt><dd>decided</dd></div>
            <div><dt><i class="ring" /> 3 <sup>?</sup></dt><dd>undecided</dd></div>
            <div><dt><span class="old">3</span><sup>old</sup></dt><dd>out of date</dd></div>
            <div><dt class="late">3 <sup>2d</sup></dt><dd>late, in days</dd></div>
            <div><dt class="none">–</dt><dd>not handed in</dd></div>
            <div><dt>≈ 17</dt><dd>may still change</dd></div>
          </dl>
        </template>
      </MarksGrid>
      <CoursePlots v-else-if="plots" :plots="plots" @behind="(title, ids) => { behind = { title, ids }; }"
        @exercise="(slug) => router.push({ name: 'desk', params: { slug } })" />
    </section>
    <aside aria-label="What needs you, and what is chosen">
      <template v-if="waits.length">
        <h2>What needs you</h2>
        <NeedList :needs="waits" />
      </template>
      <div class="which">
        <h2 v-if="!chosenColumn && !chosenRow">Choose a cell</h2>
        <ElSegmented v-model="side" :options="SIDES" aria-label="Exercise or learner" />
      </div>
      <p v-if="!chosenColumn && !chosenRow" class="quiet">Arrows or a click choose a cell: here stand its exercise, with
        plots, or its learner.</p>
      <ExercisePlots v-if="side === 'exercise' && chosenPlots" :plots="chosenPlots"
        @behind="(title, ids) => { behind = { title, ids }; }" />
      <LearnerMarks v-if="side === 'learner' && chosenRow && chosenColumn" :row="chosenRow" :sheet="chosenColumn.sheet" />
      <p v-if="!rows.length" class="quiet">No learner fits what is asked for.</p>
    </aside>
    <PublishDialog v-if="publishing" v-model="isPublishOpen" :sheet="publishing" />
    <ElDrawer v-model="isBehindOpen" :title="behind.title" append-to-body size="min(420px, 94vw)">
      <ol>
        <li v-for="one in answers" :key="one.id" class="behind"><RouterLink :to="{ name: 'submission', params: { id: one.id } }">{{ one.learner }}</RouterLink>
          <span>{{ one.exercise }}</span> <VerdictWord :verdict="one.verdict" /> <b>{{ one.mark ?? "" }}</b></li>
      </ol>
    </ElDrawer>
  </main>
</template>

<style scoped>
.marks {
  grid-template-columns: 1fr clamp(262px, 22.5vw, 320px);
}

.book {
  display: flex;
  flex-direction: column;
  padding-bottom: 0;
  overflow: hidden;
}

.tools {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 8px;
  margin-bottom: 8px;
}

.find {
  width: 116px;
}

.sort {
  width: 104px;
}

.export {
  margin-left: auto;
}

.formats li {
  padding: 4px 0;
}

.round {
  display: flex;
  align-items: center;
  gap: 8px;
  margin-top: 8px;
  padding-top: 8px;
  border-top: 1px solid var(--line);
  white-space: nowrap;
}

.legend div {
  display: flex;
  gap: 8px;
  font: 500 10.5px / 15px var(--ui);
}

.legend dt {
  width: 38px;
  text-align: center;
}

.legend sup {
  font-size: 8px;
  line-height: 0;
}

.ring {
  display: inline-block;
  width: 6px;
  height: 6px;
  border: 1.5px solid var(--given);
  border-radius: 50%;
}

.old {
  padding: 0 2px;
  outline: 1px dashed var(--due);
}

.late {
  text-decoration: underline;
  text-decoration-thickness: 2px;
}

.none {
  background: repeating-linear-gradient(135deg, var(--line-soft) 0 2px, transparent 2px 6px);
}

.which {
  display: flex;
  align-items: center;
  justify-content: space-between;
  margin: 14px 0 6px;
  padding-top: 10px;
  border-top: 1.5px solid var(--ink);
}

.which .el-segmented {
  margin-left: auto;
}

.behind {
  display: grid;
  grid-template-columns: 1fr 1fr auto 40px;
  gap: 8px;
  padding: 4px 0;
  border-bottom: 1px solid var(--line-soft);
}

@media (max-width: 900px) {
  .book {
    height: 90dvh;
  }
}
</style>
