import { computed, type Ref, ref } from "vue";

import type { Schemas } from "../../api/client";
import { useMarks } from "../../api/marking";
import { useInAddress } from "../../composables/use-address";

export type Row = Schemas["MarkRow"];
export type Sheet = Schemas["MarkSheet"];

/** One column of the grid: an exercise on its sheet; `at` is its place in the rows' lists. */
export interface Column {
  sheet: Sheet;
  sheetAt: number;
  exercise: Schemas["MarkColumn"];
  at: number;
}

export const STATES = {
  all: { says: "all", sign: "" },
  undecided: { says: "undecided", sign: "u" },
  outdated: { says: "out of date", sign: "o" },
  late: { says: "late", sign: "l" },
  missing: { says: "not handed in", sign: "-" },
} as const;
export type MarkState = keyof typeof STATES;

/** The marks, narrowed and sorted, with a cell chosen. */
export function useMarksPage() {
  const { data: book, isPending, error, refetch } = useMarks();
  const wanted = useInAddress("learner", "");
  const sort = useInAddress("sort", "name");
  const state = useInAddress<MarkState>("state", "all", Object.keys(STATES) as MarkState[]);
  const row = ref(-1);
  const column = ref(-1);

  const columns = computed<Column[]>(() => {
    let at = 0;
    return (book.value?.sheets ?? []).flatMap((sheet, sheetAt) =>
      sheet.exercises.map((exercise) => ({ sheet, sheetAt, exercise, at: at++ })),
    );
  });

  const counts = computed<Record<MarkState, number>>(() => {
    const found = { all: 0, undecided: 0, outdated: 0, late: 0, missing: 0 };
    for (const one of book.value?.rows ?? []) {
      for (const sign of one.signs) {
        const named = (Object.keys(STATES) as MarkState[]).find((each) => STATES[each].sign === sign);
        if (named) found[named] += 1;
      }
      // A sign says the first thing of a cell only: what is late may be undecided too.
      found.late += [...one.signs].filter((sign, at) => sign !== "l" && (one.late_days[at] ?? 0) > 0).length;
    }
    return found;
  });

  const rows = computed<Row[]>(() => {
    const words = wanted.value.trim().toLowerCase();
    const sign = STATES[state.value].sign;
    const found = (book.value?.rows ?? []).filter(
      (one) =>
        (!words || one.name.toLowerCase().includes(words) || one.code.toLowerCase().includes(words)) &&
        (!sign || one.signs.includes(sign) || (sign === "l" && one.late_days.some((days) => days > 0))),
    );
    return sorted(found, sort.value, book);
  });

  const chosenRow = computed(() => rows.value[row.value]);
  const chosenColumn = computed(() => columns.value[column.value]);

  function move(down: number, right: number): void {
    row.value = Math.min(Math.max(row.value + down, 0), rows.value.length - 1);
    column.value = Math.min(Math.max(column.value + right, 0), columns.value.length - 1);
  }

  const SORTS = computed(() => [
    { value: "name", label: "name" },
    { value: "total", label: "total" },
    ...(book.value?.sheets ?? []).map((one, at) => ({ value: `sheet-${at}`, label: one.title })),
  ]);
  function turnSort(): void {
    const all = SORTS.value.map((one) => one.value);
    sort.value = all[(all.indexOf(sort.value) + 1) % all.length] ?? "name";
  }

  return {
    book, isPending, error, refetch, wanted, sort, SORTS, state, counts, columns, rows, row, column, chosenRow,
    chosenColumn, move, turnSort,
  };
}

function sorted(rows: Row[], sort: string, book: Ref<Schemas["Gradebook"] | undefined>): Row[] {
  if (sort === "total") return [...rows].sort((one, other) => other.total - one.total);
  const at = Number(sort.replace("sheet-", ""));
  if (sort.startsWith("sheet-") && book.value?.sheets[at]) {
    return [...rows].sort((one, other) => (other.sums[at] ?? 0) - (one.sums[at] ?? 0));
  }
  return [...rows].sort((one, other) => one.name.localeCompare(other.name));
}

export type MarksState = ReturnType<typeof useMarksPage>;
