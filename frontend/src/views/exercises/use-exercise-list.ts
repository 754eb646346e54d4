import { computed } from "vue";

import type { Schemas } from "../../api/client";
import { useExercises } from "../../api/queries";
import { useInAddress } from "../../composables/use-address";

type Line = Schemas["ExerciseLine"];

export const SORTS = ["", "title", "sample", "sheet", "points", "trials", "right", "answers"] as const;
export type Sort = (typeof SORTS)[number];

export const STATES = {
  draft: { says: "with a draft", holds: (one: Line) => one.has_draft },
  unsheeted: { says: "on no sheet", holds: (one: Line) => !one.sheets.length },
  untried: { says: "without trials", holds: (one: Line) => !one.trials },
  unanswered: { says: "without answers", holds: (one: Line) => !one.counts.total },
  undecided: { says: "with undecided answers", holds: (one: Line) => one.counts.undecided > 0 },
} as const;
export type State = keyof typeof STATES | "";

function share(one: Line): number {
  return one.counts.total ? one.counts.correct / one.counts.total : 2;
}

const ORDERS: Record<Exclude<Sort, "">, (one: Line, other: Line) => number> = {
  title: (one, other) => one.title.localeCompare(other.title),
  sample: (one, other) => one.sample.localeCompare(other.sample),
  sheet: (one, other) => (one.sheets[0] ?? "\uffff").localeCompare(other.sheets[0] ?? "\uffff"),
  points: (one, other) => other.points - one.points,
  trials: (one, other) => one.trials - other.trials,
  right: (one, other) => share(one) - share(other),
  answers: (one, other) => other.counts.total - one.counts.total,
};

/** The list of exercises, narrowed and sorted, with one of them chosen; all of it stands in the address. */
export function useExerciseList() {
  const { data, isPending, error, refetch } = useExercises();
  const tag = useInAddress("tag", "");
  const sample = useInAddress("sample", "");
  const sheet = useInAddress("sheet", "");
  const state = useInAddress<State>("state", "", ["", ...(Object.keys(STATES) as State[])]);
  const sort = useInAddress<Sort>("sort", "", SORTS);
  const slug = useInAddress("at", "");

  const exercises = computed(() => {
    const narrowed = data.value?.filter(
      (one) =>
        (!tag.value || one.tags.includes(tag.value)) &&
        (!sample.value || one.sample === sample.value) &&
        (!sheet.value || one.sheets.includes(sheet.value)) &&
        (!state.value || STATES[state.value].holds(one)),
    );
    return sort.value ? narrowed?.sort(ORDERS[sort.value]) : narrowed;
  });
  const isNarrowed = computed(() => Boolean(tag.value || sample.value || sheet.value || state.value));
  const different = (of: (one: Line) => string[]) =>
    computed(() => [...new Set((data.value ?? []).flatMap(of))].sort());
  const tags = different((one) => one.tags);
  const samples = different((one) => [one.sample]);
  const sheets = different((one) => one.sheets);

  /** The place of the exercise chosen: the first, until another is. */
  const chosenAt = computed({
    get: () => Math.max(0, exercises.value?.findIndex((one) => one.slug === slug.value) ?? 0),
    set: (at: number) => {
      slug.value = exercises.value?.[at]?.slug ?? "";
    },
  });
  const chosen = computed(() => exercises.value?.[chosenAt.value]);

  function move(step: number): void {
    const last = (exercises.value?.length ?? 1) - 1;
    chosenAt.value = Math.min(Math.max(chosenAt.value + step, 0), last);
  }

  function showAll(): void {
    tag.value = sample.value = sheet.value = state.value = "";
  }

  return {
    exercises, tag, sample, sheet, state, sort, tags, samples, sheets, isNarrowed, showAll,
    chosen, chosenAt, isPending, error, refetch, move,
  };
}
