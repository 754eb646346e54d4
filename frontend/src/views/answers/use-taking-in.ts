import { onScopeDispose, ref } from "vue";

import { client, dataOf, type Schemas } from "../../api/client";
import { endImport, handInFile } from "../../api/uploads";

/** Answers from a file: handed in, looked at, taken in. */
export function useTakingIn() {
  const look = ref<Schemas["AnswersLook"]>();
  const file = ref("");
  const problem = ref("");
  const isBusy = ref(false);
  const leaveOut = ref(false);
  const taken = ref<number>();
  let id = "";

  async function attempt(work: () => Promise<void>): Promise<void> {
    problem.value = "";
    isBusy.value = true;
    try {
      await work();
    } catch (refused) {
      problem.value = (refused as Error).message;
    }
    isBusy.value = false;
  }

  async function handIn(chosen: File): Promise<void> {
    await end();
    file.value = chosen.name;
    look.value = taken.value = undefined;
    leaveOut.value = false;
    await attempt(async () => {
      id = await handInFile(chosen);
      look.value = await dataOf(
        client.POST("/api/answers/{import_id}/look", { params: { path: { import_id: id } } }),
      );
    });
  }

  function take(): Promise<void> {
    return attempt(async () => {
      const { count } = await dataOf(
        client.POST("/api/answers/{import_id}/take", {
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
