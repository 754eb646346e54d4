import { useElementSize, useScroll } from "@vueuse/core";
import { computed, type ComputedRef, type Ref } from "vue";

import type { Column, Row, Sheet } from "./use-marks";

/** A sheet with its columns. */
export interface Group {
  sheet: Sheet;
  at: number;
  columns: Column[];
}

/**
 * One column of the table: an exercise on its sheet, or the sum of a sheet, or of all where there is none.
 * `at` is its place in the rows' lists: of cells, or of sums.
 */
export interface Lane {
  key: string;
  at: number;
  width: number;
  column?: Column;
  group?: Group;
}

export const ROW = 22;
/** Rows, and columns, come and go some at a time: between two of these steps scrolling draws nothing. */
const STEP = 4;

const DIGIT = 7.85;
const SMALL = 6;
/** What stands at the left and right of what is in a cell, and of what is in a sum. */
const CELL = 7;
const SUM = 10;
const NAME = { least: 126, most: 168, letter: 6.6 };

/** How wide a column is for what stands in it: it keeps its width while rows come and go. */
function widthOf(least: number, lengths: Iterable<number>): number {
  let widest = least;
  for (const one of lengths) if (one > widest) widest = one;
  return Math.ceil(widest);
}

function cellLength(row: Row, at: number): number {
  const sign = row.signs[at];
  const mark = row.marks[at];
  const digits = sign === "e" ? 4 : mark === null || mark === undefined ? 1 : String(mark).length;
  const beside = sign === "u" ? 10 + SMALL : sign === "o" ? 6 + 3 * SMALL : sign === "l" ? SMALL * (1 + String(row.late_days[at] ?? 0).length) : 0;
  return CELL + digits * DIGIT + beside;
}

function sumLength(row: Row, value: number | undefined, at: number): number {
  return SUM + String(value ?? "").length * DIGIT + (row.approximate[at] ? 13 : 0) + (row.extra[at] ? SMALL : 0);
}

/** Which part of the grid of marks is in sight, and how wide each of its columns is. */
export function useGridWindow(
  frame: Ref<HTMLElement | null>, all: Ref<Row[] | undefined>, rows: ComputedRef<Row[]>, groups: ComputedRef<Group[]>,
) {
  const { x, y } = useScroll(frame);
  const { width, height } = useElementSize(frame);

  const nameWidth = computed(() => {
    const longest = Math.max(0, ...(all.value ?? []).map((one) => one.name.length));
    return Math.min(NAME.most, Math.max(NAME.least, Math.ceil(longest * NAME.letter + 8)));
  });
  const lanes = computed<Lane[]>(() => {
    const everybody = all.value ?? [];
    const found: Lane[] = groups.value.flatMap((group) => [
      ...group.columns.map((column) => ({
        key: `cell-${column.at}`, at: column.at, column, width: widthOf(31, everybody.map((one) => cellLength(one, column.at))),
      })),
      { key: `sum-${group.at}`, at: group.at, group, width: widthOf(44, everybody.map((one) => sumLength(one, one.sums[group.at], group.at))) },
    ]);
    const last = groups.value.length;
    return [...found, { key: "total", at: last, width: widthOf(46, everybody.map((one) => sumLength(one, one.total, last))) }];
  });
  /** Where each column begins, and where the last one ends. */
  const edges = computed(() => {
    let at = nameWidth.value;
    return [at, ...lanes.value.map((one) => (at += one.width))];
  });
  const wholeWidth = computed(() => edges.value.at(-1) ?? 0);

  const from = computed(() => Math.max(0, Math.floor(y.value / ROW / STEP) * STEP - STEP));
  const until = computed(() =>
    Math.min(rows.value.length, Math.ceil((y.value + height.value) / ROW / STEP) * STEP + STEP),
  );
  const left = computed(() => {
    const first = edges.value.findIndex((edge) => edge > x.value + nameWidth.value) - 1;
    return Math.max(0, Math.floor((first - 1) / STEP) * STEP);
  });
  const right = computed(() => {
    const last = edges.value.findIndex((edge) => edge >= x.value + width.value);
    return Math.min(lanes.value.length, last < 0 ? lanes.value.length : Math.ceil((last + 1) / STEP) * STEP);
  });

  return {
    nameWidth, lanes, wholeWidth, from, until, left, right,
    drawn: computed(() => rows.value.slice(from.value, until.value)),
    drawnLanes: computed(() => lanes.value.slice(left.value, right.value)),
  };
}
