import { useQuery } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, toValue } from "vue";

import { here, dataOf } from "./client";
import { keyOf } from "./shown";

export function useAbout() {
  return useQuery({ queryKey: keyOf("about"), queryFn: () => dataOf(here().GET("/about")) });
}

/** The functions of an engine, for completing. */
export function useFunctions(engine: MaybeRefOrGetter<string> = "sqlite") {
  const { data } = useAbout();
  return computed(() => data.value?.engines.find((one) => one.name === toValue(engine))?.functions ?? []);
}

export function useExercises() {
  return useQuery({
    queryKey: keyOf("exercises"),
    queryFn: () => dataOf(here().GET("/exercises")),
  });
}

export function useExercise(slug: MaybeRefOrGetter<string | undefined>) {
  return useQuery({
    queryKey: keyOf("exercise", slug),
    enabled: () => Boolean(toValue(slug)),
    queryFn: () =>
      dataOf(
        here().GET("/exercises/{slug}", { params: { path: { slug: toValue(slug) ?? "" } } }),
      ),
  });
}

export function useSubmission(
  id: MaybeRefOrGetter<number>,
  dataset: MaybeRefOrGetter<string | undefined>,
  rows: MaybeRefOrGetter<number | undefined> = undefined,
) {
  return useQuery({
    queryKey: keyOf("submission", id, dataset, rows),
    enabled: () => toValue(id) > 0,
    placeholderData: (before) => before,
    queryFn: () =>
      dataOf(
        here().GET("/submissions/{submission_id}", {
          params: { path: { submission_id: toValue(id) }, query: { dataset: toValue(dataset), rows: toValue(rows) } },
        }),
      ),
  });
}
