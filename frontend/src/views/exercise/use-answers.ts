import { computed, type Ref } from "vue";

import type { Schemas } from "../../api/client";
import { useInAddress } from "../../composables/use-address";

export type VerdictFilter = "all" | "correct" | "incorrect" | "undecided" | "broken";
export const FILTERS: VerdictFilter[] = ["all", "correct", "incorrect", "undecided", "broken"];

/** The answers to an exercise, narrowed to some verdicts, one of them chosen. */
export function useAnswers(exercise: Ref<Schemas["Exercise"] | undefined>) {
  const filter = useInAddress<VerdictFilter>("which", "all", FILTERS);
  const chosenId = useInAddress("answer", "");

  const answers = computed(() =>
    (exercise.value?.submissions ?? []).filter((one) => {
      if (filter.value === "all") return true;
      if (filter.value === "broken") {
        return ["error", "refused", "stopped"].includes(one.verdict);
      }
      return one.verdict === filter.value;
    }),
  );
  const chosenAt = computed({
    get: () => Math.max(0, answers.value.findIndex((one) => String(one.id) === chosenId.value)),
    set: (at: number) => {
      chosenId.value = String(answers.value[at]?.id ?? "");
    },
  });
  const chosen = computed(() => answers.value[chosenAt.value]);

  function move(step: number): void {
    const last = Math.max(answers.value.length - 1, 0);
    chosenAt.value = Math.min(Math.max(chosenAt.value + step, 0), last);
  }

  function turnFilter(): void {
    const counts = exercise.value?.counts;
    const broken = counts && counts.error + counts.refused + counts.stopped;
    const offered = FILTERS.filter((one) => one === "all" || (one === "broken" ? broken : counts?.[one]));
    filter.value = offered[(offered.indexOf(filter.value) + 1) % offered.length] ?? "all";
  }

  return { filter, answers, chosen, chosenAt, move, turnFilter };
}
