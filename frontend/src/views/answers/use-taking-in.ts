import { onScopeDispose, ref } from "vue";

import { here, dataOf, type Schemas } from "../../api/client";
import { endImport, handInFile } from "../../api/uploads";
import { useAttempt } from "../../composables/use-attempt";

/** Answers from a file: handed in, looked at, taken in. */
export function useTakingIn() {
  const look = ref<Schemas["AnswersLook"]>();
  const file = ref("");
  const { problem, isBusy, attempt } = useAttempt();
  const leaveOut = ref(false);
  const taken = ref<number>();
  let id = "";

  async function handIn(chosen: File): Promise<void> {
    await end();
    file.value = chosen.name;
    look.value = taken.value = undefined;
    leaveOut.value = false;
    await attempt(async () => {
      id = await handInFile(chosen);
      look.value = await dataOf(
        here().POST("/answers/{import_id}/look", { params: { path: { import_id: id } } }),
      );
    });
  }

  function take(): Promise<boolean> {
    return attempt(async () => {
      const { count } = await dataOf(
        here().POST("/answers/{import_id}/take", {
          params: { path: { import_id: id } },
          body: { leave_out: leaveOut.value },
        }),
      );
      taken.value = count;
    });
  }

  async function end(): Promise<void> {
    const before = id;
    id = "";
    if (before) await endImport(before);
  }
  onScopeDispose(() => void end());

  return { look, file, problem, isBusy, leaveOut, taken, handIn, take };
}
