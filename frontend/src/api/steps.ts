import { keepPreviousData, useQuery } from "@tanstack/vue-query";
import { type MaybeRefOrGetter, toValue } from "vue";

import { dataOf, here, type Schemas } from "./client";
import type { OwnPlace } from "./own";
import type { DatasetName } from "./samples";
import { keyOf } from "./shown";

/** What a query is taken apart on: a dataset of a sample, or a learner's exercise. */
export type StepsOn = (DatasetName & { engine?: string; added?: Schemas["AddedRow"][]; mindsCase?: boolean }) | OwnPlace;

const SAMPLE = "/samples/{sample}/datasets/{dataset}/trace" as const;
const OWN = "/own/sheets/{sheet}/exercises/{slug}/trace" as const;

function stageOf(on: Exclude<StepsOn, OwnPlace>) {
  return { engine: on.engine ?? "sqlite", added: on.added ?? [], minds_case: on.mindsCase ?? false };
}

/** How a query is taken apart: what it is asked, and the key that the answer is kept under. */
export function traceQuery(on: MaybeRefOrGetter<StepsOn>, sql: MaybeRefOrGetter<string>) {
  return {
    queryKey: keyOf("trace", on, sql),
    retry: false,
    queryFn: () => {
      const path = toValue(on);
      const body = { sql: toValue(sql) };
      return dataOf(
        "sample" in path
          ? here().POST(SAMPLE, { params: { path }, body: { ...body, ...stageOf(path) } })
          : here().POST(OWN, { params: { path }, body }),
      );
    },
  };
}

export function useTrace(on: MaybeRefOrGetter<StepsOn>, sql: MaybeRefOrGetter<string>) {
  return useQuery({
    ...traceQuery(on, sql),
    enabled: () => Boolean(toValue(sql).trim()),
    placeholderData: keepPreviousData,
  });
}

export function useStepRows(
  on: MaybeRefOrGetter<StepsOn>,
  step: MaybeRefOrGetter<Schemas["Step"] | undefined>,
  only: MaybeRefOrGetter<Schemas["StepQuery"]["only"]>,
) {
  return useQuery({
    queryKey: keyOf("step-rows", on, () => toValue(step)?.sql, () => toValue(step)?.telling, only),
    enabled: () => Boolean(toValue(step)?.sql),
    // Rows of another step would stand under this one's words.
    placeholderData: (before, query) => (query?.queryKey.includes(toValue(step)?.sql) ? before : undefined),
    queryFn: () => {
      const path = toValue(on);
      const body = {
        sql: toValue(step)?.sql ?? "", beside: Boolean(toValue(step)?.beside), only: toValue(only),
        telling: toValue(step)?.telling ?? "", told: toValue(step)?.told.length ?? 0,
      };
      return dataOf(
        "sample" in path
          ? here().POST(`${SAMPLE}/rows`, { params: { path }, body: { ...body, ...stageOf(path) } })
          : here().POST(`${OWN}/rows`, { params: { path }, body }),
      );
    },
  });
}
