import { computed } from "vue";

import { useSamples } from "../../api/samples";
import { useInAddress } from "../../composables/use-address";

/** The samples in a list, and the one that the keys are at. */
export function useSampleList() {
  const { data: samples, isPending, error, refetch } = useSamples();
  const name = useInAddress("at", "");
  const chosenAt = computed({
    get: () => Math.max(0, samples.value?.findIndex((one) => one.name === name.value) ?? 0),
    set: (at: number) => {
      name.value = samples.value?.[at]?.name ?? "";
    },
  });
  const chosen = computed(() => samples.value?.[chosenAt.value]);

  function move(step: number): void {
    const last = Math.max((samples.value?.length ?? 0) - 1, 0);
    chosenAt.value = Math.min(Math.max(chosenAt.value + step, 0), last);
  }

  return { samples, chosen, chosenAt, isPending, error, refetch, move };
}
