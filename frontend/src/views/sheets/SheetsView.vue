<script setup lang="ts">
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import { useCourse } from "../../api/people";
import StateNotice from "../../components/StateNotice.vue";
import { useKeys } from "../../composables/use-keys";
import { counted, dayAndTime } from "../../composables/words";
import SheetEntries from "./SheetEntries.vue";
import { useSheetDesk } from "./use-sheet-desk";

const router = useRouter();
const desk = useSheetDesk();
const { sheets, isPending, error, refetch, slug, chosen, body, problem, isChanged, total } = desk;
const leaving = ref(false);

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
  { key: "s", ctrl: true, cap: "Ctrl S", says: "keep", always: true, act: () => void desk.keep() },
  { key: "ArrowDown", cap: "↓", says: "next sheet", act: () => desk.turn(1) },
  { key: "ArrowUp", cap: "↑", says: "sheet before", act: () => desk.turn(-1) },
  { key: "n", cap: "N", says: "new sheet", act: () => desk.choose("") },
  { key: "Escape", cap: "Esc", says: "all exercises", act: () => void router.push({ name: "exercises" }) },
]);
</script>

<template>
  <StateNotice :waiting="isPending" :problem="error" @again="refetch()" />
  <main v-if="sheets" class="task sheets">
    <section aria-label="Sheets">
      <h1>Sheets</h1>
      <ol>
        <li v-for="sheet in sheets" :key="sheet.slug" :class="{ chosen: sheet.slug === slug }">
          <button type="button" :aria-current="sheet.slug === slug" @click="desk.choose(sheet.slug)">
            <b>{{ sheet.title }}</b>
            <small>{{ counted(sheet.entries.length, "exercise") }}, {{ counted(sheet.points, "point") }}</small>
            <small>{{ state(sheet) }}</small>
          </button>
        </li>
      </ol>
      <p><button type="button" class="button" @click="desk.choose('')">New sheet</button></p>
    </section>
    <section v-if="body" class="sheet" aria-label="Exercises of the sheet">
      <div class="tools">
        <label class="only-read-aloud" for="sheet-title">title</label>
        <input id="sheet-title" v-model="body.title" class="field title" placeholder="Title of the sheet">
        <span class="quiet">{{ counted(body.exercises.length, "exercise") }}, {{ counted(total, "point") }}</span>
        <button type="button" class="button" :class="{ main: isChanged }" :disabled="!isChanged"
          @click="desk.keep()">Keep</button>
      </div>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <SheetEntries v-model:body="body" :by-slug="desk.bySlug.value" :rest="desk.rest.value"
        @add="desk.add" @shift="desk.shift" />
    </section>
    <aside v-if="body" aria-label="When, how often, and what late means">
      <h2>When</h2>
      <p class="line"><label for="opens">opens</label>
        <input id="opens" v-model="body.opens" class="field" type="datetime-local"></p>
      <p class="line"><label for="closes">closes</label>
        <input id="closes" v-model="body.closes" class="field" type="datetime-local"></p>
      <p class="quiet">Times are those of {{ course?.zone }}. Left empty, a sheet is open from the start, or never closes.</p>
      <h2>How often</h2>
      <p class="line"><label for="attempts">attempts</label>
        <input id="attempts" class="field" type="number" min="1" placeholder="any number"
          :value="body.attempts ?? ''"
          @change="body.attempts = ($event.target as HTMLInputElement).value === '' ? null
            : Number(($event.target as HTMLInputElement).value)"></p>
      <h2>Late answers</h2>
      <p class="line"><label for="late">are</label>
        <select id="late" v-model="body.late!.rule" class="field">
          <option value="refuse">not taken</option>
          <option value="accept">taken, marked in full</option>
          <option value="reduce">taken, marked down</option>
        </select></p>
      <p v-if="body.late!.rule === 'reduce'" class="line"><label for="percent">each day</label>
        <span><input id="percent" v-model.number="body.late!.percent_a_day" class="field few" type="number"
          min="0.1" max="100" step="any"> % off</span></p>
      <p v-if="body.late!.rule !== 'refuse'" class="line"><label for="days">at most</label>
        <span><input id="days" class="field few" type="number" min="1" placeholder="any"
          :value="body.late!.days ?? ''"
          @change="body.late!.days = ($event.target as HTMLInputElement).value === '' ? null
            : Number(($event.target as HTMLInputElement).value)"> days</span></p>
      <p class="said">{{ late }}</p>
      <template v-if="chosen">
        <p v-if="!leaving" class="said"><button type="button" class="word-button" @click="leaving = true">delete
          this sheet</button></p>
        <p v-else class="said">Its exercises stay.
          <button type="button" class="button" @click="leaving = false; desk.remove()">Delete</button>
          <button type="button" class="word-button" @click="leaving = false">no</button></p>
      </template>
    </aside>
  </main>
</template>

<style scoped>
.sheets {
  grid-template-columns: 260px 1fr 316px;
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

.few {
  width: 64px;
}

.said {
  margin-top: 10px;
}
</style>
