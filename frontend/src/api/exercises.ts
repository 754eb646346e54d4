import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, toValue } from "vue";

import { courseAddress, dataOf, done, here, type Schemas } from "./client";
import { keyOf, lookAgain } from "./shown";

export type Verdict = Schemas["Trial"]["expected"];

export interface ConstructRule {
  require?: string;
  forbid?: string;
  name?: string;
  points?: number;
  message?: string;
}

export interface LayoutRules {
  keyword_case?: "upper" | "lower";
  clause_lines?: boolean;
  column_lines?: boolean;
  spacing?: boolean;
  indentation?: boolean;
  points?: number;
}

export interface MarkScheme {
  scheme?: "all_or_nothing" | "by_parts";
  weights?: Record<string, number>;
  /** The share that an answer earns at least which one, or two, single edits would make right. */
  one_edit?: number;
  two_edits?: number;
}

export interface ShownResult {
  columns?: boolean;
  row_count?: boolean;
  rows?: "none" | "first" | "all";
  first?: number;
}

/** What learners see of the expected result, and of what came of an answer. */
export interface Feedback {
  expected?: ShownResult;
  level?: "verdict" | "kind" | "rows";
  when?: "at_once" | "after_close";
  hint?: string;
  hint_after?: number;
  /** Whether they may look at their own queries step by step; usually they may. */
  steps?: boolean;
  /** Whether a wrong answer is shown the fewest made-up rows on which it is wrong. */
  example?: boolean;
  /** How much of the one edit that would mend it can be opened, and after how many wrong answers. */
  near_miss?: "none" | "kind" | "where" | "what";
  near_miss_after?: number;
  borrowed?: boolean;
}

export type TrialContent = Schemas["TrialContent"];

/** Everything of an exercise that is written. */
export interface ExerciseContent {
  title: string;
  sample: string;
  engine: string;
  points: number | null;
  tags: string[];
  rules: Record<string, unknown>;
  constructs: ConstructRule[];
  layout: LayoutRules;
  marks: MarkScheme;
  feedback: Feedback;
  prompt: string;
  reference: string;
  alternatives: Schemas["AlternativeContent"][];
  trials: TrialContent[];
}

/** A content of which nothing is left out. */
export function completed(content: Schemas["Content"]): ExerciseContent {
  const whole = {
    tags: [], rules: {}, constructs: [], layout: {}, marks: {}, feedback: {}, alternatives: [],
    trials: [], ...content,
  };
  return toPlain(whole) as ExerciseContent;
}

/** A copy that shares nothing with what it was made of, and that nothing watches. */
export function toPlain<T>(value: T): T {
  return JSON.parse(JSON.stringify(value)) as T;
}

const ONE = "/exercises/{slug}" as const;

/** What is worked out for a content: asked again when it changes, the last one shown meanwhile. */
export function useProofPart<T>(
  part: string,
  slug: MaybeRefOrGetter<string>,
  content: MaybeRefOrGetter<ExerciseContent | undefined>,
  fetch: (slug: string, body: Schemas["Content"]) => Promise<T>,
  only?: (content: ExerciseContent) => unknown,
) {
  const key = computed(() => {
    const found = toValue(content);
    return found ? JSON.stringify(only ? only(found) : found) : "";
  });
  return useQuery({
    queryKey: keyOf("proof", part, slug, key),
    enabled: () => key.value !== "",
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () => fetch(toValue(slug), toValue(content) as Schemas["Content"]),
  });
}

export function useProof(
  slug: MaybeRefOrGetter<string>,
  content: MaybeRefOrGetter<ExerciseContent | undefined>,
) {
  return useProofPart("reference", slug, content, (name, body) =>
    dataOf(here().POST(`${ONE}/proof`, { params: { path: { slug: name } }, body })),
  );
}

export function useTrialProof(
  slug: MaybeRefOrGetter<string>,
  content: MaybeRefOrGetter<ExerciseContent | undefined>,
) {
  return useProofPart("trials", slug, content, (name, body) =>
    dataOf(here().POST(`${ONE}/proof/trials`, { params: { path: { slug: name } }, body })),
  );
}

/** How the answers would come out; what does not decide that is left out of account. */
export function useAnswerProof(
  slug: MaybeRefOrGetter<string>,
  content: MaybeRefOrGetter<ExerciseContent | undefined>,
) {
  return useProofPart(
    "answers",
    slug,
    content,
    (name, body) =>
      dataOf(here().POST(`${ONE}/proof/answers`, { params: { path: { slug: name } }, body })),
    ({ trials: _trials, prompt: _prompt, tags: _tags, feedback: _feedback, ...rest }) => rest,
  );
}

/** One query held against a content. */
export function useJudged(
  slug: MaybeRefOrGetter<string>,
  content: MaybeRefOrGetter<ExerciseContent | undefined>,
  asked: MaybeRefOrGetter<{ sql: string; dataset: string; alone: boolean } | undefined>,
) {
  const key = computed(() => {
    const found = toValue(content);
    if (!found || !toValue(asked)) return "";
    const { trials: _trials, prompt: _prompt, tags: _tags, title: _title, ...rest } = found;
    return JSON.stringify([rest, toValue(asked)]);
  });
  return useQuery({
    queryKey: keyOf("judged", slug, key),
    enabled: () => key.value !== "",
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () =>
      dataOf(
        here().POST(`${ONE}/proof/answer`, {
          params: { path: { slug: toValue(slug) } },
          body: {
            content: toValue(content) as Schemas["Content"],
            ...(toValue(asked) ?? { sql: "", dataset: "", alone: false }),
          },
        }),
      ),
  });
}

export function useConstructs() {
  return useQuery({
    queryKey: keyOf("constructs"),
    staleTime: Infinity,
    queryFn: () => dataOf(here().GET("/constructs")),
  });
}

export function useExerciseVersions(slug: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: keyOf("exercise-versions", slug),
    queryFn: () =>
      dataOf(here().GET(`${ONE}/versions`, { params: { path: { slug: toValue(slug) } } })),
  });
}

export function useExerciseDifference(
  slug: MaybeRefOrGetter<string>,
  between: MaybeRefOrGetter<{ older: number; newer: number }>,
) {
  return useQuery({
    queryKey: keyOf("exercise-difference", slug, between),
    placeholderData: keepPreviousData,
    enabled: () => toValue(between).older > 0 && toValue(between).older < toValue(between).newer,
    queryFn: () =>
      dataOf(
        here().GET(`${ONE}/versions/comparison`, {
          params: { path: { slug: toValue(slug) }, query: toValue(between) },
        }),
      ),
  });
}

/** What changes exercises; whatever shows them is fetched anew. */
export function useExerciseChanges() {
  const queries = useQueryClient();
  const onSuccess = () =>
    lookAgain(queries, "exercise", "exercises", "exercise-versions", "exercise-difference", "sheets", "samples");
  const begin = useMutation({
    mutationFn: (body: Schemas["NewExercise"]) => dataOf(here().POST("/exercises", { body })),
    onSuccess,
  });
  const copy = useMutation({
    mutationFn: ({ slug, title }: { slug: string; title: string }) =>
      dataOf(here().POST(`${ONE}/copies`, { params: { path: { slug } }, body: { title } })),
    onSuccess,
  });
  const keep = useMutation({
    mutationFn: ({ slug, content }: { slug: string; content: ExerciseContent }) =>
      dataOf(
        here().PUT(ONE, { params: { path: { slug } }, body: content as Schemas["Content"] }),
      ),
    onSuccess,
  });
  const restore = useMutation({
    mutationFn: ({ slug, number }: { slug: string; number: number }) =>
      dataOf(
        here().POST(`${ONE}/versions/{number}/restore`, { params: { path: { slug, number } } }),
      ),
    onSuccess,
  });
  const regrade = useMutation({
    mutationFn: (slug: string) =>
      dataOf(here().POST(`${ONE}/regrade`, { params: { path: { slug } } })),
    onSuccess: async () => {
      await onSuccess();
      await lookAgain(queries, "proof", "desk", "desk-lines", "marks", "needs");
    },
  });
  const remove = useMutation({
    mutationFn: ({ slug, withAnswers }: { slug: string; withAnswers: boolean }) =>
      done(
        here().DELETE(ONE, { params: { path: { slug }, query: { with_answers: withAnswers } } }),
      ),
    onSuccess,
  });
  return { begin, copy, keep, restore, regrade, remove };
}

export async function sendDraft(slug: string, content: ExerciseContent) {
  return dataOf(
    here().PUT(`${ONE}/draft`, {
      params: { path: { slug } },
      body: content as Schemas["Content"],
      keepalive: JSON.stringify(content).length < 60_000,
    }),
  );
}

export async function dropDraft(slug: string) {
  await here().DELETE(`${ONE}/draft`, { params: { path: { slug } } });
}

// sheets

export function useSheets() {
  return useQuery({ queryKey: keyOf("sheets"), queryFn: () => dataOf(here().GET("/sheets")) });
}

export function useSheetChanges() {
  const queries = useQueryClient();
  const onSuccess = () =>
    lookAgain(queries, "sheets", "exercises", "marks", "needs", "plots", "desk", "desk-lines", "feedback-pages", "submission");
  const make = useMutation({
    mutationFn: (body: Schemas["SheetContent"]) => dataOf(here().POST("/sheets", { body })),
    onSuccess,
  });
  const change = useMutation({
    mutationFn: ({ slug, body }: { slug: string; body: Schemas["SheetContent"] }) =>
      dataOf(here().PUT("/sheets/{slug}", { params: { path: { slug } }, body })),
    onSuccess,
  });
  const remove = useMutation({
    mutationFn: (slug: string) =>
      done(here().DELETE("/sheets/{slug}", { params: { path: { slug } } })),
    onSuccess,
  });
  return { make, change, remove };
}

export function packAddress(slugs: string[]): string {
  const query = new URLSearchParams(slugs.map((slug) => ["exercise", slug]));
  return courseAddress(`/packs/export${slugs.length ? `?${query}` : ""}`);
}
