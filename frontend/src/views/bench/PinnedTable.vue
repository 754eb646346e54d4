<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef, watch } from "vue";

import { useProfile } from "../../api/samples";
import { placesOf } from "../../components/rows/cells";
import DataCell from "../../components/rows/DataCell.vue";
import TableNotes from "../../components/rows/TableNotes.vue";
import { counted } from "../../composables/words";
import CellEditor from "./CellEditor.vue";
import { headWords, isNumber } from "./column-words";
import DraftCell from "./DraftCell.vue";
import type { Bench, Pin } from "./use-bench";
import { useCellGrid } from "./use-cell-grid";

/** One table with its rows: sorted, narrowed, paged, changed in place. */
const props = defineProps<{ bench: Bench; pin: Pin }>();

const bench = props.bench;
const frame = useTemplateRef<HTMLElement>("frame");
const {
  table, columns, page, error, rows, isActive, editing, isStop, isHere, activate, focusCell, moveTo, turn, onKey, startOf, take, edit, leave,
} = useCellGrid(bench, () => props.pin, frame);
const { data: profile } = useProfile(bench.name, bench.version, () => props.pin.table);
const facts = computed(() => new Map(profile.value?.columns.map((one) => [one.name, one])));

const condition = ref(props.pin.where);
watch(
  () => props.pin.where,
  (where) => {
    condition.value = where;
  },
);

const drafts = computed(() =>
  bench.drafts.value
    .map((draft, at) => ({ draft, at }))
    .filter(({ draft }) => draft.table === props.pin.table),
);

function problemAt(row: number, column: string): string {
  const problem = bench.problem.value;
  const here = problem?.table === props.pin.table && problem.row === row;
  return here && problem.column === column ? problem.message : "";
}

/** The first column stays in sight beside a wide table's others, where it is the key. */
function isKept(column: string): boolean {
  return columns.value[0]?.name === column && Boolean(table.value?.primary_key.includes(column));
}

function sorted(column: string): "ascending" | "descending" | "none" {
  if (props.pin.sort.includes(column)) return "ascending";
  return props.pin.sort.includes(`-${column}`) ? "descending" : "none";
}

function otherwise(column: (typeof columns.value)[number]): string {
  if (column.generated !== null) return "computed";
  if (column.default !== null) return column.default;
  const key = table.value?.primary_key;
  if (key?.length === 1 && key[0] === column.name && column.type_name === "integer") return "next";
  return column.not_null ? "wanted" : "NULL";
}

async function focusDraft(): Promise<void> {
  await nextTick();
  frame.value?.querySelector<HTMLInputElement>("tr.draft input:not(:disabled)")?.focus();
}

async function addDrafts(): Promise<void> {
  if (await bench.addDrafts()) await focusCell();
}

function focusCondition(): void {
  frame.value?.querySelector<HTMLInputElement>(".condition input")?.focus();
}

const shown = computed(() => {
  if (!page.value?.rows.length) return "";
  const first = page.value.offset + 1;
  const last = page.value.offset + page.value.rows.length;
  if (first === 1 && last === page.value.matching) return "";
  return `${first.toLocaleString("en")} – ${last.toLocaleString("en")}`;
});

defineExpose({ focusCell, focusDraft, focusCondition, edit, moveTo, rows, columns });
</script>

<template>
  <section ref="frame" class="pin" :aria-label="pin.table" :data-pin="pin.table">
    <header>
      <h2>{{ pin.table }}</h2>
      <small v-if="table?.stands_in">rows on its own engine alone</small>
      <small v-else-if="page">
        {{ pin.where ? `${page.matching.toLocaleString("en")} of ` : ""
        }}{{ page.total === 1 ? "1 row" : `${page.total.toLocaleString("en")} rows` }}
      </small>
      <ElInput v-model="condition" class="condition" :aria-label="`only rows of ${pin.table} where`" placeholder="only rows where …" spellcheck="false" autocomplete="off" @keydown.enter="bench.narrow(pin, condition)" @keydown.esc="bench.narrow(pin, ''); condition = ''; focusCell()" @change="bench.narrow(pin, condition)" />
      <span v-if="shown" class="pages">
        <ElTooltip content="Page Up"><ElButton link aria-label="page before" @click="turn(-1)">‹</ElButton></ElTooltip>
        {{ shown }}
        <ElTooltip content="Page Down"><ElButton link aria-label="next page" @click="turn(1)">›</ElButton></ElTooltip>
      </span>
      <ElButton v-if="table?.kind !== 'view'" link @click="bench.draft(pin.table); focusDraft()">new row</ElButton>
      <ElButton link @click="bench.togglePin(pin.table)">
        Close<span class="only-read-aloud"> {{ pin.table }}</span></ElButton>
    </header>
    <TableNotes v-if="table" :table="table" columns />
    <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
    <div class="frame">
      <table role="grid" :aria-label="pin.table" :aria-rowcount="page?.matching" @keydown="onKey">
        <thead>
          <tr>
            <th v-for="column in columns" :key="column.name" scope="col"
              :class="{ number: isNumber(column), stays: isKept(column.name) }"
              :aria-sort="sorted(column.name)">
              <ElButton class="bare" tabindex="-1"
                :data-hint="`sort by ${column.name}; with Shift after the other columns`"
                @click="bench.sortBy(pin, column.name, $event.shiftKey)">
                {{ column.name }}<span v-if="sorted(column.name) !== 'none'" class="arrow"
                  aria-hidden="true">{{ sorted(column.name) === "ascending" ? "↑" : "↓" }}</span>
              </ElButton>
              <small v-if="table && !table.stands_in">{{ headWords(table, column, facts.get(column.name)) }}</small>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, at) in rows" :key="row.number || at"
            :class="{ marked: row.number === pin.marked, inhand: isActive && row.number === bench.active.value?.row }">
            <td v-for="(cell, place) in row.cells" :key="place" role="gridcell"
              :class="{ number: columns[place] && isNumber(columns[place]), here: isHere(row.number, columns[place]?.name ?? ''), wrong: problemAt(row.number, columns[place]?.name ?? ''), stays: isKept(columns[place]?.name ?? '') }"
              :tabindex="isStop(at, place) ? 0 : -1"
              :aria-selected="isHere(row.number, columns[place]?.name ?? '')"
              @click="activate(row.number, columns[place]?.name ?? ''); focusCell()"
              @focus="isHere(row.number, columns[place]?.name ?? '') || activate(row.number, columns[place]?.name ?? '')"
              @dblclick="edit()">
              <CellEditor v-if="editing && isHere(row.number, columns[place]?.name ?? '')"
                :label="`${columns[place]?.name} of row ${row.number}`"
                :start="startOf(row.number, place)"
                :problem="problemAt(row.number, columns[place]?.name ?? '')"
                @take="(text, onward) => take(row.number, place, text, onward)" @leave="leave" />
              <DataCell v-else :value="cell" :places="placesOf(columns[place]?.type ?? '')" />
              <span v-if="problemAt(row.number, columns[place]?.name ?? '')" class="refusal"
                role="alert">{{ problemAt(row.number, columns[place]?.name ?? "") }}</span>
            </td>
          </tr>
          <tr v-for="{ draft, at } in drafts" :key="`draft-${at}`" class="draft">
            <td v-for="column in columns" :key="column.name" role="gridcell"
              :class="{ number: isNumber(column), wrong: problemAt(-1 - at, column.name) }">
              <DraftCell v-if="column.generated === null" v-model="draft.values[column.name]"
                :label="`${column.name} of the new row of ${pin.table}`"
                :otherwise="otherwise(column)" :problem="problemAt(-1 - at, column.name)"
                @add="addDrafts" @leave="bench.dropDrafts(); focusCell()" />
              <small v-else>computed</small>
              <span v-if="problemAt(-1 - at, column.name)" class="refusal" role="alert">{{
                problemAt(-1 - at, column.name) }}</span>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="page && !rows.length && !drafts.length" class="quiet none">
        {{ table?.stands_in ? "To see its rows, open the query (Q) and choose the engine that it is written for." : pin.where ? "No row meets the condition." : "No rows yet." }}
      </p>
    </div>
    <p v-if="drafts.length" class="adding">
      <ElButton type="primary" @click="addDrafts">
        Add {{ counted(bench.drafts.value.length, "row") }}
      </ElButton>
      <ElButton @click="bench.dropDrafts(); focusCell()">Discard</ElButton>
      <small>Ctrl Backspace makes a cell NULL; a cell left alone takes its default.</small>
    </p>
  </section>
</template>

<style scoped>
.pin {
  display: flex;
  flex-direction: column;
  min-height: 90px;
  min-width: 0;
}

header {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-bottom: 4px;
}

h2 {
  white-space: nowrap;
}

header small {
  white-space: nowrap;
}

.condition {
  flex: 1;
  min-width: 90px;
  padding: 1px 7px;
  border-color: transparent;
  border-bottom-color: var(--line);
  border-radius: 0;
  background: none;
  font: 12px var(--data);
}

.pages {
  color: var(--ink-2);
  font-size: var(--size-0);
  white-space: nowrap;
}

.pages button {
  padding: 0 4px;
  text-decoration: none;
  font-size: 15px;
}

.frame {
  flex: 1;
  min-height: 0;
  overflow: auto;
}

table {
  min-width: 100%;
  border-collapse: separate;
  border-spacing: 0;
  font: var(--size-1) var(--data);
}

th {
  position: sticky;
  top: 0;
  z-index: 1;
  padding: 0 10px 3px;
  border-bottom: 1.5px solid var(--ink);
  background: var(--sheet);
  font-family: var(--ui);
  text-align: left;
  vertical-align: bottom;
  white-space: nowrap;
}

th button {
  display: block;
  width: 100%;
  padding: 0;
  border: 0;
  background: none;
  color: var(--ink);
  font: 600 var(--size-1) var(--ui);
  text-align: inherit;
  cursor: pointer;
}

th small {
  display: block;
}

.arrow {
  margin-left: 3px;
  color: var(--given);
}

td {
  position: relative;
  height: 25px;
  padding: 0 10px;
  border-bottom: 1px solid var(--line-soft);
  max-width: 380px;
  white-space: nowrap;
  cursor: default;
}

td:not(.wrong) :deep(.value) {
  display: inline-block;
  max-width: 360px;
  overflow: hidden;
  text-overflow: ellipsis;
  vertical-align: bottom;
  white-space: pre;
}

.number {
  text-align: right;
}

.stays {
  position: sticky;
  left: 0;
  z-index: 1;
  background: var(--sheet);
}

th.stays {
  z-index: 2;
}

.inhand td {
  background: var(--paper);
}

.marked td {
  background: var(--given-wash);
}

.here {
  outline: 2px solid var(--focus);
  outline-offset: -2px;
}

td:focus {
  outline: 2px solid var(--focus);
  outline-offset: -2px;
}

.wrong {
  outline: 2px solid var(--stop);
  outline-offset: -2px;
}

.refusal {
  display: block;
  min-width: 150px;
  padding: 2px 0;
  color: var(--stop);
  font: var(--size-0) / 1.3 var(--ui);
  text-align: left;
  white-space: normal;
}

.draft td {
  padding: 3px 4px;
  background: var(--due-stripe);
}

.none {
  padding: 8px 10px;
}

.adding {
  display: flex;
  align-items: center;
  gap: 8px;
  padding-top: 6px;
}
</style>
