import { useQueryClient } from "@tanstack/vue-query";
import { useTimeoutPoll } from "@vueuse/core";
import { computed, onScopeDispose, ref, shallowRef } from "vue";

import { here, dataOf, type Schemas } from "../../api/client";
import { endImport, handInFile } from "../../api/uploads";
import { useAttempt } from "../../composables/use-attempt";

export type What = "samples" | "exercises" | "sheets";
export type Choice = Schemas["PackItem"]["usual"];

const LOOK_EVERY_MS = 250;

/** A pack that is taken in: handed in, looked at, chosen from, taken. */
export function usePackImport() {
  const queries = useQueryClient();
  const current = shallowRef<Schemas["PackImport"]>();
  const choices = ref<Record<What, Record<string, Choice>>>({ samples: {}, exercises: {}, sheets: {} });
  const { problem, attempt } = useAttempt();
  const sending = ref("");

  const phase = computed(() => current.value?.state.phase ?? "files");
  const isWorking = computed(() => phase.value === "working" || sending.value !== "");
  const path = computed(() => ({ import_id: current.value?.state.id ?? "" }));
  const { resume, pause } = useTimeoutPoll(look, LOOK_EVERY_MS, { immediate: false });

  async function look(): Promise<void> {
    await attempt(async () => {
      current.value = await dataOf(here().GET("/packs/{import_id}", { params: { path: path.value } }));
    });
    if (phase.value === "working" && !problem.value) return;
    pause();
    if (phase.value === "kept") await queries.invalidateQueries();
  }

  /** Hands a pack in and has it looked at. */
  async function handIn(file: File): Promise<void> {
    await end();
    await attempt(async () => {
      sending.value = file.name;
      const place = { import_id: await handInFile(file) };
      choices.value = { samples: {}, exercises: {}, sheets: {} };
      current.value = await dataOf(
        here().POST("/packs/{import_id}/look", { params: { path: place } }),
      );
      resume();
    });
    sending.value = "";
  }

  /** Takes the pack in as chosen: all of it or nothing. */
  function take(): Promise<boolean> {
    return attempt(async () => {
      current.value = await dataOf(
        here().POST("/packs/{import_id}/take", {
          params: { path: path.value },
          body: choices.value,
        }),
      );
      resume();
    });
  }

  async function stop(): Promise<void> {
    await here().POST("/imports/{import_id}/stop", { params: { path: path.value } });
    await look();
  }

  async function end(): Promise<void> {
    pause();
    const id = current.value?.state.id;
    current.value = undefined;
    if (id) await endImport(id);
  }
  onScopeDispose(() => void end());

  return { current, choices, problem, sending, phase, isWorking, handIn, take, stop };
}
