import { inject, ref, type ShallowRef } from "vue";

import type { Schemas } from "../api/client";
import type { Cell } from "../components/rows/cells";
import { INSERT_VALUE, literalOf } from "./literals";

/** A grid of values that can be put into the text beside it. */
export interface ValueGrid {
  body: Readonly<ShallowRef<HTMLElement | null>>;
  rows: () => number;
  columns: () => number;
  /** The value of a cell; nothing where there is none. */
  valueAt: (row: number, column: number) => Cell | undefined;
}

/**
 * Values that go into the text of the editor beside their grid: by a click, or by Enter where the
 * arrow keys have moved to. Where no editor stands beside it, nothing of that is there.
 */
export function useValueCells({ body, rows, columns, valueAt }: ValueGrid) {
  const insert = inject(INSERT_VALUE, undefined);
  const active = ref({ row: 0, column: 0 });
  const hasFocus = ref(false);

  function put(value: Cell | undefined): void {
    const literal = value === undefined ? undefined : literalOf(value);
    if (literal !== undefined) insert?.(literal);
  }

  function take(row: number, column: number): void {
    active.value = { row, column };
    put(valueAt(row, column));
  }

  function onKey(event: KeyboardEvent): void {
    if (!insert || event.ctrlKey || event.metaKey || event.altKey) return;
    const { row, column } = active.value;
    const steps: Record<string, [number, number]> = {
      ArrowDown: [1, 0], ArrowUp: [-1, 0], ArrowRight: [0, 1], ArrowLeft: [0, -1],
    };
    const step = steps[event.key];
    if (event.key === "Enter") take(row, column);
    else if (step) {
      const next = (at: number, count: number) => Math.min(Math.max(at, 0), Math.max(count - 1, 0));
      active.value = { row: next(row + step[0], rows()), column: next(column + step[1], columns()) };
      body.value?.querySelectorAll("tr")[active.value.row]?.scrollIntoView({ block: "nearest" });
    } else return;
    event.preventDefault();
    event.stopPropagation();
  }

  function isActive(row: number, column: number): boolean {
    return hasFocus.value && active.value.row === row && active.value.column === column;
  }

  /** What the body of the grid is given: it takes the focus where its values go somewhere. */
  function attributes(label: string): Record<string, unknown> {
    if (!insert) return {};
    return {
      "tabindex": rows() ? 0 : undefined,
      "aria-label": `${label}: Enter puts a value into the text`,
      "class": "gives",
      "onKeydown": onKey,
      "onFocus": () => { hasFocus.value = true; },
      "onBlur": () => { hasFocus.value = false; },
      // A click must not take the caret out of the text.
      "onMousedown": (event: MouseEvent) => { event.preventDefault(); },
    };
  }

  return { canPut: insert !== undefined, put, take, isActive, attributes };
}

/** The same for the rows of a result. */
export function useResultCells(body: ValueGrid["body"], result: () => Schemas["Result"]) {
  return useValueCells({
    body,
    rows: () => result().rows.length,
    columns: () => result().columns.length,
    valueAt: (row, column) => (result().rows[row]?.[column] ?? null) as Cell,
  });
}
