<script setup lang="ts">
import { useClipboard } from "@vueuse/core";
import { computed, nextTick, ref, useTemplateRef } from "vue";
import { useRoute, useRouter } from "vue-router";

import type { Cell } from "../../components/rows/cells";
import StateNotice from "../../components/notices/StateNotice.vue";
import { isCut, typedText } from "../../components/rows/typed-text";
import { useInAddress } from "../../composables/use-address";
import { useKeys } from "../../composables/use-keys";
import { usePageName } from "../../composables/use-page-title";
import { dayAndTime } from "../../composables/words";
import { literalOf } from "../../editor/literals";
import ColumnFacts from "./ColumnFacts.vue";
import PinnedTable from "./PinnedTable.vue";
import QueryDock from "./QueryDock.vue";
import SampleMap from "../../components/map/SampleMap.vue";
import ShowingList from "./ShowingList.vue";
import { useBench } from "./use-bench";
import VersionsPanel from "./VersionsPanel.vue";

const route = useRoute();
const router = useRouter();
const sampleName = computed(() => String(route.params.sample));
const datasetName = useInAddress("data", "");
const bench = useBench(sampleName, datasetName);
const { sample, isPending, error, refetch, state, pins, chosen, active, notice, problem } = bench;
usePageName(() => sample.value?.name);

type Part = "rows" | "query" | "versions";
const part = ref<Part>("rows");
const parts = [
  { label: "rows", value: "rows" },
  { label: "query", value: "query" },
  { label: "versions", value: "versions" },
];
const beside = ref(false);

const map = useTemplateRef<InstanceType<typeof SampleMap>>("map");
const showing = useTemplateRef<InstanceType<typeof ShowingList>>("showing");
const query = useTemplateRef<InstanceType<typeof QueryDock>>("query");
const versions = useTemplateRef<InstanceType<typeof VersionsPanel>>("versions");
const grids = ref<Record<string, InstanceType<typeof PinnedTable> | null>>({});

const datasets = computed(() =>
  (sample.value?.datasets ?? []).map((one) => ({
    label: one.is_open ? `${one.name} data` : one.name,
    value: one.name,
  })),
);
const shownDataset = computed({
  get: () => bench.dataset.value,
  set: (data: string) => {
    datasetName.value = data;
  },
});
const place = computed(() =>
  state.value ? `version ${state.value.version}, ${dayAndTime(state.value.changed_at)}` : "",
);

const { copy, isSupported } = useClipboard({ legacy: true });

function grid() {
  return grids.value[active.value?.table ?? ""] ?? grids.value[pins.value[0]?.table ?? ""];
}

async function copyCell(): Promise<void> {
  const cell = active.value;
  const here = cell && grids.value[cell.table];
  const at = here?.columns.findIndex((one) => one.name === cell?.column) ?? -1;
  const row = here?.rows.find((one) => one.number === cell?.row);
  if (!cell || !row || at < 0) return;
  const text = typedText((row.cells[at] ?? null) as Cell);
  if (isSupported.value) await copy(text ?? "");
  const whole = !isCut((row.cells[at] ?? null) as Cell);
  notice.value = text === null ? "NULL: nothing to copy" : `copied${whole ? "" : ", its beginning"}: ${text}`;
}

function duplicate(): void {
  const cell = active.value;
  const here = cell && grids.value[cell.table];
  const row = here?.rows.find((one) => one.number === cell?.row);
  const table = cell && bench.tableNamed(cell.table);
  if (!cell || !here || !row || !table) return;
  const values: Record<string, string | null> = {};
  here.columns.forEach((column, at) => {
    const numbered =
      table.primary_key.length === 1 && table.primary_key[0] === column.name
      && column.type_name === "integer";
    if (column.generated === null && !numbered && !isCut((row.cells[at] ?? null) as Cell)) {
      values[column.name] = typedText((row.cells[at] ?? null) as Cell);
    }
  });
  bench.draft(cell.table, values);
  void here.focusDraft();
}

function newRow(): void {
  const table = active.value?.table ?? chosen.value;
  if (bench.tableNamed(table)?.kind === "view") return;
  bench.draft(table);
  void nextTick(() => grids.value[table]?.focusDraft());
}

async function setNull(): Promise<void> {
  if (active.value) await bench.setCell(active.value, null);
}

async function deleteRow(): Promise<void> {
  const cell = active.value;
  if (!cell || cell.row <= 0) return;
  const here = grids.value[cell.table];
  const at = here?.rows.findIndex((one) => one.number === cell.row) ?? 0;
  const column = here?.columns.findIndex((one) => one.name === cell.column) ?? 0;
  if (await bench.deleteRow(cell)) {
    notice.value = `row ${cell.row} of ${cell.table} deleted; Ctrl Z takes it back`;
    setTimeout(() => {
      // Whoever has gone on meanwhile keeps the focus.
      if (active.value === cell && !bench.drafts.value.length) void here?.moveTo(at, column);
    }, 150);
  }
}

async function follow(): Promise<void> {
  await bench.follow();
  await grids.value[active.value?.table ?? ""]?.focusCell();
}

function sort(): void {
  const pin = active.value && bench.pinOf(active.value.table);
  if (pin && active.value) bench.sortBy(pin, active.value.column, false);
}

/** The value in hand as SQL writes it; nothing where there is none, or where only a part of it is shown. */
function literalInHand(): string | undefined {
  const cell = active.value;
  const here = cell && grids.value[cell.table];
  const at = here?.columns.findIndex((one) => one.name === cell?.column) ?? -1;
  const value = here?.rows.find((one) => one.number === cell?.row)?.cells[at];
  return value === undefined ? undefined : literalOf(value as Cell);
}

/** Narrows the table in hand to the rows with the value in hand; again, to all. */
function sameValue(): void {
  const cell = active.value;
  const pin = cell && bench.pinOf(cell.table);
  const literal = literalInHand();
  if (!cell || !pin || literal === undefined) return;
  const name = `"${cell.column.replaceAll('"', '""')}"`;
  const where = literal === "NULL" ? `${name} IS NULL` : `${name} = ${literal}`;
  bench.narrow(pin, pin.where === where ? "" : where);
}

/** Puts the value in hand into the query. */
async function valueIntoQuery(): Promise<void> {
  const literal = literalInHand();
  if (literal === undefined) return;
  part.value = "query";
  await nextTick();
  query.value?.insert(literal);
}

async function toQuery(): Promise<void> {
  part.value = "query";
  await nextTick();
  query.value?.focus();
}

function nextTable(): void {
  const at = pins.value.findIndex((pin) => pin.table === active.value?.table);
  const next = pins.value[(at + 1) % pins.value.length];
  if (next) void grids.value[next.table]?.moveTo(0, 0);
}

function step(by: number): void {
  if (part.value === "versions") versions.value?.step(by);
  else if (active.value === null) nextTable();
}

function leave(): void {
  if (bench.drafts.value.length) bench.dropDrafts();
  else if (part.value !== "rows") part.value = "rows";
  else void router.push({ name: "samples" });
}

async function addMissing(): Promise<void> {
  part.value = "rows";
  await showing.value?.addNext();
  await nextTick();
  const table = bench.drafts.value[0]?.table;
  if (table) await grids.value[table]?.focusDraft();
}

useKeys([
  { key: "m", cap: "M", says: "map", act: () => map.value?.focusChosen() },
  { key: "p", cap: "P", says: "pin a table", act: () => bench.togglePin(chosen.value) },
  { key: "e", cap: "E", says: "edit cell", act: () => grid()?.edit() },
  { key: "n", cap: "N", says: "new row", act: newRow },
  { key: "f", cap: "F", says: "follow key", act: () => void follow() },
  { key: "b", cap: "B", says: "back", act: () => bench.goBack() },
  { key: "c", cap: "C", says: "copy value", act: () => void copyCell() },
  { key: "a", cap: "A", says: "add a missing kind", act: () => void addMissing() },
  { key: "q", cap: "Q", says: "query", act: () => void toQuery() },
  { key: "i", cap: "I", says: "value into the query", rare: true, act: () => void valueIntoQuery() },
  { key: "v", cap: "V", says: "versions", act: () => { part.value = "versions"; } },
  { key: "z", ctrl: true, cap: "Ctrl Z", says: "undo", act: () => void bench.undo() },
  { key: "y", ctrl: true, cap: "Ctrl Y", says: "redo", act: () => void bench.redo(), rare: true },
  { key: "d", cap: "D", says: "duplicate the row", act: duplicate, rare: true },
  { key: "Delete", cap: "Del", says: "delete the row", act: () => void deleteRow(), rare: true },
  { key: "Backspace", cap: "⌫", says: "make the cell NULL", act: () => void setNull(), rare: true },
  { key: "s", cap: "S", says: "sort by the column", act: sort, rare: true },
  { key: "=", cap: "=", says: "only rows with this value", act: sameValue, rare: true },
  { key: "w", cap: "W", says: "only rows where …", act: () => grid()?.focusCondition(), rare: true },
  { key: "t", cap: "T", says: "next table", act: nextTable, rare: true },
  { key: "r", cap: "R", says: "rows", act: () => { part.value = "rows"; }, rare: true },
  { key: "l", cap: "L", says: "tables beside or below each other", rare: true,
    act: () => { beside.value = !beside.value; } },
  { key: "j", cap: "J", says: "next missing kind", act: () => showing.value?.step(1), rare: true },
  { key: "k", cap: "K", says: "missing kind before", act: () => showing.value?.step(-1), rare: true },
  { key: "ArrowDown", cap: "↓", says: "into the rows; version before", act: () => step(1), rare: true },
  { key: "ArrowUp", cap: "↑", says: "later version", act: () => step(-1), rare: true },
  { key: "Enter", cap: "⏎", says: "edit cell", act: () => grid()?.edit(), rare: true },
  { key: "Escape", cap: "Esc", says: "all samples", act: leave, rare: true },
]);
</script>

<template>
  <StateNotice :alone="!sample" :waiting="isPending" :problem="error" @again="refetch()" />
  <main v-if="sample" class="task bench" :class="{ wide: part === 'versions' }">
    <section v-show="part !== 'versions'" class="left">
      <div class="tools">
        <h1>{{ sample.name }}</h1>
        <ElSegmented v-model="shownDataset" :options="datasets" aria-label="Dataset" />
        <small class="place">{{ place }}</small>
        <RouterLink :to="{ name: 'make', query: { from: sample.name, where: 'in-place' } }">Change tables</RouterLink>
      </div>
      <SampleMap ref="map" v-model:chosen="chosen" :tables="sample.tables" :counts="bench.counts.value"
        :pinned="pins.map((pin) => pin.table)" @pin="bench.togglePin" />
      <div class="below">
        <ShowingList ref="showing" :bench="bench" />
        <ColumnFacts :bench="bench" />
      </div>
    </section>
    <section class="sheet right">
      <div class="tools">
        <template v-if="part === 'versions'">
          <h1>{{ sample.name }}</h1>
          <ElSegmented v-model="shownDataset" :options="datasets" aria-label="Dataset" />
        </template>
        <ElSegmented v-model="part" :options="parts" aria-label="What the right shows" />
        <p class="said" aria-live="polite">{{ notice }}</p>
        <ElTooltip :content="state?.undo" :disabled="!state?.undo"><ElButton :disabled="!state?.undo" @click="bench.undo()">Undo</ElButton></ElTooltip>
        <ElTooltip :content="state?.redo" :disabled="!state?.redo"><ElButton :disabled="!state?.redo" @click="bench.redo()">Redo</ElButton></ElTooltip>
      </div>
      <p v-if="problem && !problem.column" class="problem" role="alert">{{ problem.message }}</p>
      <div v-show="part !== 'versions'" class="pins" :class="{ beside }">
        <p v-if="!pins.length" class="quiet">
          Choose a table on the map: its rows come here, beside those of other tables.
        </p>
        <PinnedTable v-for="pin in pins" :key="pin.table"
          :ref="(one) => { grids[pin.table] = one as InstanceType<typeof PinnedTable> | null; }"
          :bench="bench" :pin="pin" />
      </div>
      <QueryDock v-show="part === 'query'" ref="query" :bench="bench" @leave="part = 'rows'" />
      <VersionsPanel v-if="part === 'versions'" ref="versions" :bench="bench" />
    </section>
  </main>
</template>

<style scoped>
.bench {
  grid-template-columns: minmax(380px, 44%) 1fr;
}

.wide {
  grid-template-columns: 1fr;
}

.bench > * {
  display: flex;
  flex-direction: column;
  overflow: hidden;
  padding-bottom: 8px;
}

.tools {
  display: flex;
  align-items: center;
  gap: 10px;
  min-height: 28px;
  margin-bottom: 6px;
}

h1 {
  font-size: var(--size-2);
}

.place {
  margin-left: auto;
  white-space: nowrap;
}

.said {
  flex: 1;
  color: var(--ink-2);
  text-align: right;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}

.below {
  display: grid;
  flex: none;
  grid-template-columns: 1fr 230px;
  gap: 18px;
  height: 232px;
  padding-top: 8px;
  border-top: 1px solid var(--line);
}

@media (max-width: 1150px) {
  .below {
    grid-template-columns: 1fr 170px;
    gap: 12px;
  }
}

.below > * {
  min-height: 0;
  overflow: auto;
}

.pins {
  display: flex;
  flex: 1;
  flex-direction: column;
  gap: 14px;
  min-height: 0;
  overflow: auto;
}

.pins > * {
  flex: 1 1 0;
  min-height: 170px;
}

.beside {
  flex-direction: row;
}

.beside > * {
  min-width: 300px;
}

.right > .dock {
  flex: 1 1 0;
  height: auto;
  margin-top: 10px;
  padding-top: 8px;
  border-top: 1px solid var(--line);
}
</style>
