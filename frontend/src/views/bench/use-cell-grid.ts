import { computed, nextTick, type Ref, ref, watch } from "vue";

import { useRows } from "../../api/samples";
import type { Cell } from "../../components/rows/cells";
import { isCut, typedText } from "../../components/rows/typed-text";
import { type Bench, PAGE, type Pin } from "./use-bench";

/** The cells of a pinned table: which one is in hand, where keys lead from it, how it is changed. */
export function useCellGrid(bench: Bench, pin: () => Pin, frame: Ref<HTMLElement | null>) {
  const table = computed(() => bench.tableNamed(pin().table));
  const columns = computed(() => table.value?.columns ?? []);
  const wanted = computed(() => {
    const { table, sort, where, offset } = pin();
    return { table, sort, where, offset, limit: PAGE };
  });
  const { data: page, error } = useRows(bench.name, bench.version, wanted);
  const rows = computed(() => page.value?.rows ?? []);
  const isActive = computed(() => bench.active.value?.table === pin().table);
  const editing = ref(false);

  function activeAt(): { row: number; column: number } | null {
    const cell = bench.active.value;
    if (cell?.table !== pin().table) return null;
    const row = rows.value.findIndex((one) => one.number === cell.row);
    const column = columns.value.findIndex((one) => one.name === cell.column);
    return row < 0 || column < 0 ? null : { row, column };
  }

  /** The cell that Tab comes to: the one in hand, else the first. */
  function isStop(row: number, column: number): boolean {
    const at = activeAt();
    return at ? at.row === row && at.column === column : row === 0 && column === 0;
  }

  function isHere(number: number, column: string): boolean {
    const cell = bench.active.value;
    return cell?.table === pin().table && cell.row === number && cell.column === column;
  }

  function activate(number: number, column: string): void {
    bench.active.value = { table: pin().table, row: number, column };
    bench.chosen.value = pin().table;
  }

  async function focusCell(): Promise<void> {
    await nextTick();
    const cell = frame.value?.querySelector<HTMLElement>("td[tabindex='0']");
    cell?.focus();
    cell?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }

  async function moveTo(row: number, column: number): Promise<void> {
    const number = rows.value[Math.min(Math.max(row, 0), rows.value.length - 1)]?.number;
    const name = columns.value[Math.min(Math.max(column, 0), columns.value.length - 1)]?.name;
    if (number === undefined || name === undefined) return;
    activate(number, name);
    await focusCell();
  }

  /** The row to be in hand once the next page has come: its first or its last. */
  const landing = ref<"first" | "last" | null>(null);

  function turn(pages: number, land: "first" | "last" = "first"): void {
    const last = Math.max(0, Math.ceil((page.value?.matching ?? 0) / PAGE) - 1) * PAGE;
    const next = Math.min(Math.max(pin().offset + pages * PAGE, 0), last);
    if (next === pin().offset) return;
    landing.value = land;
    bench.turnTo(pin(), next);
  }

  watch(page, async () => {
    const at = bench.active.value;
    if (landing.value && at) {
      const row = landing.value === "first" ? rows.value[0] : rows.value[rows.value.length - 1];
      landing.value = null;
      if (row) {
        activate(row.number, at.column);
        await focusCell();
      }
    } else if (pin().marked !== null) {
      await nextTick();
      const marked = frame.value?.querySelector<HTMLElement>("tr.marked");
      marked?.scrollIntoView({ block: "nearest" });
      if (isActive.value) await focusCell();
    }
  });

  const STEPS: Record<string, [number, number]> = {
    ArrowUp: [-1, 0],
    ArrowDown: [1, 0],
    ArrowLeft: [0, -1],
    ArrowRight: [0, 1],
  };

  async function onKey(event: KeyboardEvent): Promise<void> {
    if (event.target instanceof HTMLInputElement || event.altKey) return;
    const at = activeAt();
    const step = STEPS[event.key];
    if (step && at) {
      event.preventDefault();
      const [down, right] = step;
      if (at.row + down < 0) return turn(-1, "last");
      if (at.row + down >= rows.value.length) return turn(1);
      await moveTo(at.row + down, at.column + right);
    } else if (event.key === "PageDown" || event.key === "PageUp") {
      event.preventDefault();
      turn(event.key === "PageDown" ? 1 : -1);
    } else if (event.key === "Home" || event.key === "End") {
      event.preventDefault();
      if (event.ctrlKey) {
        turn(event.key === "Home" ? -1e9 : 1e9, event.key === "Home" ? "first" : "last");
      } else if (at) await moveTo(at.row, event.key === "Home" ? 0 : columns.value.length);
    }
  }

  function startOf(number: number, column: number): string {
    const row = rows.value.find((one) => one.number === number);
    return typedText((row?.cells[column] ?? null) as Cell) ?? "";
  }

  async function take(number: number, at: number, text: string | null, onward: boolean): Promise<void> {
    const column = columns.value[at];
    if (!column) return;
    const before = rows.value.find((one) => one.number === number)?.cells[at] ?? null;
    if (isCut(before as Cell)) {
      bench.notice.value = "This value is too long to be changed here: only its beginning is shown.";
      editing.value = false;
      return;
    }
    const unchanged = typedText(before as Cell) === text;
    const done =
      unchanged ||
      (await bench.setCell({ table: pin().table, row: number, column: column.name }, text));
    if (!done) return;
    bench.problem.value = null;
    editing.value = false;
    const place = activeAt();
    if (onward && place) await moveTo(place.row, place.column + 1);
    else await focusCell();
  }

  function edit(): void {
    const column = columns.value.find((one) => one.name === bench.active.value?.column);
    if (table.value?.kind === "view" || !column || column.generated !== null) return;
    bench.problem.value = null;
    editing.value = true;
  }

  async function leave(): Promise<void> {
    editing.value = false;
    bench.problem.value = null;
    await focusCell();
  }

  watch(bench.active, () => {
    editing.value = false;
  });

  return { table, columns, page, error, rows, isActive, editing, isStop, isHere, activate, focusCell, moveTo, turn, onKey, startOf, take, edit, leave };
}
