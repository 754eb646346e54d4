<script setup lang="ts">
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import { courseAddress, type Schemas } from "../../api/client";
import { useOwnCourse } from "../../api/own";
import ListColumn from "../../components/lists/ListColumn.vue";
import ListTable from "../../components/lists/ListTable.vue";
import StateNotice from "../../components/notices/StateNotice.vue";
import VerdictWord from "../../components/verdict/VerdictWord.vue";
import { useEvents } from "../../composables/use-events";
import { useKeys } from "../../composables/use-keys";
import { counted } from "../../composables/words";
import SheetWhen from "./SheetWhen.vue";

/** A learner's sheets, and how far they are on each. */
const router = useRouter();
const { data, isPending, error, refetch } = useOwnCourse();
useEvents(() => courseAddress("/own/events"), "news", () => void refetch()).listen();

type Sheet = Schemas["OwnSheet"];
type Line = Schemas["OwnExerciseLine"];

/** What is open comes first, then what is late, to come, over. */
const ORDER = ["open", "late", "not_yet", "closed"];
const sheets = computed(() =>
  [...(data.value?.sheets ?? [])].sort(
    (one, other) => ORDER.indexOf(one.times.standing) - ORDER.indexOf(other.times.standing),
  ),
);
const all = computed(() =>
  sheets.value.flatMap((sheet) => sheet.exercises.map((line) => ({ sheet: sheet.slug, slug: line.slug }))),
);
const at = ref(-1);

function turn(by: number): void {
  if (all.value.length) at.value = (at.value + by + all.value.length) % all.value.length;
}

function isChosen(sheet: Sheet, line: Line): boolean {
  const here = all.value[at.value];
  return here?.sheet === sheet.slug && here.slug === line.slug;
}

function open(): void {
  const here = all.value[at.value] ?? nextUp.value;
  if (here) void router.push({ name: "own-exercise", params: here });
}

/** The first exercise of an open sheet that has no right answer yet. */
const nextUp = computed(() => {
  for (const sheet of sheets.value) {
    if (!["open", "late"].includes(sheet.times.standing)) continue;
    const line = sheet.exercises.find((one) => !["correct", "undecided"].includes(one.best?.verdict ?? "") && one.attempts_left !== 0);
    if (line) return { sheet: sheet.slug, slug: line.slug };
  }
  return undefined;
});

function tries(line: Line): string {
  if (!line.attempts) return line.attempts_left === null ? "" : counted(line.attempts_left, "attempt");
  const left = line.attempts_left === null ? "" : `, ${line.attempts_left} left`;
  return `${counted(line.attempts, "attempt")}${left}`;
}

useKeys([
  { key: "ArrowDown", cap: "↓", says: "next exercise", act: () => turn(1) },
  { key: "ArrowUp", cap: "↑", says: "exercise before", act: () => turn(-1) },
  { key: "Enter", cap: "⏎", says: "open it, or continue where you are", act: open },
]);
</script>

<template>
  <StateNotice :alone="!data" :waiting="isPending" :problem="error" @again="refetch()" />
  <main v-if="data" class="task own-course">
    <section aria-label="You">
      <h1>{{ data.title }}</h1>
      <p>{{ data.learner }} <small v-if="data.code !== data.learner">{{ data.code }}</small></p>
      <p v-if="data.archived" class="note">This course is over: its answers can be read, nothing is handed in.</p>
      <p v-else-if="nextUp" class="note">
        <RouterLink class="button main" :to="{ name: 'own-exercise', params: nextUp }">Continue</RouterLink>
      </p>
      <p class="quiet note">Times are those of {{ data.zone }}.</p>
    </section>
    <section class="sheet lists" aria-label="Your sheets">
      <p v-if="!sheets.length" class="quiet">There is no sheet yet. It appears here when it opens.</p>
      <article v-for="sheet in sheets" :key="sheet.slug" :aria-label="sheet.title">
        <header>
          <h2>{{ sheet.title }}</h2>
          <SheetWhen :times="sheet.times" :zone="data.zone" />
          <RouterLink v-if="sheet.published" class="published" :to="{ name: 'own-marks', params: { sheet: sheet.slug } }">Marks
            and comments</RouterLink>
          <span v-if="sheet.exercises.length" class="sum">{{ sheet.earned }} of {{ counted(sheet.points, "point")
          }}</span>
        </header>
        <ListTable v-if="sheet.exercises.length" untitled :rows="sheet.exercises" by="slug"
          :chosen="sheet.exercises.findIndex((line) => isChosen(sheet, line))">
          <ListColumn label="exercise">
            <template #default="{ row }: { row: Line }"><RouterLink :to="{ name: 'own-exercise', params: { sheet: sheet.slug, slug: row.slug } }">{{
              row.title }}</RouterLink> <small v-if="row.has_draft">draft</small></template>
          </ListColumn>
          <ListColumn label="best" class-name="word">
            <template #default="{ row }: { row: Line }"><VerdictWord v-if="row.best" :verdict="row.best.verdict" />
              <VerdictWord v-else-if="row.waiting" verdict="waiting" />
              <VerdictWord v-else-if="row.attempts" verdict="held" />
              <span v-if="row.best?.late" class="quiet"> late</span></template>
          </ListColumn>
          <ListColumn label="attempts" class-name="tries">
            <template #default="{ row }: { row: Line }"><span class="quiet">{{ tries(row) }}</span></template>
          </ListColumn>
          <ListColumn label="mark" class-name="number">
            <template #default="{ row }: { row: Line }">{{ row.best ? `${row.mark ?? "?"} of ${row.points}` : counted(row.points, "point") }}</template>
          </ListColumn>
        </ListTable>
      </article>
    </section>
  </main>
</template>

<style scoped>
.own-course {
  grid-template-columns: clamp(220px, 23vw, 300px) 1fr;
}

.note {
  margin-top: 14px;
}

article + article {
  margin-top: 26px;
}

header {
  display: flex;
  align-items: baseline;
  gap: 14px;
  padding-bottom: 4px;
  border-bottom: 1.5px solid var(--ink);
}

.published {
  margin-left: auto;
}

.published + .sum {
  margin-left: 0;
}

.sum {
  margin-left: auto;
  color: var(--ink-2);
}

:deep(.word) {
  width: 150px;
}

:deep(.tries) {
  width: 190px;
}

:deep(.number) {
  width: 110px;
}

/* A telephone has room for two things side by side. */
@media (max-width: 600px) {
  header {
    flex-wrap: wrap;
    gap: 2px 14px;
  }

  header > :not(h2, .sum) {
    order: 1;
    width: 100%;
  }

  .published {
    margin-left: 0;
  }

  .published + .sum {
    margin-left: auto;
  }

  .lists :deep(:is(.el-scrollbar__view, table, tbody)) {
    display: block !important;
    width: 100% !important;
  }

  .lists :deep(tbody tr) {
    display: grid;
    grid-template-columns: 1fr auto;
    border-bottom: 1px solid var(--line);
  }

  .lists :deep(tbody td) {
    width: auto;
    padding-block: 5px;
    border-bottom: 0 !important;
  }

  .lists :deep(td.number) {
    grid-area: 1 / 2;
  }

  .lists :deep(:is(td.word, td.tries)) {
    padding-top: 0;
  }

  .lists :deep(td.tries) {
    text-align: right;
  }
}
</style>
