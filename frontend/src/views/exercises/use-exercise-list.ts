import { computed, ref } from "vue";

import { useExercises } from "../../api/queries";

/** The list of exercises, narrowed by a tag, with one of them chosen. */
export function useExerciseList() {
  const { data, isPending, error, refetch } = useExercises();
  const tag = ref("");
  const chosenAt = ref(0);
  const exercises = computed(() =>
    data.value?.filter((one) => !tag.value || one.tags.includes(tag.value)),
  );
  const tags = computed(() => [...new Set((data.value ?? []).flatMap((one) => one.tags))]);
  const chosen = computed(() => exercises.value?.[chosenAt.value]);

  function move(step: number): void {
    const last = (exercises.value?.length ?? 1) - 1;
    chosenAt.value = Math.min(Math.max(chosenAt.value + step, 0), last);
  }

  function narrow(to: string): void {
    tag.value = to;
    chosenAt.value = 0;
  }

  return { exercises, tag, tags, narrow, chosen, chosenAt, isPending, error, refetch, move };
}
