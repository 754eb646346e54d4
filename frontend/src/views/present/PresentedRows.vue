<script setup lang="ts">
import { computed } from "vue";

import type { Schemas } from "../../api/client";
import { type Cell, isNumeric, placesOf } from "../../components/rows/cells";
import DataCell from "../../components/rows/DataCell.vue";
import { begins, says, tells } from "../../steps/row-words";
import { keysOf } from "../../steps/trace";

/** The rows at a step, large: signs before them, and what the condition says of each behind. */
const props = defineProps<{
  result: Schemas["Result"];
  step: Schemas["Step"];
  beside: Cell[];
  told: Schemas["Told"][];
  /** What the columns of `told` hold, a list a row. */
  values: Cell[][];
  /** The row that is looked at; -1 for none. */
  looked: number;
  isAdded: (at: number) => boolean;
}>();

const rows = computed(() => ({ result: props.result, beside: props.beside, kind: props.step.beside, keys: keysOf(props.step) }));
/** What becomes of a row: its group and its round are said where they begin. */
function becomes(at: number): string {
  return rows.value.kind === "truth" || begins(rows.value, at) ? says(rows.value, at) : "";
}
function toldOf(one: Schemas["Told"], at: number, place: number): string {
  return tells(one, props.values[at]?.[place] ?? null);
}
</script>

<template>
  <table>
    <thead>
      <tr>
        <th v-if="step.beside" scope="col"><span class="only-read-aloud">what becomes of the row</span></th>
        <th v-for="(column, nth) in result.columns" :key="nth" scope="col" :class="{ number: isNumeric(column.kind) }">{{ column.name }}</th>
        <th v-for="(one, nth) in told" :key="`told ${nth}`" scope="col" class="told"><code>{{ one.text }}</code></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(row, nth) in result.rows" :key="nth"
        :class="[step.beside === 'truth' ? becomes(nth) : '', { begins: step.beside === 'group' && becomes(nth), looked: nth === looked, new: isAdded(nth) }]">
        <th v-if="step.beside" scope="row"><i v-if="step.beside === 'truth'" class="sign" aria-hidden="true" />{{ becomes(nth) }}</th>
        <td v-for="(cell, place) in row" :key="place" :class="{ last: place + 1 === row.length, number: isNumeric(result.columns[place]?.kind ?? '') }"><DataCell :value="cell" :places="placesOf(result.columns[place]?.declared ?? '')" /></td>
        <td v-for="(one, place) in told" :key="`told ${place}`" class="told" :class="one.what === 'truth' ? toldOf(one, nth, place) : 'taken'"><span>{{ toldOf(one, nth, place) }}</span></td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
table {
  border-collapse: collapse;
}

th,
td {
  padding: 4px 16px 4px 0;
  text-align: left;
  white-space: nowrap;
}

thead th {
  position: sticky;
  top: -14px;
  border-bottom: 3px solid var(--ink);
  background: var(--sheet);
}

td {
  border-bottom: 1px solid var(--line);
  font-family: var(--data);
}

tbody th {
  font-weight: 700;
}

.number {
  text-align: right;
}

.sign {
  display: inline-block;
  width: 0.8em;
  height: 0.8em;
  margin-right: 0.4em;
  border: 3px solid var(--ink);
}

.kept .sign {
  background: var(--ink);
}

.false .sign {
  background: linear-gradient(to top right, transparent 44%, var(--ink) 44% 56%, transparent 56%);
}

.false td {
  color: var(--ink-3);
  text-decoration: line-through;
}

.unknown .sign {
  border-style: dotted;
  border-radius: 50%;
}

.unknown td,
.unknown th {
  border-top: 3px dotted var(--ink-2);
  border-bottom: 3px dotted var(--ink-2);
}

/* What the condition says of a row is not of the row: it stands apart, and is never struck through. */
td.told {
  border-left: 2px dotted var(--line);
  padding-left: 12px;
  color: var(--ink);
  text-decoration: none;
}

th.told {
  max-width: 12em;
  padding-left: 12px;
  white-space: normal;
}

th.told code {
  font-size: 1em;
}

.told.true span {
  padding-left: 8px;
  border-left: 6px solid var(--thread);
}

.told.false span {
  padding-left: 8px;
  border-left: 6px solid var(--line);
}

.told.unknown span {
  padding-left: 8px;
  border-left: 6px dotted var(--ink-2);
}

.new td.last {
  position: relative;
}

.new td.last::after {
  content: "new";
  position: absolute;
  left: calc(100% - 8px);
  color: var(--thread);
  font-family: var(--ui);
  font-weight: 700;
}

.begins td,
.begins th {
  border-top: 3px solid var(--thread);
}

.looked td,
.looked th {
  background: var(--wash);
}

:deep(.value) {
  white-space: pre;
}

:deep(.null),
:deep(.empty) {
  font-size: 1em;
}
</style>
