import type { Schemas } from "../api/client";
import type { SqlMark } from "../components/sql/SqlText.vue";

/** The place in an answer's text that its first finding with a place points at. */
export function placeOf(submission: Schemas["Submission"]): SqlMark | null {
  for (const { evidence } of submission.findings) {
    if (typeof evidence.line === "number" && typeof evidence.column === "number") {
      const near = typeof evidence.near === "string" ? evidence.near.length : 1;
      const length = typeof evidence.length === "number" ? evidence.length : near;
      return { line: evidence.line, column: evidence.column, length: Math.max(length, 1) };
    }
  }
  return null;
}
