import { computed, ref } from "vue";

import { useSamples } from "../../api/samples";

/** The samples in a list, and the one that the keys are at. */
export function useSampleList() {
  const { data: samples, isPending, error, refetch } = useSamples();
  const chosenAt = ref(0);
  const chosen = computed(() => samples.value?.[chosenAt.value]);

  function move(step: number): void {
    const last = Math.max((samples.value?.length ?? 0) - 1, 0);
    chosenAt.value = Math.min(Math.max(chosenAt.value + step, 0), last);
  }

  return { samples, chosen, chosenAt, isPending, error, refetch, move };
}
