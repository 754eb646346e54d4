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
    const isAnswered = await attempt(async () => {
      await follow(await dataOf(here().GET("/packs/{import_id}", { params: { path: path.value } })));
    });
    if (!isAnswered) pause();
  }

  /** Takes what the server says of the work; it may be done with the first answer already. */
  async function follow(next: NonNullable<typeof current.value>): Promise<void> {
    current.value = next;
    if (phase.value === "working") {
      resume();
      return;
    }
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
      await follow(
        await dataOf(here().POST("/packs/{import_id}/look", { params: { path: place } })),
      );
    });
    sending.value = "";
  }

  /** Takes the pack in as chosen: all of it or nothing. */
  function take(): Promise<boolean> {
    return attempt(async () => {
      await follow(
        await dataOf(
          here().POST("/packs/{import_id}/take", {
            params: { path: path.value },
            body: choices.value,
          }),
        ),
      );
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
  // What was under way when the page was left may have been done before it could be ended.
  onScopeDispose(() => void end().then(() => queries.invalidateQueries()));

  return { current, choices, problem, sending, phase, isWorking, handIn, take, stop };
}
