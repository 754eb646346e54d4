import { computed, ref } from "vue";

import { useExercises } from "../../api/queries";

/** The list of exercises with one of them chosen. */
export function useExerciseList() {
  const { data: exercises, isPending, error, refetch } = useExercises();
  const chosenAt = ref(0);
  const chosen = computed(() => exercises.value?.[chosenAt.value]);

  function move(step: number): void {
    const last = (exercises.value?.length ?? 1) - 1;
    chosenAt.value = Math.min(Math.max(chosenAt.value + step, 0), last);
  }

  return { exercises, chosen, chosenAt, isPending, error, refetch, move };
}
