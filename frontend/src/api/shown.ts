import type { Query, QueryClient } from "@tanstack/vue-query";

import { openCourse } from "./client";

/** What pages show of the server's state: the closed list of what can be asked for anew. */
export type Shown =
  | "about" | "alternative" | "analysis" | "explanation" | "answer-marks" | "browsers" | "constructs" | "course" | "dataset" | "desk" | "desk-lines" | "difference" | "exercise"
  | "exercise-difference" | "exercise-versions" | "exercises" | "judged" | "failing-trials" | "feedback-pages" | "learners" | "link-events" | "marks" | "needs" | "own-copy"
  | "own-comparison" | "own-course" | "own-runs" | "own-exercise" | "own-feedback" | "own-layout" | "own-marks" | "own-rows" | "parting" | "plots" | "profile" | "proof" | "regrade" | "rows"
  | "sample" | "samples" | "sheets" | "showing" | "step-rows" | "submission" | "trace" | "tried"
  | "versions";

/** The key of something shown, with the course that it belongs to: no course ever shows another's. */
export function keyOf(shown: Shown, ...which: unknown[]) {
  return [openCourse, shown, ...which] as const;
}

/**
 * Fetches anew whatever shows these things, because news of them has come.
 *
 * A first request that is still on its way may have been answered before the news. It would count as
 * fresh when it arrives, and the news would be lost: so it is given up and asked again.
 */
export async function lookAgain(queries: QueryClient, ...shown: Shown[]): Promise<void> {
  const concerned = ({ queryKey }: Query) => shown.includes(queryKey[1] as Shown);
  await queries.cancelQueries({
    predicate: (query) => concerned(query) && query.state.data === undefined,
  });
  await queries.invalidateQueries({ predicate: concerned });
}
