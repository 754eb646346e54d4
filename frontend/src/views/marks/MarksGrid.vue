<script setup lang="ts">
import { computed, useTemplateRef, watch } from "vue";

import { MARK_SIGNS } from "../../api/terms";
import { counted, dayAndTime } from "../../composables/words";
import { type Group, ROW, useGridWindow } from "./use-grid-window";
import type { Column, MarksState, Row, Sheet } from "./use-marks";

/** Learners by exercises and sheets; only the rows and columns in sight are drawn. */
const props = defineProps<{ state: MarksState; isBusy: boolean }>();
const emit = defineEmits<{ open: [id: number]; publish: [sheet: Sheet]; unpublish: [sheet: Sheet] }>();
const { book, rows, columns, row, column } = props.state;

const frame = useTemplateRef<HTMLElement>("frame");

/** The columns sheet by sheet, each followed by its sum. */
const groups = computed<Group[]>(() =>
  (book.value?.sheets ?? []).map((sheet, at) => ({ sheet, at, columns: columns.value.filter((one) => one.sheetAt === at) })),
);

const { nameWidth, lanes, wholeWidth, from, until, left, right, drawn, drawnLanes } = useGridWindow(
  frame, computed(() => book.value?.rows), rows, groups,
);

watch([row, column], () => {
  const box = frame.value;
  if (!box || row.value < 0) return;
  const head = box.querySelector("thead")?.clientHeight ?? 0;
  const top = row.value * ROW;
  if (top < box.scrollTop) box.scrollTop = top;
  if (top + ROW > box.scrollTop + box.clientHeight - head - ROW) box.scrollTop = top + 2 * ROW - (box.clientHeight - head);
  box.querySelector(`[data-column="${column.value}"]`)?.scrollIntoView({ block: "nearest", inline: "nearest" });
});

const SIGNS: Record<string, string> = MARK_SIGNS;

function aloud(one: Row, at: number): string {
  const sign = one.signs[at] ?? " ";
  const days = one.late_days[at] ?? 0;
  return days && sign !== "l" ? `${SIGNS[sign]}, late` : days ? `${counted(days, "day")} late` : (SIGNS[sign] ?? "");
}

function cell(one: Row, at: number): string {
  const sign = one.signs[at];
  if (sign === "-") return "–";
  if (sign === "e") return "exc.";
  if (sign === "w") return "…";
  const mark = one.marks[at];
  return mark === null || mark === undefined ? "" : String(mark);
}

function word(sheet: Sheet): string {
  if (sheet.published_at) return "published";
  return sheet.counts_now ? "not published" : sheet.standing === "not_yet" ? "not open yet" : "open";
}

function holds(sheet: Sheet): string {
  const undecided = sheet.exercises.reduce((sum, one) => sum + one.undecided, 0);
  const outdated = sheet.exercises.reduce((sum, one) => sum + one.outdated, 0);
  const waiting = sheet.exercises.reduce((sum, one) => sum + one.waiting, 0);
  return [undecided && `${undecided} undecided`, outdated && `${outdated} out of date`, waiting && `${waiting} not graded`]
    .filter(Boolean).join(", ");
}

function when(sheet: Sheet): string {
  if (sheet.published_at) return `since ${dayAndTime(sheet.published_at)}`;
  const open = sheet.closes && !sheet.counts_now ? `until ${dayAndTime(sheet.closes)}` : "";
  return [open, holds(sheet)].filter(Boolean).join(" · ");
}

function weighs(sheet: Sheet): string {
  const best = sheet.best_of ? `best ${sheet.best_of} of ${sheet.exercises.length}` : "";
  return [sheet.weight === null ? "" : `weighs ${sheet.weight}`, best].filter(Boolean).join(", ");
}

/** The sum of a sheet; nothing where there is none yet. */
function sum(one: Row, { sheet, at, columns: own }: Group): string {
  const isBegun = sheet.counts_now || own.some((each) => one.signs[each.at] !== " ") || one.extra[at];
  return isBegun ? String(one.sums[at]) : "";
}

function percent(share: number | null): string {
  return share === null ? "" : String(Math.round(share * 100));
}

function choose(at: number, to: Column): void {
  row.value = at;
  column.value = to.at;
}
</script>

<template>
  <div ref="frame" class="frame" tabindex="0" aria-label="Marks, learners by exercises">
    <table v-if="book" class="grid" :aria-rowcount="rows.length" :aria-colcount="lanes.length + 1" :style="{ width: `${wholeWidth}px` }">
      <caption class="only-read-aloud">Marks of each learner for each exercise, with the sums of sheets and the total</caption>
      <colgroup>
        <col :style="{ width: `${nameWidth}px` }">
        <col v-for="one in lanes" :key="one.key" :style="{ width: `${one.width}px` }">
      </colgroup>
      <thead>
        <tr class="sheets">
          <th class="corner" rowspan="1" scope="col"><span class="only-read-aloud">learner</span></th>
          <th v-for="one in groups" :key="one.sheet.slug" :colspan="one.columns.length + 1" scope="colgroup"
            :class="['about', word(one.sheet).replaceAll(' ', '-')]">
            <span class="about-in"><b>{{ one.sheet.title }}</b> <b class="word">{{ word(one.sheet) }}</b>
              <small>{{ [weighs(one.sheet), when(one.sheet)].filter(Boolean).join(" · ") }}
                <ElButton v-if="one.sheet.published_at" link :disabled="isBusy" @click="emit('unpublish', one.sheet)">Take back</ElButton>
                <ElButton v-else-if="one.sheet.counts_now" link :disabled="isBusy" @click="emit('publish', one.sheet)">Publish</ElButton>
              </small></span>
          </th>
          <th scope="colgroup" class="about total"><b>Total</b> <small>so far</small></th>
        </tr>
        <tr class="names">
          <th class="corner" scope="col"><slot name="legend" /></th>
          <template v-for="one in groups" :key="one.sheet.slug">
            <th v-for="each in one.columns" :key="each.at" scope="col" :class="{ chosen: each.at === column }"
              :data-column="each.at"><span class="upright"><ElButton class="bare" tabindex="-1" @click="choose(Math.max(row, 0), each)">{{
                each.exercise.title }}</ElButton></span></th>
            <th scope="col" class="sum"><span class="upright"><b>sheet</b></span></th>
          </template>
          <th scope="col" class="sum"><span class="upright">of {{ book.total_points }} that count by now</span></th>
        </tr>
        <tr class="points">
          <th class="corner" scope="row">{{ counted(rows.length, "learner") }}</th>
          <template v-for="one in groups" :key="one.sheet.slug">
            <td v-for="each in one.columns" :key="each.at" :class="{ chosen: each.at === column }">{{ each.exercise.points }}</td>
            <td class="sum">{{ one.sheet.points }}</td>
          </template>
          <td class="sum">{{ book.total_points }}</td>
        </tr>
      </thead>
      <tbody>
        <tr v-if="from" aria-hidden="true" :style="{ height: `${from * ROW}px` }"><td /></tr>
        <tr v-for="(one, at) in drawn" :key="one.id" v-memo="[one, from + at === row, column, lanes, left, right]"
          :class="{ here: from + at === row }" :aria-rowindex="from + at + 1">
          <th scope="row" :data-hint="one.code">{{ one.name }}</th>
          <td v-if="left" :colspan="left" aria-hidden="true" class="away" />
          <template v-for="({ key, at: place, column: to, group }, nth) in drawnLanes" :key="key">
            <td v-if="to" :aria-colindex="left + nth + 2"
              :class="[`sign-${one.signs[place] === '-' ? 'none' : one.signs[place]}`, { chosen: place === column, cell: from + at === row && place === column }]"
              :aria-label="one.signs[place] === 'd' ? undefined : `${cell(one, place)} ${aloud(one, place)}`"
              @click="choose(from + at, to)" @dblclick="one.answers[place] && emit('open', one.answers[place] ?? 0)"><i
                v-if="one.signs[place] === 'u'" class="ring" aria-hidden="true" /><span v-if="one.signs[place] === 'o' || one.signs[place] === 'u'" class="mark">{{ cell(one, place)
                }}</span><template v-else>{{ cell(one, place) }}</template><sup v-if="one.signs[place] === 'u'" aria-hidden="true">?</sup><sup v-else-if="one.signs[place] === 'o'"
                aria-hidden="true">old</sup><sup v-else-if="one.signs[place] === 'l'" aria-hidden="true">{{ one.late_days[place] }}d</sup><i
                v-if="one.signs[place] === 'l'" class="lateness" aria-hidden="true" :style="{ width: `${Math.min(8 + 5 * (one.late_days[place] ?? 0), 22)}px` }" /></td>
            <td v-else class="sum" :aria-colindex="left + nth + 2"><span v-if="one.approximate[place]" class="about-sign" data-hint="may still change">≈</span>{{
              group ? sum(one, group) : one.total }}<sup v-if="group && one.extra[place]" data-hint="with an extra mark">+</sup></td>
          </template>
          <td v-if="right < lanes.length" :colspan="lanes.length - right" aria-hidden="true" class="away" />
        </tr>
        <tr v-if="until < rows.length" aria-hidden="true" :style="{ height: `${(rows.length - until) * ROW}px` }"><td /></tr>
      </tbody>
      <tfoot>
        <tr>
          <th scope="row">right, %<small>sums: median</small></th>
          <template v-for="one in groups" :key="one.sheet.slug">
            <td v-for="each in one.columns" :key="each.at" :class="{ chosen: each.at === column }">{{ percent(each.exercise.right) }}</td>
            <td class="sum">{{ one.sheet.median ?? "" }}</td>
          </template>
          <td class="sum">{{ book.total_median ?? "" }}</td>
        </tr>
      </tfoot>
    </table>
    <p v-if="book && !rows.length" class="quiet none">No learner of this kind.</p>
  </div>
</template>

<style scoped>
.frame {
  flex: 1;
  min-height: 0;
  overflow: auto;
}

.grid {
  table-layout: fixed;
  border-collapse: separate;
  border-spacing: 0;
  font: var(--size-1) var(--data);
}

thead {
  position: sticky;
  top: 0;
  z-index: 3;
}

thead th,
thead td {
  background: var(--sheet);
}

tfoot {
  position: sticky;
  bottom: 0;
  z-index: 2;
}

tfoot th,
tfoot td {
  border-top: 1.5px solid var(--ink);
  background: var(--sheet);
  color: var(--ink-3);
}

tfoot small {
  display: block;
}

th {
  font-family: var(--ui);
  font-weight: 600;
  text-align: left;
  white-space: nowrap;
}

.corner,
tbody th,
tfoot th {
  position: sticky;
  left: 0;
  z-index: 1;
  padding: 0 6px 0 0;
  overflow: hidden;
  background: var(--sheet);
  text-overflow: ellipsis;
}

.names .corner {
  vertical-align: bottom;
}

.about {
  padding: 2px 8px 4px;
  border-left: 1px solid var(--line);
  border-bottom: 4px solid var(--ink);
  vertical-align: top;
}

.about-in {
  display: block;
  width: 0;
  min-width: 100%;
  white-space: normal;
}

.about .word {
  float: right;
  margin-left: 8px;
  font-size: var(--size-0);
}

.about small {
  display: block;
}

.about.not-published {
  border-bottom-style: dashed;
}

.about.open,
.about.not-open-yet {
  border-bottom-style: dotted;
  border-bottom-color: var(--ink-3);
}

.about.total {
  border-bottom-color: var(--line);
}

.upright {
  display: flex;
  align-items: flex-start;
  height: 112px;
  max-width: 30px;
  margin: 0 auto;
  writing-mode: vertical-rl;
  rotate: 180deg;
  white-space: normal;
  line-height: 1.15;
  font-size: var(--size-0);
  font-weight: 500;
  text-align: left;
}

.upright button {
  height: 112px;
  min-width: 24px;
  padding: 0;
  overflow: hidden;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  text-align: left;
  writing-mode: inherit;
  cursor: pointer;
}

.points th,
.points td {
  border-bottom: 1px solid var(--ink);
  color: var(--ink-3);
  font-weight: 500;
}

tbody tr {
  height: 22px;
}

tbody th {
  border-bottom: 1px solid var(--line-soft);
  font-weight: 500;
}

td {
  position: relative;
  padding: 0 3px;
  border-bottom: 1px solid var(--line-soft);
  text-align: center;
  white-space: nowrap;
}

tbody td:not(.sum, .away) {
  cursor: pointer;
}

.sum {
  padding: 0 6px 0 3px;
  border-right: 1px solid var(--line);
  background: var(--paper);
  font-weight: 700;
  text-align: right;
}

.about-sign {
  margin-right: 4px;
  color: var(--ink-3);
  font-weight: 400;
}

sup {
  margin-left: 1px;
  color: var(--ink-2);
  font: 600 9.5px var(--ui);
  vertical-align: super;
  line-height: 0;
}

.sign-u .mark,
.sign-u sup {
  color: var(--given);
}

.ring {
  display: inline-block;
  width: 7px;
  height: 7px;
  margin-right: 3px;
  border: 1.5px solid var(--given);
  border-radius: 50%;
}

.sign-o .mark {
  padding: 0 3px;
  outline: 1px dashed var(--due);
}

.sign-none {
  background: repeating-linear-gradient(135deg, var(--line-soft) 0 2px, transparent 2px 6px);
  color: var(--ink-3);
}

.sign-e {
  color: var(--ink-3);
  font: italic 11px var(--ui);
}

.lateness {
  position: absolute;
  bottom: 1px;
  left: 7px;
  height: 2.5px;
  background: var(--ink-2);
}

.chosen {
  box-shadow: inset 1.5px 0 var(--given), inset -1.5px 0 var(--given);
}

.here th {
  background: var(--given-wash);
}

.here td:not(.sum, .away, .sign-none) {
  background: color-mix(in srgb, var(--given-wash) 55%, transparent);
}

.cell {
  outline: 2px solid var(--given);
  outline-offset: -2px;
}

.none {
  padding: 12px 0;
}
</style>
