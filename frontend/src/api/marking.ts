import { keepPreviousData, useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, ref, toValue, watch } from "vue";

import { dataOf, done, here, type Schemas } from "./client";
import { keyOf, lookAgain } from "./shown";

export type Desk = Schemas["DeskView"];
export type Group = Schemas["OutcomeGroup"];
export type DeskAnswer = Schemas["DeskAnswer"];
export type Attempts = Desk["attempts"];

const ONE = "/marking/{slug}" as const;

/** What there is to mark, exercise by exercise. */
export function useDeskLines() {
  return useQuery({ queryKey: keyOf("desk-lines"), queryFn: () => dataOf(here().GET("/marking")) });
}

/** The answers to an exercise in their outcome groups. */
export function useDeskView(slug: MaybeRefOrGetter<string>, attempts: MaybeRefOrGetter<Attempts>) {
  return useQuery({
    queryKey: keyOf("desk", slug, attempts),
    placeholderData: (before: Desk | undefined) => (before?.slug === toValue(slug) ? before : undefined),
    queryFn: () =>
      dataOf(here().GET(ONE, { params: { path: { slug: toValue(slug) }, query: { attempts: toValue(attempts) } } })),
  });
}

/** What was decided about one answer, and what was asked. */
export function useAnswerMarks(id: MaybeRefOrGetter<number>) {
  return useQuery({
    queryKey: keyOf("answer-marks", id),
    enabled: () => toValue(id) > 0,
    queryFn: () =>
      dataOf(here().GET("/submissions/{submission_id}/marks", { params: { path: { submission_id: toValue(id) } } })),
  });
}

/** Where an answer parts from the reference, step by step. */
export function useParting(
  slug: MaybeRefOrGetter<string>,
  id: MaybeRefOrGetter<number>,
  dataset: MaybeRefOrGetter<string>,
  isWanted: MaybeRefOrGetter<boolean>,
) {
  return useQuery({
    queryKey: keyOf("parting", slug, id, dataset),
    enabled: () => toValue(isWanted) && toValue(id) > 0,
    retry: false,
    queryFn: () =>
      dataOf(
        here().GET(`${ONE}/parting/{submission_id}`, {
          params: {
            path: { slug: toValue(slug), submission_id: toValue(id) }, query: { dataset: toValue(dataset) },
          },
        }),
      ),
  });
}

/** What accepting an answer as a further alternative would change. */
export function useAlternativeLook(slug: MaybeRefOrGetter<string>, id: MaybeRefOrGetter<number>, isWanted: MaybeRefOrGetter<boolean>) {
  return useQuery({
    queryKey: keyOf("alternative", slug, id),
    enabled: () => toValue(isWanted) && toValue(id) > 0,
    staleTime: 0,
    retry: false,
    queryFn: () =>
      dataOf(
        here().GET(`${ONE}/alternatives/{submission_id}`, {
          params: { path: { slug: toValue(slug), submission_id: toValue(id) } },
        }),
      ),
  });
}

/** Of how many answers one request works out what would change: as many as there is time for. */
const PREVIEW_SECONDS = 1;

/**
 * What grading an exercise's answers anew would change, worked out bit by bit for as long as somebody
 * wants to see it, until it is stopped or all have been looked at.
 */
export function useRegradePreview(slug: MaybeRefOrGetter<string>, isWanted: MaybeRefOrGetter<boolean>) {
  const looks = ref(0);
  const isStopped = ref(false);
  const { data, error, isFetching, hasNextPage, fetchNextPage } = useInfiniteQuery({
    queryKey: keyOf("regrade", slug, looks),
    enabled: () => toValue(isWanted),
    staleTime: 0,
    retry: false,
    initialPageParam: 0,
    queryFn: ({ pageParam }) =>
      dataOf(
        here().GET("/exercises/{slug}/regrade", {
          params: { path: { slug: toValue(slug) }, query: { begin: pageParam, seconds: PREVIEW_SECONDS } },
        }),
      ),
    getNextPageParam: (last) => (!last.problem && last.done < last.total ? last.done : undefined),
  });
  // Each time that it is opened it is worked out anew.
  watch(() => toValue(isWanted), (wanted) => {
    if (!wanted) return;
    looks.value += 1;
    isStopped.value = false;
  });
  watch([hasNextPage, isFetching, isStopped, () => toValue(isWanted)], () => {
    if (hasNextPage.value && !isFetching.value && !isStopped.value && !error.value && toValue(isWanted)) void fetchNextPage();
  });
  const preview = computed<Schemas["RegradePreview"] | undefined>(() => {
    const pages = data.value?.pages;
    const last = pages?.[pages.length - 1];
    if (!pages || !last) return undefined;
    return {
      ...last,
      unchanged: pages.reduce((sum, one) => sum + one.unchanged, 0),
      gains: pages.flatMap((one) => one.gains),
      losses: pages.flatMap((one) => one.losses),
      same_mark: pages.flatMap((one) => one.same_mark),
      kept: pages.flatMap((one) => one.kept),
    };
  });
  const isDone = computed(() => preview.value !== undefined && !hasNextPage.value);
  return { preview, error, isDone, isStopped };
}

/** The decisions of the desk; every page that shows marks looks again afterwards. */
export function useDeskChanges() {
  const queries = useQueryClient();
  const onSettled = () =>
    lookAgain(
      queries, "desk", "desk-lines", "answer-marks", "marks", "needs", "plots", "feedback-pages", "submission",
    );
  const decide = useMutation({
    mutationFn: ({ slug, wish }: { slug: string; wish: Schemas["ToDecide"] }) =>
      dataOf(here().POST(`${ONE}/decisions`, { params: { path: { slug } }, body: wish })),
    onSettled,
  });
  const putOnSheet = useMutation({
    mutationFn: ({ slug, sheet }: { slug: string; sheet: string }) =>
      dataOf(here().PUT(`${ONE}/sheet`, { params: { path: { slug } }, body: { sheet } })),
    onSettled: async () => {
      await onSettled();
      await lookAgain(queries, "sheets");
    },
  });
  const takeNewMarks = useMutation({
    mutationFn: ({ slug, seen }: { slug: string; seen: number }) =>
      dataOf(here().POST(`${ONE}/new-marks`, { params: { path: { slug } }, body: { seen } })),
    onSettled,
  });
  const undo = useMutation({
    mutationFn: ({ slug, decision }: { slug: string; decision: number }) =>
      dataOf(here().POST(`${ONE}/undo`, { params: { path: { slug } }, body: { decision } })),
    onSettled,
  });
  const accept = useMutation({
    mutationFn: ({ slug, submission, name }: { slug: string; submission: number; name: string }) =>
      dataOf(here().POST(`${ONE}/alternatives`, { params: { path: { slug } }, body: { submission, name } })),
    onSettled: async () => {
      await onSettled();
      await lookAgain(queries, "exercise", "exercises", "proof", "exercise-versions");
    },
  });
  const tryIt = useMutation({
    mutationFn: ({ slug, ...body }: { slug: string } & Schemas["ToTry"]) =>
      dataOf(here().POST(`${ONE}/trials`, { params: { path: { slug } }, body })),
    onSettled: () => lookAgain(queries, "exercise", "exercises", "proof", "exercise-versions", "failing-trials"),
  });
  const ask = useMutation({
    mutationFn: ({ slug, submission, text }: { slug: string; submission: number; text: string }) =>
      dataOf(here().POST(`${ONE}/questions`, { params: { path: { slug } }, body: { submission, text } })),
    onSettled,
  });
  const answer = useMutation({
    mutationFn: ({ id, text }: { id: number; text: string }) =>
      done(here().POST("/questions/{question_id}/answer", { params: { path: { question_id: id } }, body: { text } })),
    onSettled,
  });
  const keepPhrase = useMutation({
    mutationFn: (text: string) => dataOf(here().POST("/phrases", { body: { text } })),
    onSettled,
  });
  const deletePhrase = useMutation({
    mutationFn: (text: string) => dataOf(here().POST("/phrases/delete", { body: { text } })),
    onSettled,
  });
  const takeRegradeBack = useMutation({
    mutationFn: ({ slug, regrade }: { slug: string; regrade: number }) =>
      dataOf(
        here().POST("/exercises/{slug}/regrades/{regrade_id}/take-back", {
          params: { path: { slug, regrade_id: regrade } },
        }),
      ),
    onSettled,
  });
  return { decide, putOnSheet, takeNewMarks, undo, accept, tryIt, ask, answer, keepPhrase, deletePhrase, takeRegradeBack };
}


// marks

export type Gradebook = Schemas["Gradebook"];

/** The marks of all learners. */
export function useMarks() {
  return useQuery({ queryKey: keyOf("marks"), queryFn: () => dataOf(here().GET("/marks")) });
}

/** The numbers behind the plots of marks. */
export function usePlots(isWanted: MaybeRefOrGetter<boolean>) {
  return useQuery({
    queryKey: keyOf("plots"),
    enabled: () => toValue(isWanted),
    placeholderData: keepPreviousData,
    queryFn: () => dataOf(here().GET("/marks/plots")),
  });
}

/** What learners are told, or will be, about a sheet; of one learner where one is named. */
export function useFeedbackPages(sheet: MaybeRefOrGetter<string>, learner: MaybeRefOrGetter<number | undefined>) {
  return useQuery({
    queryKey: keyOf("feedback-pages", sheet, learner),
    enabled: () => Boolean(toValue(sheet)),
    queryFn: () =>
      dataOf(
        here().GET("/sheets/{slug}/feedback", {
          params: { path: { slug: toValue(sheet) }, query: { learner: toValue(learner) } },
        }),
      ),
  });
}

/** What waits for an instructor; trials are run for it, so that they come by themselves. */
export function useNeeds(isWanted: MaybeRefOrGetter<boolean> = true) {
  return useQuery({ queryKey: keyOf("needs"), enabled: () => toValue(isWanted), queryFn: () => dataOf(here().GET("/needs")) });
}

export function useFailingTrials() {
  return useQuery({ queryKey: keyOf("failing-trials"), queryFn: () => dataOf(here().GET("/needs/trials")) });
}

/** Publishing, extra marks and excuses, and how totals are rounded. */
export function useMarksChanges() {
  const queries = useQueryClient();
  const onSettled = () => lookAgain(queries, "marks", "needs", "plots", "sheets", "feedback-pages");
  const publish = useMutation({
    mutationFn: ({ slug, anyway }: { slug: string; anyway: boolean }) =>
      done(here().POST("/sheets/{slug}/publish", { params: { path: { slug } }, body: { anyway } })),
    onSettled,
  });
  const unpublish = useMutation({
    mutationFn: (slug: string) => done(here().POST("/sheets/{slug}/unpublish", { params: { path: { slug } } })),
    onSettled,
  });
  const adjust = useMutation({
    mutationFn: (body: Schemas["ToAdjust"]) => dataOf(here().POST("/marks/adjustments", { body })),
    onSettled,
  });
  const takeBack = useMutation({
    mutationFn: (id: number) =>
      done(here().DELETE("/marks/adjustments/{adjustment_id}", { params: { path: { adjustment_id: id } } })),
    onSettled,
  });
  const round = useMutation({
    mutationFn: (step: number) => done(here().PUT("/marks/rounding", { body: { step } })),
    onSettled,
  });
  return { publish, unpublish, adjust, takeBack, round };
}

/** The answers behind a point of a plot. */
export function useAnswersBehind(ids: MaybeRefOrGetter<number[]>) {
  return useQuery({
    queryKey: keyOf("plots", "answers", ids),
    enabled: () => toValue(ids).length > 0,
    queryFn: () => dataOf(here().POST("/marks/plots/answers", { body: { ids: toValue(ids) } })),
  });
}
