import { useQueryClient } from "@tanstack/vue-query";
import { useThrottleFn } from "@vueuse/core";
import { computed, ref } from "vue";

import { courseAddress, dataOf, here, type Schemas } from "../api/client";
import { useEvents } from "./use-events";
import { lookAgain } from "../api/shown";

const LOOK_AGAIN_MS = 1_000;

/** Where grading stands, as the server tells it; pages that show verdicts look again. */
export function useGrading() {
  const queries = useQueryClient();
  const state = ref<Schemas["Grading"]>();

  const lookSoon = useThrottleFn(
    () =>
      lookAgain(
        queries, "exercises", "exercise", "submission", "proof", "desk", "desk-lines", "answer-marks", "marks", "needs", "plots",
        "regrade", "feedback-pages", "sample",
      ),
    LOOK_AGAIN_MS,
    true,
  );

  const events = useEvents(() => courseAddress("/events"), "grading", (data) => {
    const before = state.value;
    state.value = JSON.parse(data) as Schemas["Grading"];
    if (before && (before.graded !== state.value.graded || before.news !== state.value.news)) void lookSoon();
  });
  events.listen();

  const ready = computed(() => (state.value ? state.value.waiting - state.value.blocked : 0));

  async function turn(): Promise<void> {
    const path = state.value?.paused ? "/grading/resume" : "/grading/pause";
    state.value = await dataOf(here().POST(path));
  }

  return { state, ready, turn };
}
