import type { Schemas } from "../../api/client";
import { shownCell } from "../../components/rows/cells";
import type { Cell } from "../../components/rows/cells";

/** What a kept phrase can name of the difference in view; each is filled in where there is one. */
export const PLACES = ["column", "due", "given", "rows due", "rows given"] as const;

/**
 * A phrase with the differing values filled in, of the first cell that differs on the open data.
 *
 * Of a held-back dataset nothing is filled in: the comment goes to the learner.
 */
export function filledIn(phrase: string, submission: Schemas["Submission"] | undefined): string {
  const woven = submission?.woven;
  const isOpen = submission?.datasets.find((one) => one.name === submission.shown_dataset)?.is_open ?? true;
  if (!woven || !isOpen) return phrase;
  const line = woven.lines.find((one) => one.wrong.length);
  const at = line?.wrong[0];
  const values: Record<string, string | undefined> = {
    "rows due": String(woven.due_rows),
    "rows given": String(woven.given_rows),
  };
  if (line && at !== undefined) {
    values.column = woven.columns[at]?.given ?? woven.columns[at]?.due ?? undefined;
    values.due = valueText(line.due?.[at] ?? null);
    values.given = valueText(line.given?.[at] ?? null);
  }
  return phrase.replace(/\{([a-z ]+)\}/g, (whole, name: string) => values[name] ?? whole);
}

function valueText(value: unknown): string {
  const cell = shownCell(value as Cell);
  return cell.kind === "text" ? `“${" ".repeat(cell.before)}${cell.text}${" ".repeat(cell.after)}”` : cell.text;
}
