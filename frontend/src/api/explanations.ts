import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/vue-query";
import { type MaybeRefOrGetter, toValue } from "vue";

import { dataOf, done, here, type Schemas } from "./client";
import { type ExerciseContent, useProofPart } from "./exercises";
import { keyOf, lookAgain } from "./shown";

export type Example = Schemas["Example"];
export type BlindSpot = Schemas["BlindSpot"];
export type Strength = "kind" | "where" | "what";

const ONE = "/exercises/{slug}" as const;
const LOOK_AGAIN_MS = 1_000;

/** What decides what an exercise's datasets see: its trials, words and feedback do not. */
function seenBy(content: ExerciseContent): unknown {
  const { trials: _trials, prompt: _prompt, tags: _tags, feedback: _feedback, title: _title, ...rest } = content;
  return rest;
}

/** The blind spots of a content that need not be kept. */
export function useSight(
  slug: MaybeRefOrGetter<string>,
  content: MaybeRefOrGetter<ExerciseContent | undefined>,
) {
  return useProofPart(
    "sight", slug, content,
    (name, body) => dataOf(here().POST(`${ONE}/proof/sight`, { params: { path: { slug: name } }, body })),
    seenBy,
  );
}

/** The blind spots of an exercise as it is kept. */
export function keptSight(slug: string) {
  return dataOf(here().GET(`${ONE}/sight`, { params: { path: { slug } } }));
}

/** The fewest rows that show a blind spot. */
export function useSpotRows(
  slug: MaybeRefOrGetter<string>,
  content: MaybeRefOrGetter<ExerciseContent | undefined>,
  sql: MaybeRefOrGetter<string>,
) {
  return useQuery({
    queryKey: keyOf("proof", "spot", slug, () => {
      const found = toValue(content);
      return found ? JSON.stringify(seenBy(found)) : "";
    }, sql),
    enabled: () => Boolean(toValue(content) && toValue(sql)),
    retry: false,
    queryFn: () =>
      dataOf(here().POST(`${ONE}/proof/rows`, {
        params: { path: { slug: toValue(slug) } },
        body: { content: toValue(content) as Schemas["Content"], sql: toValue(sql) },
      })),
  });
}

/** Making datasets to measure, and putting made-up rows into a sample. */
export function useMadeRows() {
  const queries = useQueryClient();
  const measure = useMutation({
    mutationFn: ({ slug, content }: { slug: string; content: ExerciseContent }) =>
      dataOf(here().POST(`${ONE}/proof/datasets`, {
        params: { path: { slug } }, body: content as Schemas["Content"],
      })),
  });
  const takeIn = useMutation({
    mutationFn: ({ sample, wanted }: { sample: string; wanted: Schemas["ToTakeIn"] }) =>
      dataOf(here().POST("/samples/{sample}/made-rows", { params: { path: { sample } }, body: wanted })),
    onSuccess: () =>
      lookAgain(queries, "proof", "judged", "sample", "samples", "exercise", "exercises", "dataset", "desk", "regrade", "needs"),
  });
  return { measure, takeIn };
}

/** What explains an answer: near misses, its smallest example, whether it was right by luck. */
export function useExplanation(id: MaybeRefOrGetter<number>, isWanted: MaybeRefOrGetter<boolean>) {
  return useQuery({
    queryKey: keyOf("explanation", id),
    enabled: () => toValue(isWanted) && toValue(id) > 0,
    retry: false,
    queryFn: () =>
      dataOf(here().GET("/submissions/{submission_id}/explanation", {
        params: { path: { submission_id: toValue(id) } },
      })),
  });
}

/** Two edits that together would make an answer right: looked for only where somebody asks. */
export function useTwoEdits() {
  return useMutation({
    mutationFn: (id: number) =>
      dataOf(here().POST("/submissions/{submission_id}/explanation/two-edits", {
        params: { path: { submission_id: id } },
      })),
  });
}

/** The answers of an exercise explained in the background. */
export function useAnalysis() {
  const queries = useQueryClient();
  const state = useQuery({
    queryKey: keyOf("analysis"),
    refetchInterval: (query) => (query.state.data?.running ? LOOK_AGAIN_MS : false),
    queryFn: () => dataOf(here().GET("/analysis")),
  });
  const onSuccess = () => lookAgain(queries, "analysis");
  const start = useMutation({
    mutationFn: (exercise: string) => dataOf(here().POST("/analysis", { params: { query: { exercise } } })),
    onSuccess,
  });
  const stop = useMutation({ mutationFn: () => done(here().DELETE("/analysis")), onSuccess });
  return { state: state.data, start, stop };
}

// a learner's own

export function useOwnExample(id: MaybeRefOrGetter<number>, isWanted: MaybeRefOrGetter<boolean>) {
  return useQuery({
    queryKey: keyOf("own-feedback", "example", id),
    enabled: () => toValue(isWanted) && toValue(id) > 0,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      dataOf(here().GET("/own/submissions/{submission_id}/example", {
        params: { path: { submission_id: toValue(id) } },
      })),
  });
}

/** The hints that the instructor wrote for a mistake, as many as were opened. */
export function useOwnWords(id: MaybeRefOrGetter<number>, opened: MaybeRefOrGetter<number>) {
  return useQuery({
    queryKey: keyOf("own-feedback", "words", id, opened),
    placeholderData: (before, query) => (query?.queryKey.includes(toValue(id)) ? before : undefined),
    retry: false,
    queryFn: () =>
      dataOf(here().GET("/own/submissions/{submission_id}/words/{opened}", {
        params: { path: { submission_id: toValue(id), opened: toValue(opened) } },
      })),
  });
}

export function useRunOnExample() {
  return useMutation({
    mutationFn: ({ id, sql }: { id: number; sql: string }) =>
      dataOf(here().POST("/own/submissions/{submission_id}/example/runs", {
        params: { path: { submission_id: id } }, body: { sql },
      })),
  });
}

export function useOpenHint() {
  return useMutation({
    mutationFn: ({ id, strength }: { id: number; strength: Strength }) =>
      dataOf(here().GET("/own/submissions/{submission_id}/hints/{strength}", {
        params: { path: { submission_id: id, strength } },
      })),
  });
}
