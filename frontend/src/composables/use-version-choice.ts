import { computed, type Ref, ref, watch } from "vue";

/**
 * One of the versions of something, and the one that it is compared with: the one before it, until
 * another is chosen. With `follows`, a new version is the one chosen.
 */
export function useVersionChoice(versions: Readonly<Ref<readonly { number: number }[] | undefined>>, follows = false) {
  const chosen = ref(0);
  const against = ref(0);
  const last = computed(() => versions.value?.[0]?.number ?? 0);

  watch(
    last,
    (number) => {
      if (follows || !chosen.value || chosen.value > number) chosen.value = number;
    },
    { immediate: true },
  );
  watch(
    [chosen, last],
    () => {
      against.value = chosen.value > 1 ? chosen.value - 1 : last.value;
    },
    { immediate: true },
  );
  const between = computed(() => ({
    older: Math.min(chosen.value, against.value),
    newer: Math.max(chosen.value, against.value),
  }));

  function step(by: number): void {
    chosen.value = Math.min(Math.max(chosen.value - by, 1), last.value);
  }

  return { chosen, against, last, between, step };
}
