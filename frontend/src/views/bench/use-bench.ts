import { computed, reactive, type Ref, ref, watch } from "vue";

import type { Schemas } from "../../api/client";
import {
  type DatasetName,
  type Edit,
  EditRefused,
  fetchChildren,
  fetchParent,
  fetchPlace,
  fetchSuggestion,
  useDataset,
  useDatasetChanges,
  useSample,
} from "../../api/samples";
import { useInAddress } from "../../composables/use-address";
import { counted } from "../../composables/words";

export const PAGE = 100;

/** A table in sight with its rows. */
export interface Pin {
  table: string;
  sort: string[];
  where: string;
  offset: number;
  /** The row to bring in sight and mark, by its number. */
  marked: number | null;
}

/** A row that is not in the table yet: texts by column, null for NULL, none for the default. */
export interface Draft {
  table: string;
  values: Record<string, string | null>;
}

export interface ActiveCell {
  table: string;
  row: number;
  column: string;
}

export interface Problem {
  table: string;
  column: string;
  /** The row's number, or the draft's place below zero. */
  row: number;
  message: string;
}

/** The sample bench: which tables are in sight, the cell in hand, rows in the making. */
export function useBench(sampleName: Ref<string>, datasetName: Ref<string>) {
  const { data: sample, isPending, error, refetch } = useSample(sampleName);
  const dataset = computed(() => datasetName.value || sample.value?.datasets[0]?.name || "");
  const name = computed<DatasetName>(() => ({
    sample: sampleName.value,
    dataset: dataset.value,
  }));
  const { data: state } = useDataset(name);
  const version = computed(() =>
    state.value?.name === dataset.value ? state.value.version : undefined,
  );
  const changes = useDatasetChanges(name);

  const pins = ref<Pin[]>([]);
  const chosen = useInAddress("table", "");
  /** The tables in sight, as the address says them. */
  const inSight = useInAddress("beside", "");
  const active = ref<ActiveCell | null>(null);
  const drafts = ref<Draft[]>([]);
  const problem = ref<Problem | null>(null);
  const notice = ref("");
  const begun = ref("");
  const trail = ref<{ pins: Pin[]; active: ActiveCell | null }[]>([]);

  const tables = computed(() => sample.value?.tables ?? []);
  const counts = computed(() => rowCounts(state.value));

  function tableNamed(table: string): Schemas["TableSchema"] | undefined {
    return tables.value.find((one) => one.name === table);
  }

  function newPin(table: string): Pin {
    return { table, sort: [], where: "", offset: 0, marked: null };
  }

  watch(
    [tables, sampleName, counts],
    ([, name], before) => {
      const known = new Set(tables.value.map((table) => table.name));
      pins.value = pins.value.filter((pin) => known.has(pin.table));
      if (!known.size || !counts.value.size) return;
      const first = mostTelling(tables.value, counts.value);
      if (!known.has(chosen.value)) chosen.value = first;
      if (begun.value === name && before) return;
      const isReturn = begun.value === "" && inSight.value;
      begun.value = name;
      const wanted = isReturn
        ? inSight.value.split(",").filter((one) => known.has(one))
        : firstPins(tables.value, chosen.value);
      pins.value = wanted.map(newPin);
    },
    { immediate: true },
  );
  watch(
    () => pins.value.map((pin) => pin.table).join(","),
    (names) => {
      if (begun.value) inSight.value = names;
    },
  );
  watch(name, () => {
    drafts.value = [];
    problem.value = null;
    trail.value = [];
    pins.value.forEach((pin) => Object.assign(pin, { offset: 0, marked: null }));
  });

  function pinOf(table: string): Pin | undefined {
    return pins.value.find((pin) => pin.table === table);
  }

  /** Brings a table in sight, or puts it away. */
  function togglePin(table: string): void {
    if (pinOf(table)) {
      pins.value = pins.value.filter((pin) => pin.table !== table);
      if (active.value?.table === table) active.value = null;
    } else {
      pins.value.push(newPin(table));
      active.value = null;
    }
  }

  function pinned(table: string): Pin {
    if (!pinOf(table)) pins.value.push(newPin(table));
    return pinOf(table) as Pin;
  }

  /** Sorts by a column: rising, falling, then no more; with others kept where wanted. */
  function sortBy(pin: Pin, column: string, also: boolean): void {
    const others = also ? pin.sort.filter((key) => key.replace(/^-/, "") !== column) : [];
    const now = pin.sort.find((key) => key.replace(/^-/, "") === column);
    const next = now === undefined ? [column] : now === column ? [`-${column}`] : [];
    pin.sort = [...others, ...next];
    pin.offset = 0;
  }

  function narrow(pin: Pin, where: string): void {
    pin.where = where.trim();
    pin.offset = 0;
    pin.marked = null;
  }

  function turnTo(pin: Pin, offset: number): void {
    pin.offset = offset;
  }

  async function attempt(work: () => Promise<unknown>, row = 0): Promise<boolean> {
    problem.value = null;
    notice.value = "";
    try {
      await work();
      return true;
    } catch (refused) {
      const said = refused as EditRefused;
      problem.value = {
        table: said.table ?? "",
        column: said.column ?? "",
        row: row < 0 ? -1 - (said.edit ?? 0) : row,
        message: said.message,
      };
      return false;
    }
  }

  function setCell(cell: ActiveCell, text: string | null): Promise<boolean> {
    const edit: Edit = {
      do: "update", table: cell.table, row: cell.row, values: { [cell.column]: text },
    };
    return attempt(() => changes.edit.mutateAsync([edit]), cell.row);
  }

  function deleteRow(cell: ActiveCell): Promise<boolean> {
    const edit: Edit = { do: "delete", table: cell.table, rows: [cell.row] };
    return attempt(() => changes.edit.mutateAsync([edit]), cell.row);
  }

  function draft(table: string, values: Draft["values"] = {}): void {
    pinned(table);
    drafts.value.push(reactive({ table, values }));
    problem.value = null;
  }

  function dropDrafts(): void {
    drafts.value = [];
    problem.value = null;
  }

  /** Adds all rows in the making, together or not at all. */
  async function addDrafts(): Promise<boolean> {
    const made = drafts.value;
    const edits: Edit[] = made.map((one) => ({ do: "insert", ...one }));
    let added: number[] = [];
    const done = await attempt(async () => {
      added = (await changes.edit.mutateAsync(edits)).added;
    }, -1);
    if (!done) return false;
    drafts.value = [];
    notice.value = `${counted(added.length, "row")} added`;
    await Promise.all(made.map((one, at) => show(one.table, added[at] ?? 0)));
    const first = made[0]?.table ?? "";
    active.value = { table: first, row: added[0] ?? 0, column: firstKey(first) };
    return true;
  }

  /** Brings a row in sight and marks it. */
  async function show(table: string, row: number): Promise<void> {
    const pin = pinned(table);
    let found = await fetchPlace(name.value, table, row, { sort: pin.sort, where: pin.where });
    if (found.place === null) {
      pin.where = "";
      found = await fetchPlace(name.value, table, row, { sort: pin.sort, where: "" });
    }
    pin.offset = Math.floor((found.place ?? 0) / PAGE) * PAGE;
    pin.marked = row;
    chosen.value = table;
  }

  function remember(): void {
    trail.value.push({
      pins: pins.value.map((pin) => ({ ...pin })),
      active: active.value && { ...active.value },
    });
  }

  /** From a foreign key value to its row, or from a key to the rows that refer to it. */
  async function follow(): Promise<void> {
    const cell = active.value;
    const table = cell && tableNamed(cell.table);
    if (!cell || !table || cell.row <= 0) return;
    if (table.foreign_keys.some((key) => key.columns.includes(cell.column))) {
      const parent = await fetchParent(name.value, cell.table, cell.row, cell.column);
      if (!parent.table || parent.row === null) {
        notice.value = `${cell.column} refers to no row here`;
        return;
      }
      remember();
      await show(parent.table, parent.row);
      active.value = { table: parent.table, row: parent.row, column: firstKey(parent.table) };
      return;
    }
    await followBack(cell);
  }

  async function followBack(cell: ActiveCell): Promise<void> {
    const children = (await fetchChildren(name.value, cell.table, cell.row)).filter(
      (one) => one.count,
    );
    const [first] = children;
    if (!first) {
      notice.value = `no row refers to this row of ${cell.table}`;
      return;
    }
    remember();
    // Each time it is asked again, the next table that refers here is shown.
    const at = children.findIndex((one) => pinOf(one.table)?.where === one.where);
    const next = children[(at + 1) % children.length] ?? first;
    const pin = pinned(next.table);
    narrow(pin, next.where);
    chosen.value = next.table;
    notice.value = `${counted(next.count, "row")} of ${next.table} refer${next.count === 1 ? "s" : ""} to it`;
  }

  function firstKey(table: string): string {
    const found = tableNamed(table);
    return found?.primary_key[0] ?? found?.columns[0]?.name ?? "";
  }

  /** Back to where the last link was followed from. */
  function goBack(): void {
    const before = trail.value.pop();
    if (!before) return;
    pins.value = before.pins;
    active.value = before.active;
    if (before.active) chosen.value = before.active.table;
  }

  async function suggest(showing: Schemas["Showing"]): Promise<void> {
    const done = await attempt(async () => {
      const found = await fetchSuggestion(name.value, showing.id);
      if (!found.rows.length) throw new Error(found.why);
      drafts.value = [];
      found.rows.forEach((row) => draft(row.table, { ...row.values }));
    });
    if (done) notice.value = `made for: ${showing.words}. Change it as you like, then add it.`;
  }

  async function undo(): Promise<void> {
    await attempt(async () => {
      notice.value = (await changes.undo.mutateAsync()).summary;
    });
  }

  async function redo(): Promise<void> {
    await attempt(async () => {
      notice.value = (await changes.redo.mutateAsync()).summary;
    });
  }

  return {
    sample, isPending, error, refetch, dataset, name, state, version, changes, tables, counts,
    pins, chosen, active, drafts, problem, notice, trail, tableNamed, pinOf, togglePin, sortBy,
    narrow, turnTo, setCell, deleteRow, draft, dropDrafts, addDrafts, show, follow, goBack, suggest, undo,
    redo,
  };
}

export type Bench = ReturnType<typeof useBench>;

/** How many rows each table has. */
export function rowCounts(dataset: Schemas["Dataset"] | undefined): Map<string, number> {
  return new Map((dataset?.tables ?? []).map((table) => [table.name, table.rows]));
}

/** The table with the most rows among those that refer to others: what a sample is mostly about. */
function mostTelling(tables: Schemas["TableSchema"][], counts: Map<string, number>): string {
  const weight = (table: Schemas["TableSchema"]) =>
    (table.foreign_keys.length ? 1e12 : 0) + (counts.get(table.name) ?? 0);
  return [...tables].sort((one, other) => weight(other) - weight(one))[0]?.name ?? "";
}

/** The tables that are in sight at first: that one, and one that it refers to. */
function firstPins(tables: Schemas["TableSchema"][], first: string): string[] {
  const keys = tables.find((table) => table.name === first)?.foreign_keys ?? [];
  const parent = keys.map((key) => key.table).find((table) => table !== first);
  return parent ? [first, parent] : [first];
}
