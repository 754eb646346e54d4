import { useMutation, useQueryClient } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, toValue } from "vue";

import { dataOf, here, type Schemas } from "./client";
import type { ExerciseContent } from "./exercises";
import { useAbout } from "./queries";
import type { DatasetName } from "./samples";
import { lookAgain } from "./shown";

export type Engine = Schemas["EngineLine"];
export type MovedExercise = Schemas["MovedExercise"];

/** The engines that there are, also those that do not answer. */
export function useEngines() {
  const { data } = useAbout();
  return computed(() => data.value?.engines ?? []);
}

/** One query on every engine, each held against the first. */
export function useEngineRuns(name: MaybeRefOrGetter<DatasetName>) {
  return useMutation({
    mutationFn: (sql: string) =>
      dataOf(
        here().POST("/samples/{sample}/datasets/{dataset}/queries/engines", {
          params: { path: toValue(name) },
          body: { sql },
        }),
      ),
  });
}

/** An exercise as it would be on another engine; nothing of it is kept. */
export function useEngineMove(slug: MaybeRefOrGetter<string>) {
  return useMutation({
    mutationFn: (asked: { content: ExerciseContent; engine: string }) =>
      dataOf(
        here().POST("/exercises/{slug}/engines/{engine}", {
          params: { path: { slug: toValue(slug), engine: asked.engine } },
          body: asked.content as unknown as Schemas["Content"],
        }),
      ),
  });
}

/** The exercises of a sheet on another engine: looked at, and moved as far as they hold there. */
export function useSheetMove(slug: MaybeRefOrGetter<string>) {
  const client = useQueryClient();
  const path = (engine: string) => ({ params: { path: { slug: toValue(slug), engine } } });
  const look = useMutation({
    mutationFn: (engine: string) => dataOf(here().GET("/sheets/{slug}/engines/{engine}", path(engine))),
  });
  const move = useMutation({
    mutationFn: (engine: string) => dataOf(here().PUT("/sheets/{slug}/engines/{engine}", path(engine))),
    onSuccess: () => lookAgain(client, "exercises", "exercise", "sheets"),
  });
  return { look, move };
}
