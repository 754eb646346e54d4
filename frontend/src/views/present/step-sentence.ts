import type { Schemas } from "../../api/client";
import { counted } from "../../composables/words";
import { partnersOf } from "../../steps/trace";

/**
 * One sentence about a step: what it does with rows, and what became of them here.
 *
 * `before` is how many rows the step before gave, nothing where they were not counted.
 */
export function sentenceOf(step: Schemas["Step"], before: number | undefined, isGrouped: boolean): string {
  const { kept = 0, false: no = 0, unknown = 0 } = step.parts as { kept?: number; false?: number; unknown?: number };
  const lost = [no && `${no} ${no === 1 ? "is" : "are"} false`, unknown && `${unknown} ${unknown === 1 ? "is" : "are"} unknown, for a value is NULL`].filter(Boolean).join(", ");
  const after = step.rows ?? "–";
  switch (step.kind) {
    case "from": return "FROM brings the rows of the table in.";
    case "join": return `JOIN puts rows together that fit: ${before ?? "–"} before, ${after} after. ${partnersOf(step, before ?? 0)}`;
    case "where": return `WHERE keeps a row only where its condition is true: ${kept} kept${lost ? `, ${lost}` : ""}.`;
    case "group": return `GROUP BY gathers ${counted(step.parts.rows ?? 0, "row")} into ${counted(step.rows ?? 0, "group")}.`;
    case "having": return `HAVING keeps a group only where its condition is true: ${kept} kept${lost ? `, ${lost}` : ""}.`;
    case "select": return isGrouped ? "SELECT makes one row of each group." : "SELECT works out the columns of each row.";
    case "distinct": return `DISTINCT keeps one of each row: ${before ?? "–"} before, ${after} after.`;
    case "order": return "ORDER BY puts the rows in order.";
    case "limit": return `LIMIT keeps the first ${counted(step.rows ?? 0, "row")}.`;
    default: return "";
  }
}
