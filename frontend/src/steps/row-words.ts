import type { Schemas } from "../api/client";
import { type Cell, shownCell } from "../components/rows/cells";

/** What a step makes of each of its rows, in words. */
export interface RowsOfStep {
  result: Schemas["Result"];
  beside: Cell[];
  kind: Schemas["Step"]["beside"];
  /** The columns that are grouped by: their values are what a group is called. */
  keys: string[];
}

/** A column's name without its table, in small letters. */
export function plainName(column: { name: string }): string {
  return column.name.replace(/^.*\./, "").toLowerCase();
}

/** Whether a new group or round begins with a row. */
export function begins({ beside, kind }: RowsOfStep, at: number): boolean {
  return Boolean(kind) && kind !== "truth" && beside[at] !== beside[at - 1];
}

/** Kept, false, unknown; the group; the round. */
export function says(rows: RowsOfStep, at: number): string {
  const value = rows.beside[at] ?? null;
  switch (rows.kind) {
    case "truth": return value === 1 ? "kept" : value === null ? "unknown" : "false";
    case "group": return groupName(rows, at);
    case "round": return value === 0 ? "start" : `round ${String(value)}`;
    default: return "";
  }
}

function groupName({ result, beside, keys }: RowsOfStep, at: number): string {
  const names = result.columns.map(plainName);
  const places = keys.map((key) => names.indexOf(key.toLowerCase()));
  if (!places.length || places.includes(-1)) return `group ${String(beside[at])}`;
  return places.map((place) => shownCell((result.rows[at]?.[place] ?? null) as Cell).text).join(", ");
}

/** A part of the condition, or the branch of a CASE that was taken: never a NULL of the data. */
export function tells(told: Schemas["Told"], value: Cell): string {
  if (told.what === "truth") return value === null ? "unknown" : Number(value) ? "true" : "false";
  return told.branches[Number(value) - 1] ?? (told.otherwise ? "ELSE" : "none: NULL");
}
