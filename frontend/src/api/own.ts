import { useMutation, useQuery, useQueryClient } from "@tanstack/vue-query";
import { type MaybeRefOrGetter, toValue } from "vue";

import { dataOf, here } from "./client";
import { keyOf, lookAgain } from "./shown";

/** An exercise on a sheet, by its names in addresses. */
export interface OwnPlace {
  sheet: string;
  slug: string;
}

const ONE = "/own/sheets/{sheet}/exercises/{slug}" as const;
const LOOK_AGAIN_MS = 60_000;

export function useOwnCourse() {
  return useQuery({
    queryKey: keyOf("own-course"),
    refetchInterval: LOOK_AGAIN_MS,
    queryFn: () => dataOf(here().GET("/own")),
  });
}

export function useOwnExercise(place: MaybeRefOrGetter<OwnPlace>) {
  return useQuery({
    queryKey: keyOf("own-exercise", place),
    refetchInterval: LOOK_AGAIN_MS,
    queryFn: () => dataOf(here().GET(ONE, { params: { path: toValue(place) } })),
  });
}

/** The marks and comments of a sheet that is published. */
export function useOwnMarks(sheet: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: keyOf("own-marks", sheet),
    queryFn: () => dataOf(here().GET("/own/marks/{sheet}", { params: { path: { sheet: toValue(sheet) } } })),
  });
}

/** A text as it could be laid out; asked for when it is to be seen. */
export function useTidyText(place: MaybeRefOrGetter<OwnPlace>, sql: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: keyOf("own-layout", place, sql),
    enabled: () => Boolean(toValue(sql).trim()),
    retry: false,
    queryFn: () => dataOf(here().POST(`${ONE}/layout`, { params: { path: toValue(place) }, body: { sql: toValue(sql) } })),
  });
}

/** Two texts of one's own held against each other: their words, and the rows that they give. */
export function useOwnComparison(
  place: MaybeRefOrGetter<OwnPlace>,
  texts: MaybeRefOrGetter<{ first: string; second: string } | undefined>,
) {
  return useQuery({
    queryKey: keyOf("own-comparison", place, texts),
    enabled: () => Boolean(toValue(texts)?.first.trim() && toValue(texts)?.second.trim()),
    retry: false,
    queryFn: () =>
      dataOf(here().POST(`${ONE}/comparisons`, {
        params: { path: toValue(place) }, body: toValue(texts) ?? { first: "", second: "" },
      })),
  });
}

export function useAskAboutMark() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: { submission: number; text: string }) => dataOf(here().POST("/own/questions", { body })),
    onSettled: () => lookAgain(queries, "own-marks"),
  });
}

export function useFeedback(id: MaybeRefOrGetter<number | undefined>) {
  return useQuery({
    queryKey: keyOf("own-feedback", id),
    enabled: () => toValue(id) !== undefined,
    queryFn: () =>
      dataOf(
        here().GET("/own/submissions/{submission_id}", {
          params: { path: { submission_id: toValue(id) ?? 0 } },
        }),
      ),
  });
}

export function useOwnRows(
  place: MaybeRefOrGetter<OwnPlace>,
  wanted: MaybeRefOrGetter<{ table: string; inCopy: boolean; limit: number }>,
) {
  return useQuery({
    queryKey: keyOf("own-rows", place, wanted),
    enabled: () => Boolean(toValue(wanted).table),
    retry: false,
    queryFn: () => {
      const { table, inCopy, limit } = toValue(wanted);
      const params = { path: { ...toValue(place), table }, query: { limit } };
      return dataOf(
        inCopy
          ? here().GET(`${ONE}/copy/tables/{table}/rows`, { params })
          : here().GET(`${ONE}/tables/{table}/rows`, { params }),
      );
    },
  });
}

export function useRun(place: MaybeRefOrGetter<OwnPlace>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (sql: string) =>
      dataOf(here().POST(`${ONE}/runs`, { params: { path: toValue(place) }, body: { sql } })),
    onSettled: () => lookAgain(queries, "own-runs"),
  });
}

/** What was run for an exercise before; asked for where it is looked at. */
export function useEarlierRuns(place: MaybeRefOrGetter<OwnPlace>, enabled: MaybeRefOrGetter<boolean>) {
  const queries = useQueryClient();
  const { data } = useQuery({
    queryKey: keyOf("own-runs", place),
    enabled,
    queryFn: () => dataOf(here().GET(`${ONE}/runs`, { params: { path: toValue(place) } })),
  });
  const rename = useMutation({
    mutationFn: ({ id, name }: { id: number; name: string }) =>
      dataOf(
        here().PUT(`${ONE}/runs/{run_id}`, {
          params: { path: { ...toValue(place), run_id: id } }, body: { name },
        }),
      ),
    onSuccess: () => lookAgain(queries, "own-runs"),
  });
  return { data, rename };
}

export function sendOwnDraft(place: OwnPlace, sql: string) {
  return dataOf(
    here().PUT(`${ONE}/draft`, {
      params: { path: place },
      body: { sql },
      keepalive: sql.length < 60_000,
    }),
  );
}

export function usePrivateCopy(
  place: MaybeRefOrGetter<OwnPlace>,
  enabled: MaybeRefOrGetter<boolean>,
) {
  return useQuery({
    queryKey: keyOf("own-copy", place),
    enabled,
    queryFn: () => dataOf(here().GET(`${ONE}/copy`, { params: { path: toValue(place) } })),
  });
}

export function useCopyChanges(place: MaybeRefOrGetter<OwnPlace>) {
  const queries = useQueryClient();
  const onSuccess = () =>
    lookAgain(queries, "own-copy", "own-rows");
  const run = useMutation({
    mutationFn: (sql: string) =>
      dataOf(here().POST(`${ONE}/copy/runs`, { params: { path: toValue(place) }, body: { sql } })),
    onSuccess,
  });
  const reset = useMutation({
    mutationFn: () => dataOf(here().POST(`${ONE}/copy/reset`, { params: { path: toValue(place) } })),
    onSuccess,
  });
  return { run, reset };
}
