<script setup lang="ts">
import { useClipboard, useIntersectionObserver } from "@vueuse/core";
import { computed, ref, useTemplateRef, watch } from "vue";

import type { Schemas } from "../../api/client";
import { ordinal, times } from "../../composables/words";
import { useValueCells } from "../../editor/value-cells";
import { type Cell, isNumeric } from "./cells";
import DataCell from "./DataCell.vue";
import WovenThreads from "./WovenThreads.vue";
import { wovenText } from "./woven-text";

/** Expected and submitted rows woven into one grid. */
const props = withDefaults(
  defineProps<{
    woven: Schemas["Woven"];
    onlyDifferences: boolean;
    /** What the two sides are called. */
    due?: string;
    given?: string;
    /** Whether the rows that are left out can be asked for. */
    canShowAll?: boolean;
  }>(),
  { due: "due", given: "given" },
);

const emit = defineEmits<{ all: [] }>();

type Line = Schemas["WovenLine"];

const lines = computed(() =>
  props.onlyDifferences
    ? props.woven.lines.filter((line) => line.kind !== "agrees" && line.kind !== "tie")
    : props.woven.lines,
);

/** Rows are drawn as far as they are seen: the next ones when the last is in sight. */
const PORTION = 150;
const drawnCount = ref(PORTION);
const drawn = computed(() => lines.value.slice(0, drawnCount.value));
const end = useTemplateRef<HTMLElement>("end");
useIntersectionObserver(end, ([entry]) => {
  if (entry?.isIntersecting) drawnCount.value += PORTION;
}, { rootMargin: "600px" });
watch(() => props.woven, () => {
  drawnCount.value = PORTION;
});

const { copy, copied, isSupported } = useClipboard({ legacy: true });
function copyAsText(): void {
  void copy(wovenText(props.woven.columns, lines.value, (line) => aloud.value[line.kind], says));
}

const dueOnly = computed(() => `${props.due}, not ${props.given}`);
const givenOnly = computed(() => `${props.given}, not ${props.due}`);

const aloud = computed<Record<Line["kind"], string>>(() => ({
  agrees: "agrees",
  absent: `absent: ${dueOnly.value}`,
  extra: `not asked for: ${givenOnly.value}`,
  differs: "cells differ",
  moved: "moved",
  times: `not as often as ${props.due}`,
  tie: "agrees, in another order within a tie",
}));

function says(line: Line): string {
  switch (line.kind) {
    case "absent":
      return dueOnly.value;
    case "extra":
      return givenOnly.value;
    case "differs":
      return line.wrong.map((at) => props.woven.columns[at]?.due ?? "").join(", ");
    case "moved":
      return `${props.due} ${ordinal(line.due_at ?? 0)}, ${props.given} ${ordinal(line.given_at ?? 0)}`;
    case "times":
      return `${props.due} ${times(line.times_due ?? 0)}, ${props.given} ${times(line.times_given ?? 0)}`;
    case "tie":
      return "tie: any order";
    default:
      return "";
  }
}

function isRenamed({ due, given }: Schemas["WovenColumn"]): boolean {
  return due !== null && given !== null && due !== given;
}

/** The cell to show where the row is on one side, or both sides agree. */
function cell(line: Line, at: number): Cell {
  const column = props.woven.columns[at];
  const side = column && column.due === null ? line.given : (line.due ?? line.given);
  return side?.[at] ?? null;
}

/** Whether a row has nothing in this column: it is on the other side only. */
function isVoid(line: Line, at: number): boolean {
  const column = props.woven.columns[at];
  return (column?.due === null && !line.given) || (column?.given === null && !line.due);
}

const body = useTemplateRef<HTMLElement>("body");
const values = useValueCells({
  body,
  rows: () => drawn.value.length,
  columns: () => props.woven.columns.length,
  // Of two values the one that is due; a click takes either.
  valueAt: (row, place) => {
    const line = drawn.value[row];
    return line && !isVoid(line, place) ? cell(line, place) : undefined;
  },
});

function bracket(at: number): string {
  const line = lines.value[at];
  if (!line || line.tie === null) return "";
  const before = lines.value[at - 1]?.tie === line.tie;
  const after = lines.value[at + 1]?.tie === line.tie;
  if (!before && !after) return "";
  return before ? (after ? "inside" : "last") : "first";
}
</script>

<template>
  <table class="woven">
    <caption class="only-read-aloud">
      Rows of both sides woven together: {{ due }} and {{ given }}
    </caption>
    <thead>
      <tr>
        <th class="margin" scope="col"><span class="due">{{ due }}</span> <span
            class="given">{{ given }}</span></th>
        <th v-for="(column, at) in woven.columns" :key="at" scope="col" :class="{
          number: isNumeric(column.kind),
          lacking: column.given === null,
          surplus: column.due === null,
        }">
          {{ column.due ?? column.given
          }}<small v-if="column.given === null">{{ dueOnly }}</small><small
            v-else-if="column.due === null">{{ givenOnly }}</small><small v-else>{{ column.kind }}</small>
          <small v-if="isRenamed(column)" class="renamed">{{ given }} as {{ column.given }}</small>
        </th>
        <th class="says" scope="col"><span class="only-read-aloud">what differs</span></th>
      </tr>
    </thead>
    <tbody ref="body" v-bind="values.attributes('Woven rows')">
      <tr v-for="(line, at) in drawn" :key="at" :class="[line.kind, { twofold: line.wrong.length }]"
        :data-kind="line.kind">
        <th class="margin" scope="row">
          <WovenThreads :line="line" />
          <span v-if="bracket(at)" class="bracket" :class="bracket(at)" aria-hidden="true" />
          <span class="only-read-aloud">{{ aloud[line.kind] }}</span>
        </th>
        <td v-for="(column, place) in woven.columns" :key="place"
          :class="{
            number: isNumeric(column.kind),
            'due-only': column.given === null,
            'given-only': column.due === null,
            active: values.isActive(at, place),
          }" @click="values.take(at, place)">
          <span v-if="line.wrong.includes(place)" class="both">
            <span class="due"><span class="only-read-aloud">{{ due }}</span>
              <DataCell :value="line.due?.[place] ?? null" /></span>
            <span class="given" @click.stop="values.put(line.given?.[place] ?? null)"><span class="only-read-aloud">{{ given }}</span>
              <DataCell :value="line.given?.[place] ?? null" /></span>
          </span>
          <span v-else-if="isVoid(line, place)" class="void" aria-label="nothing here">–</span>
          <DataCell v-else :value="cell(line, place)" />
        </td>
        <td class="says">{{ says(line) }}</td>
      </tr>
    </tbody>
  </table>
  <p v-if="drawn.length < lines.length" ref="end" class="quiet none">{{ lines.length - drawn.length }} more rows …</p>
  <p v-if="isSupported && lines.length" class="copy"><ElButton link @click="copyAsText">{{ copied ? "Copied" : "Copy as text" }}</ElButton></p>
  <p v-if="!lines.length" class="quiet none">
    {{ onlyDifferences && woven.lines.length ? "Every row agrees." : "No rows on either side." }}
  </p>
  <p v-if="woven.left_out" class="quiet none">
    {{ woven.left_out.toLocaleString("en") }} more rows are not shown; rows that differ come first.
    <ElButton v-if="canShowAll" link @click="emit('all')">Show all rows</ElButton>
  </p>
  <p v-if="woven.partial" class="quiet none">
    So many rows differ that not all of them were paired by their cells.
  </p>
</template>

<style scoped>
.woven {
  width: 100%;
  border-collapse: separate;
  border-spacing: 0;
  font: var(--size-1) var(--data);
}

thead th {
  position: sticky;
  top: -14px;
  z-index: 1;
  padding: 4px 10px;
  border-bottom: 1.5px solid var(--ink);
  background: var(--sheet);
  font: 600 var(--size-1) var(--ui);
  text-align: left;
  vertical-align: bottom;
}

thead small {
  display: block;
}

thead .renamed {
  max-width: 150px;
  margin-left: auto;
  color: var(--given);
  overflow-wrap: anywhere;
}

thead th:not(.number) .renamed {
  margin-left: 0;
}

thead .margin {
  border-bottom: 0;
  font-size: 10.5px;
  padding: 4px 0;
  white-space: nowrap;
}

.margin .due {
  color: var(--due);
}

.margin .given {
  color: var(--given);
}

.margin {
  width: 64px;
  min-width: 64px;
}

tbody .margin {
  position: relative;
}

td {
  height: var(--row);
  padding: 0 10px;
  border-bottom: 1px solid var(--line-soft);
}

.twofold td {
  height: 38px;
}

.number {
  text-align: right;
}

.says {
  width: 120px;
  color: var(--ink-2);
  font: var(--size-0) var(--ui);
}

thead .lacking {
  color: var(--due);
}

thead .surplus {
  color: var(--given);
}

.absent td,
td.due-only {
  background: repeating-linear-gradient(135deg, var(--due-wash) 0 6px, var(--due-stripe) 6px 12px);
  color: var(--due);
}

.extra td,
td.given-only {
  background: var(--given-wash);
  color: var(--given);
}

.absent .says,
.extra .says {
  color: inherit;
}

.both {
  display: inline-flex;
  flex-direction: column;
  gap: 1px;
  font-size: 12px;
  line-height: 15px;
}

.both > span {
  padding: 0 2px 0 5px;
  border-left: 2px solid;
}

.both .due {
  border-color: var(--due);
  color: var(--due);
}

.both .given {
  border-color: var(--given);
  color: var(--given);
  font-weight: 650;
}

.void {
  color: var(--ink-3);
}

.bracket {
  position: absolute;
  left: 46px;
  top: 0;
  bottom: 0;
  width: 6px;
  border-left: 1.5px solid var(--ink-3);
}

.bracket.first {
  top: 5px;
  border-top: 1.5px solid var(--ink-3);
}

.bracket.last {
  bottom: 5px;
  border-bottom: 1.5px solid var(--ink-3);
}

.none {
  padding: 10px;
}

.copy {
  padding-top: 4px;
  text-align: right;
}

.copy .el-button {
  font-size: var(--size-0);
}
</style>
