import { computed, type Ref, ref, watch } from "vue";

import type { Schemas } from "../../api/client";
import { useAnswerMarks, useDeskChanges } from "../../api/marking";
import { useAttempt } from "../../composables/use-attempt";
import { counted } from "../../composables/words";
import type { DeskState } from "./use-desk";

type Line = Schemas["LedgerLine"];

/** What is being decided about the part in view: mark, ledger, comment, reason; done and undone. */
export function useDeciding(slug: Ref<string>, desk: DeskState, submission: Ref<Schemas["Submission"] | undefined>) {
  const changes = useDeskChanges();
  const { problem, isBusy, attempt } = useAttempt();
  /** What came of the last action, in words. */
  const said = ref("");

  /** The mark to give; undefined where each answer keeps the mark that stands. */
  const mark = ref<number>();
  const lines = ref<Line[]>();
  const comment = ref("");
  const reason = ref("");
  const isTouched = ref(false);

  const shownId = computed(() => desk.shown.value?.id ?? 0);
  const { data: marks } = useAnswerMarks(shownId);
  const points = computed(() => desk.desk.value?.points ?? 0);

  /** The marks that grading gave, which are given if nothing is changed. */
  const standing = computed(() => {
    const found = [...new Set(desk.toDecide.value.map((one) => one.auto ?? 0))].sort((one, other) => one - other);
    return { least: found[0] ?? 0, most: found[found.length - 1] ?? 0, several: found.length > 1 };
  });

  /** A mark that was decided for all that is chosen, and that grading did not give. */
  function decidedMark(): number | undefined {
    const [first, ...rest] = desk.toDecide.value;
    if (first?.state !== "decided" || first.mark === first.auto) return undefined;
    return rest.every((one) => one.mark === first.mark) ? (first.mark ?? undefined) : undefined;
  }

  function forget(): void {
    mark.value = decidedMark();
    lines.value = undefined;
    comment.value = "";
    reason.value = "";
    isTouched.value = false;
  }
  watch([() => desk.part.value?.group.key, desk.partAt, desk.split, slug], () => {
    forget();
    problem.value = "";
  });
  // What was decided before is where a new decision begins.
  watch(
    marks,
    (found) => {
      if (!found || isTouched.value) return;
      comment.value = found.comment;
    },
    { immediate: true },
  );

  const ledgerSum = computed(
    () => Math.round((lines.value ?? []).reduce((sum, line) => sum + line.points, 0) * 100) / 100,
  );

  function changeLines(): void {
    lines.value = lines.value ? undefined : (submission.value?.ledger ?? []).map((line) => ({ ...line }));
    isTouched.value = true;
  }

  const words = computed(() => {
    const count = desk.toDecide.value.length;
    const whom = count === 1 ? "this answer" : `all ${count}`;
    if (lines.value) return `Give ${whom} the mark ${ledgerSum.value}`;
    if (mark.value !== undefined) return `Give ${whom} the mark ${mark.value}`;
    if (standing.value.several) return `Give ${whom} their marks, ${standing.value.least} to ${standing.value.most}`;
    return `Give ${whom} the mark ${standing.value.least}`;
  });

  function wish(answers: number[], groups: Schemas["GivenGroup"][]): Schemas["ToDecide"] {
    return {
      answers,
      groups,
      mark: lines.value ? null : (mark.value ?? null),
      ledger: lines.value ?? [],
      comment: comment.value,
      reason: reason.value,
      seen: desk.desk.value?.last_decision ?? 0,
    };
  }

  /** Decides about all that is chosen. */
  async function decide(): Promise<boolean> {
    const groups = desk.chosen.value.map((one) => ({
      outcome: one.group.key, wording: one.wording, codes: one.codes,
    }));
    return send(wish(desk.toDecide.value.map((one) => one.id), groups));
  }

  /** Decides about the one answer in view alone; its group stays as it is. */
  async function decideOne(id: number): Promise<boolean> {
    return send(wish([id], []));
  }

  async function send(body: Schemas["ToDecide"]): Promise<boolean> {
    said.value = "";
    const isDone = await attempt(async () => {
      const decided = await changes.decide.mutateAsync({ slug: slug.value, wish: body });
      const given = body.ledger?.length ? ledgerSum.value : body.mark;
      const what = given === null || given === undefined ? "the marks of grading" : `${given} of ${points.value}`;
      const along = decided.along ? ` ${counted(decided.along, "attempt")} that do not count took the same.` : "";
      said.value = `${counted(decided.count, "answer")} decided: ${what}.${along}`;
    });
    if (isDone) {
      desk.together.value = [];
      forget();
    }
    return isDone;
  }

  /** Gives all that a later grading contradicts the marks that it came to; comments stay. */
  async function takeNewMarks(): Promise<void> {
    said.value = "";
    await attempt(async () => {
      const seen = desk.desk.value?.last_decision ?? 0;
      const { count } = await changes.takeNewMarks.mutateAsync({ slug: slug.value, seen });
      said.value = `${counted(count, "answer")} decided: the marks of the later grading.`;
      forget();
    });
  }

  /** The decision that would be undone: the last that stands. */
  const last = computed(() => desk.desk.value?.history.find((one) => !one.undone_at));

  async function undo(decision = last.value): Promise<void> {
    if (!decision) return;
    said.value = "";
    await attempt(async () => {
      const undone = await changes.undo.mutateAsync({ slug: slug.value, decision: decision.id });
      said.value = `Undone: ${counted(undone.count, "answer")} as before.`;
      forget();
    });
  }

  return {
    mark, lines, comment, reason, isTouched, points, standing, ledgerSum, words, marks, problem, isBusy, said,
    last, changes, attempt, changeLines, decide, decideOne, takeNewMarks, undo,
  };
}

export type DecidingState = ReturnType<typeof useDeciding>;
