import type { InjectionKey } from "vue";

import type { Cell } from "../components/rows/cells";

/** Puts a value into the text of the editor that stands beside it. */
export const INSERT_VALUE: InjectionKey<(literal: string) => void> = Symbol("insert a value");

/** A value as SQL writes it; nothing for a value that is only shown in part. */
export function literalOf(cell: Cell): string | undefined {
  if (cell === null) return "NULL";
  if (typeof cell === "boolean") return cell ? "TRUE" : "FALSE";
  if (typeof cell === "number") return String(cell);
  if (typeof cell === "string") return `'${cell.replace(/'/g, "''")}'`;
  if ("cut" in cell) return undefined;
  const [tag, value] = Object.entries(cell)[0] ?? ["", ""];
  if (["integer", "float", "decimal"].includes(tag)) return String(value);
  if (tag === "blob") return `x'${String(value)}'`;
  return typeof value === "string" ? `'${value.replace(/'/g, "''")}'` : undefined;
}
