import { computed, type Ref, ref, watch } from "vue";

import { useExercise } from "../../api/queries";

export type VerdictFilter = "all" | "correct" | "incorrect" | "broken";
export const FILTERS: VerdictFilter[] = ["all", "correct", "incorrect", "broken"];

type Part = "reference" | "tables";

/** One exercise: what the middle shows, and its answers narrowed to some verdicts. */
export function useExerciseDesk(slug: Ref<string>) {
  const { data: exercise, isPending, error, refetch } = useExercise(slug);
  const shown = ref<Part>("reference");
  const parts = [
    { label: "reference", value: "reference" },
    { label: "tables", value: "tables" },
  ];
  const filter = ref<VerdictFilter>("all");
  const chosenAt = ref(0);

  const answers = computed(() =>
    (exercise.value?.submissions ?? []).filter((one) => {
      if (filter.value === "all") return true;
      if (filter.value === "broken") {
        return ["error", "refused", "stopped"].includes(one.verdict);
      }
      return one.verdict === filter.value;
    }),
  );
  const chosen = computed(() => answers.value[chosenAt.value]);
  watch([filter, slug], () => {
    chosenAt.value = 0;
  });

  function move(step: number): void {
    const last = Math.max(answers.value.length - 1, 0);
    chosenAt.value = Math.min(Math.max(chosenAt.value + step, 0), last);
  }

  function turn(): void {
    shown.value = shown.value === "reference" ? "tables" : "reference";
  }

  function turnFilter(): void {
    filter.value = FILTERS[(FILTERS.indexOf(filter.value) + 1) % FILTERS.length] ?? "all";
  }

  return {
    exercise, isPending, error, refetch, shown, parts, filter, answers, chosen, chosenAt, move,
    turn, turnFilter,
  };
}
