import { computed, type Ref, ref, watch } from "vue";

import { useSubmission } from "../api/queries";
import { useInAddress } from "../composables/use-address";
import { counted } from "../composables/words";

const MOST_ROWS = 20_000;

/** What is shown of a submission: which dataset, which of its rows, or its steps. */
export function useAnswerSheet(id: Ref<number>) {
  const wanted = ref<string>();
  /** How many rows are woven; the usual number unless all are asked for. */
  const rows = ref<number>();
  const extent = useInAddress("rows", "all", ["all", "differences"]);
  /** Rows woven, where it parts from the reference, or the submission step by step. */
  const view = useInAddress("shown", "rows", ["rows", "parting", "steps", "why"]);
  const { data: submission, isPending, error, refetch } = useSubmission(id, wanted, rows);

  const dataset = computed({
    get: () => submission.value?.shown_dataset ?? "open",
    set: (name: string) => {
      wanted.value = name;
    },
  });
  const datasets = computed(() =>
    (submission.value?.datasets ?? []).map((one) => ({
      label: one.is_open ? "open" : one.name,
      value: one.name,
    })),
  );
  watch(
    () => submission.value?.exercise,
    () => {
      wanted.value = undefined;
    },
  );
  watch([id, wanted], () => {
    rows.value = undefined;
  });

  function showAll(): void {
    rows.value = MOST_ROWS;
  }

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

  function turnView(): void {
    view.value = { rows: "parting", parting: "steps", steps: "why", why: "rows" }[view.value] as typeof view.value;
  }

  function turnExtent(): void {
    extent.value = extent.value === "all" ? "differences" : "all";
  }

  return {
    submission, isPending, error, refetch, dataset, datasets, extent, view, headline, nextDataset, showAll,
    turnExtent, turnView,
  };
}

export type AnswerSheetState = ReturnType<typeof useAnswerSheet>;
