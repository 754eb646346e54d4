import { computed, type Ref, ref, watch } from "vue";

import { useSubmission } from "../../api/queries";
import { useInAddress } from "../../composables/use-address";
import { counted } from "../../composables/words";

/** One submission: which dataset and which of its rows are in view. */
export function useSubmissionDesk(id: Ref<number>) {
  const wanted = ref<string>();
  const extent = useInAddress("rows", "all", ["all", "differences"]);
  const { data: submission, isPending, error, refetch } = useSubmission(id, wanted);

  const dataset = computed({
    get: () => submission.value?.shown_dataset ?? "open",
    set: (name: string) => {
      wanted.value = name;
    },
  });
  const datasets = computed(() =>
    (submission.value?.datasets ?? []).map((one) => ({
      label: one.is_open ? "open data" : one.name,
      value: one.name,
    })),
  );
  watch(
    () => submission.value?.exercise,
    () => {
      wanted.value = undefined;
    },
  );

  const headline = computed(() => {
    const found = submission.value;
    if (!found) return "";
    if (!found.woven) {
      return { refused: "Refused: the query did not run", stopped: "Stopped at a limit" }[
        found.verdict as string
      ] ?? "The engine says no";
    }
    const { due_rows, given_rows } = found.woven;
    return `${counted(given_rows, "row")} given, ${due_rows} due`;
  });

  function nextDataset(): void {
    const names = datasets.value.map((one) => one.value);
    const next = names[(names.indexOf(dataset.value) + 1) % names.length];
    if (next) dataset.value = next;
  }

  function turnExtent(): void {
    extent.value = extent.value === "all" ? "differences" : "all";
  }

  return {
    submission, isPending, error, refetch, dataset, datasets, extent, headline, nextDataset,
    turnExtent,
  };
}
