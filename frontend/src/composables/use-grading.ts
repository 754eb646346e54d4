import { useQueryClient } from "@tanstack/vue-query";
import { useEventListener, useThrottleFn } from "@vueuse/core";
import { defineStore } from "pinia";
import { computed, ref } from "vue";

import { client, dataOf, type Schemas } from "../api/client";

const LOOK_AGAIN_MS = 1_000;

/** Where grading stands, as the server tells it; pages that show verdicts look again. */
export const useGrading = defineStore("grading", () => {
  const queries = useQueryClient();
  const state = ref<Schemas["Grading"]>();
  let source: EventSource | undefined;

  const lookAgain = useThrottleFn(
    () =>
      Promise.all(
        ["exercises", "exercise", "submission", "proof"].map((key) =>
          queries.invalidateQueries({ queryKey: [key] }),
        ),
      ),
    LOOK_AGAIN_MS,
    true,
  );

  function close(): void {
    source?.close();
    source = undefined;
  }
  // A page that a browser keeps for going back would keep its connection, too, and there are few.
  useEventListener(window, "pagehide", close);
  useEventListener(window, "pageshow", (event) => {
    if (event.persisted) listen();
  });

  function listen(): void {
    if (source) return;
    source = new EventSource("/api/events");
    source.addEventListener("grading", (event: MessageEvent<string>) => {
      const before = state.value;
      state.value = JSON.parse(event.data) as Schemas["Grading"];
      if (before && before.graded !== state.value.graded) void lookAgain();
    });
  }

  const ready = computed(() => (state.value ? state.value.waiting - state.value.blocked : 0));

  async function turn(): Promise<void> {
    const path = state.value?.paused ? "/api/grading/resume" : "/api/grading/pause";
    state.value = await dataOf(client.POST(path));
  }

  return { state, ready, listen, turn };
});
