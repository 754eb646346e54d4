import { computed, onScopeDispose, ref, watch } from "vue";

import type { Schemas } from "../../api/client";
import { keptSight } from "../../api/explanations";
import { useExercises } from "../../api/queries";

/** An exercise with what its datasets see, as far as it has been looked at. */
export interface SightLine {
  slug: string;
  title: string;
  sheets: string[];
  sight: Schemas["SeenEdits"] | null | undefined;
  trouble: string;
}

/** The blind spots of all exercises of the course, looked for one exercise after the other. */
export function useSights() {
  const { data: exercises, isPending, error, refetch } = useExercises();
  const found = ref<Record<string, Schemas["Sight"]>>({});
  const isLooking = ref(false);
  const isStopped = ref(false);
  const done = computed(() => Object.keys(found.value).length);
  const total = computed(() => exercises.value?.length ?? 0);

  async function look(): Promise<void> {
    if (isLooking.value) return;
    isLooking.value = true;
    isStopped.value = false;
    for (const one of exercises.value ?? []) {
      if (isStopped.value) break;
      if (found.value[one.slug]) continue;
      try {
        found.value = { ...found.value, [one.slug]: await keptSight(one.slug) };
      } catch (problem) {
        found.value = { ...found.value, [one.slug]: { sight: null, trouble: (problem as Error).message } };
      }
    }
    isLooking.value = false;
  }
  function stop(): void {
    isStopped.value = true;
  }
  watch(exercises, (now, before) => {
    if (now && !before) void look();
  }, { immediate: true });
  onScopeDispose(stop);

  /** Worst first; what has not been looked at yet comes last. */
  const lines = computed<SightLine[]>(() =>
    (exercises.value ?? [])
      .map((one) => ({
        slug: one.slug, title: one.title, sheets: one.sheets,
        sight: found.value[one.slug]?.sight, trouble: found.value[one.slug]?.trouble ?? "",
      }))
      .sort((one, other) => (other.sight?.blind_spots.length ?? -1) - (one.sight?.blind_spots.length ?? -1)),
  );
  return { lines, isPending, error, refetch, isLooking, isStopped, done, total, look, stop };
}
