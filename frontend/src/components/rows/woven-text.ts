import type { Schemas } from "../../api/client";
import { type Cell, shownCell } from "./cells";

type Line = Schemas["WovenLine"];

/** One cell in plain text; blanks at the ends are seen, as on the page. */
function cellText(value: unknown): string {
  const cell = shownCell(value as Cell);
  if (cell.kind === "empty") return "''";
  return "·".repeat(cell.before) + cell.text.replace(/\s+/g, " ") + "·".repeat(cell.after);
}

/** A woven table as plain text, its columns below one another: for a mail or a note. */
export function wovenText(
  columns: Schemas["WovenColumn"][],
  lines: Line[],
  kindOf: (line: Line) => string,
  says: (line: Line) => string,
): string {
  const head = ["", ...columns.map((one) => one.due ?? one.given ?? ""), ""];
  const rows = lines.map((line) => [
    kindOf(line),
    ...columns.map((column, at) => {
      if (line.wrong.includes(at)) {
        return `${cellText(line.due?.[at] ?? null)} ≠ ${cellText(line.given?.[at] ?? null)}`;
      }
      if ((column.due === null && !line.given) || (column.given === null && !line.due)) return "–";
      const side = column.due === null ? line.given : (line.due ?? line.given);
      return cellText(side?.[at] ?? null);
    }),
    says(line),
  ]);
  const widths = head.map((_, at) => Math.max(...[head, ...rows].map((row) => row[at]?.length ?? 0)));
  return [head, ...rows]
    .map((row) => row.map((field, at) => field.padEnd(widths[at] ?? 0)).join("  ").trimEnd())
    .join("\n");
}
