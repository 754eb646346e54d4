import { ref } from "vue";

/** Something that may be refused: one at a time, its refusal kept in words. */
export function useAttempt() {
  const problem = ref("");
  const isBusy = ref(false);

  /** Whether the work went well. */
  async function attempt(work: () => Promise<unknown>): Promise<boolean> {
    problem.value = "";
    isBusy.value = true;
    try {
      await work();
      return true;
    } catch (refused) {
      problem.value = (refused as Error).message;
      return false;
    } finally {
      isBusy.value = false;
    }
  }

  return { problem, isBusy, attempt };
}
