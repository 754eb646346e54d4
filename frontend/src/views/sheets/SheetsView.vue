<script setup lang="ts">
import { computed } from "vue";
import { useRouter } from "vue-router";

import { COUNTING } from "../../api/terms";
import { useCourse } from "../../api/people";
import ConfirmButton from "../../components/fields/ConfirmButton.vue";
import CourseTimeField from "../../components/fields/CourseTimeField.vue";
import StateNotice from "../../components/notices/StateNotice.vue";
import { useKeys } from "../../composables/use-keys";
import { counted, dayAndTime } from "../../composables/words";
import SheetEngine from "./SheetEngine.vue";
import SheetEntries from "./SheetEntries.vue";
import { useSheetDesk } from "./use-sheet-desk";

const router = useRouter();
const desk = useSheetDesk();
const { sheets, isPending, error, refetch, slug, chosen, body, problem, isChanged, total } = desk;

const { data: course } = useCourse();
/** The sheets' times have no zone of their own: they are compared with the clock where the course is. */
const now = computed(() =>
  new Intl.DateTimeFormat("sv-SE", {
    dateStyle: "short", timeStyle: "short", timeZone: course.value?.zone ?? "UTC",
  }).format(new Date()).replace(" ", "T"),
);

function state(sheet: { opens: string | null; closes: string | null }): string {
  if (sheet.opens && sheet.opens > now.value) return `opens ${dayAndTime(sheet.opens)}`;
  if (sheet.closes && sheet.closes < now.value) return `closed since ${dayAndTime(sheet.closes)}`;
  return sheet.closes ? `open until ${dayAndTime(sheet.closes)}` : "open";
}

const late = computed(() => {
  const rule = body.value?.late;
  if (!rule || rule.rule === "refuse") return "After closing time nothing is taken.";
  const until = rule.days ? ` for ${counted(rule.days, "day")}` : "";
  if (rule.rule === "accept") return `After closing time answers are taken${until}, with their whole mark.`;
  return `After closing time answers are taken${until}; each day begun takes off ${rule.percent_a_day} %.`;
});

useKeys([
  { key: "s", ctrl: true, cap: "Ctrl S", says: "save", always: true, act: () => void desk.keep() },
  { key: "ArrowDown", cap: "↓", says: "next sheet", act: () => desk.turn(1) },
  { key: "ArrowUp", cap: "↑", says: "sheet before", act: () => desk.turn(-1) },
  { key: "n", cap: "N", says: "new sheet", act: () => desk.choose("") },
  { key: "Alt", cap: "Alt ↑ ↓", says: "move the exercise", act: () => {} },
  { key: "Escape", cap: "Esc", says: "all exercises", act: () => void router.push({ name: "exercises" }) },
]);
</script>

<template>
  <StateNotice :alone="!sheets" :waiting="isPending" :problem="error" @again="refetch()" />
  <main v-if="sheets" class="task sheets">
    <section aria-label="Sheets">
      <h1>Sheets</h1>
      <ol>
        <li v-for="sheet in sheets" :key="sheet.slug" :class="{ chosen: sheet.slug === slug }">
          <ElButton class="bare" :aria-current="sheet.slug === slug" @click="desk.choose(sheet.slug)">
            <b>{{ sheet.title }}</b>
            <small>{{ counted(sheet.entries.length, "exercise") }}, {{ counted(sheet.points, "point") }}</small>
            <small>{{ state(sheet) }}</small>
          </ElButton>
        </li>
      </ol>
      <p><ElButton @click="desk.choose('')">New sheet</ElButton></p>
    </section>
    <section v-if="body" class="sheet" aria-label="Exercises of the sheet">
      <div class="tools">
        <label class="only-read-aloud" for="sheet-title">title</label>
        <ElInput id="sheet-title" v-model="body.title" class="title" placeholder="Title of the sheet" />
        <span class="quiet">{{ counted(body.exercises.length, "exercise") }}, {{ counted(total, "point") }}</span>
        <ElButton :type="(isChanged) ? 'primary' : ''" :disabled="!isChanged" @click="desk.keep()">Save</ElButton>
      </div>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <SheetEntries v-model:body="body" :by-slug="desk.bySlug.value" :rest="desk.rest.value"
        @add="desk.add" @shift="desk.shift" />
    </section>
    <aside v-if="body" aria-label="When, how often, and what late means">
      <h2>When</h2>
      <p class="line"><label for="opens">opens</label>
        <CourseTimeField id="opens" v-model="body.opens" /></p>
      <p class="line"><label for="closes">closes</label>
        <CourseTimeField id="closes" v-model="body.closes" /></p>
      <p class="quiet">Times are those of {{ course?.zone }}. Left empty, a sheet is open from the start, or never closes.</p>
      <h2>How often</h2>
      <p class="line"><label for="attempts">attempts</label>
        <ElInputNumber id="attempts" :controls="false" :min="1" placeholder="any number" :model-value="body.attempts ?? undefined" @change="body.attempts = $event ?? null" /></p>
      <p class="line"><label for="counting">of them</label>
        <ElSelect id="counting" v-model="body.counting">
          <ElOption v-for="one in COUNTING" :key="one.value" :value="one.value" :label="one.says" />
        </ElSelect></p>
      <h2>What counts</h2>
      <p class="line"><label for="best-of">exercises</label>
        <span>the best <ElInputNumber id="best-of" :controls="false" class="few" :min="1" :max="body.exercises.length || 1" placeholder="all" :model-value="body.best_of ?? undefined" @change="body.best_of = $event ?? null" /> of {{ body.exercises.length }}</span></p>
      <p class="line"><label for="weight">weight</label>
        <ElInputNumber id="weight" :controls="false" :min="0" :max="1000" :placeholder="String(total)" :model-value="body.weight ?? undefined" @change="body.weight = $event ?? null" /></p>
      <h2>Late answers</h2>
      <p class="line"><label for="late">are</label>
        <ElSelect id="late" v-model="body.late!.rule">
          <ElOption value="refuse" label="not taken" />
          <ElOption value="accept" label="taken, marked in full" />
          <ElOption value="reduce" label="taken, marked down" />
        </ElSelect></p>
      <p v-if="body.late!.rule === 'reduce'" class="line"><label for="percent">each day</label>
        <span><ElInputNumber id="percent" v-model="body.late!.percent_a_day" :controls="false" class="few" :min="0.1" :max="100" /> % off</span></p>
      <p v-if="body.late!.rule !== 'refuse'" class="line"><label for="days">at most</label>
        <span><ElInputNumber id="days" :controls="false" class="few" :min="1" placeholder="any" :model-value="body.late!.days ?? undefined" @change="body.late!.days = $event ?? null" /> days</span></p>
      <p class="said">{{ late }}</p>
      <SheetEngine v-if="chosen" :slug="chosen.slug" :title="chosen.title" />
      <p v-if="chosen" class="said">
        <ConfirmButton :question="`Delete ${chosen.title}? Its exercises stay.`" yes="Delete" @confirm="desk.remove()">
          Delete sheet</ConfirmButton>
      </p>
    </aside>
  </main>
</template>

<style scoped>
.sheets {
  grid-template-columns: clamp(180px, 20vw, 260px) 1fr clamp(258px, 25vw, 316px);
}

ol {
  margin: 10px 0;
}

li button {
  display: grid;
  gap: 1px;
  width: 100%;
  padding: 8px 6px;
  border: 0;
  border-top: 1px solid var(--line);
  background: none;
  color: var(--ink);
  font: inherit;
  text-align: left;
  cursor: pointer;
}

.chosen button {
  padding-left: 10px;
  background: var(--sheet);
  box-shadow: inset 3px 0 var(--given);
}

.tools {
  display: flex;
  align-items: center;
  gap: 12px;
  margin-bottom: 10px;
}

.title {
  flex: 1;
  font-size: var(--size-3);
  font-weight: 650;
}

h2 {
  margin: 16px 0 4px;
  font-size: var(--size-1);
}

h2:first-child {
  margin-top: 0;
}

.line {
  display: grid;
  grid-template-columns: 72px 1fr;
  align-items: center;
  gap: 8px;
  padding: 2px 0;
}

.line label {
  color: var(--ink-3);
}

.line :deep(:is(.el-date-editor, .el-select)) {
  width: 100%;
  min-width: 0;
}

.few {
  width: 64px;
}

.said {
  margin-top: 10px;
}
</style>
