import { refDebounced, useDebounceFn, useEventListener, useLocalStorage } from "@vueuse/core";
import { computed, onScopeDispose, type Ref, ref, watch } from "vue";

import {
  completed, dropDraft, type ExerciseContent, sendDraft, toPlain, useAnswerProof,
  useExerciseChanges, useProof, useTrialProof,
} from "../../api/exercises";
import { useSight } from "../../api/explanations";
import { useExercise } from "../../api/queries";
import { columnsByTable, useSample } from "../../api/samples";
import { useInAddress } from "../../composables/use-address";

const PARTS = ["reference", "steps", "also", "tables", "versions", "trial", "spot", "measure"] as const;
export type Part = (typeof PARTS)[number];
export type Saving = "kept" | "unsaved" | "draft" | "offline";

const PROOF_AFTER_MS = 350;
const DRAFT_AFTER_MS = 700;
const UNSENT = "jentrow-unsent-drafts";

/** What one exercise is written with: its content, its draft, and the proof that it works. */
export function useExerciseBench(slug: Ref<string>) {
  const { data: exercise, isPending, error, refetch } = useExercise(slug);
  const changes = useExerciseChanges();
  const content = ref<ExerciseContent>();
  const shown = useInAddress<Part>("shown", "reference", PARTS);
  const trialName = useInAddress("trial", "");
  const trialAt = computed({
    get: () => content.value?.trials.findIndex((one) => one.name === trialName.value) ?? -1,
    set: (at: number) => {
      trialName.value = content.value?.trials[at]?.name ?? "";
    },
  });
  const saving = ref<Saving>("kept");
  const problem = ref("");
  /** What could not be sent to the server, by exercise: it survives a reload. */
  const unsent = useLocalStorage<Record<string, ExerciseContent>>(UNSENT, {});
  const loaded = ref("");

  function forgetUnsent(name: string): void {
    const { [name]: _before, ...rest } = unsent.value;
    unsent.value = rest;
  }

  const kept = computed(() => (exercise.value ? completed(exercise.value.content) : undefined));
  const isChanged = computed(
    () => Boolean(content.value) && JSON.stringify(content.value) !== JSON.stringify(kept.value),
  );

  function load(): void {
    const found = exercise.value;
    if (!found) return;
    const waiting = unsent.value[found.slug];
    loaded.value = found.slug;
    content.value = waiting ? toPlain(waiting) : completed(found.draft ?? found.content);
    saving.value = waiting ? "unsaved" : found.draft ? "draft" : "kept";
    if (waiting) void save();
  }
  watch(
    exercise,
    (found) => {
      if (found && found.slug !== loaded.value) {
        const isAnother = loaded.value !== "";
        load();
        if (isAnother || (shown.value === "trial" && trialAt.value < 0)) closeTrial();
      }
    },
    { immediate: true },
  );

  /** Drafts go one after the other: what is kept or discarded must not be overtaken by one. */
  let sending: Promise<void> = Promise.resolve();
  let isKeeping = false;

  function save(): Promise<void> {
    const name = loaded.value;
    if (content.value && name && isChanged.value && !isKeeping) {
      const what = toPlain(content.value);
      sending = sending.then(() => send(name, what));
    }
    return sending;
  }

  async function send(name: string, what: ExerciseContent): Promise<void> {
    try {
      await sendDraft(name, what);
      forgetUnsent(name);
      if (saving.value !== "kept") saving.value = "draft";
    } catch {
      unsent.value = { ...unsent.value, [name]: what };
      saving.value = "offline";
    }
  }
  const saveSoon = useDebounceFn(save, DRAFT_AFTER_MS);
  watch(
    content,
    () => {
      if (!content.value || !isChanged.value) return;
      saving.value = "unsaved";
      problem.value = "";
      void saveSoon();
    },
    { deep: true },
  );
  /** What was typed just now is saved before the page, or this exercise, is left. */
  function flush(): void {
    if (saving.value === "unsaved") void save();
  }
  onScopeDispose(flush);
  // A page that is left may end before a request has gone: what was typed stays in the browser.
  useEventListener(window, "pagehide", () => {
    if (saving.value !== "unsaved" || !content.value) return;
    const all = { ...unsent.value, [loaded.value]: content.value };
    localStorage.setItem(UNSENT, JSON.stringify(all));
  });
  watch(slug, flush, { flush: "sync" });

  async function keep(): Promise<void> {
    if (!content.value) return;
    problem.value = "";
    isKeeping = true;
    await sending;
    const sent = JSON.stringify(content.value);
    try {
      await changes.keep.mutateAsync({ slug: slug.value, content: content.value });
      await refetch();
      isKeeping = false;
      // What was typed while the answer was on its way is the next draft.
      if (JSON.stringify(content.value) === sent) load();
      else await save();
    } catch (refused) {
      problem.value = (refused as Error).message;
      isKeeping = false;
      void save();
    }
  }

  /** Back to what is kept. */
  async function discard(): Promise<void> {
    content.value = kept.value;
    saving.value = "kept";
    forgetUnsent(slug.value);
    await sending;
    await dropDraft(slug.value);
    await refetch();
    load();
  }

  async function restore(number: number): Promise<void> {
    await changes.restore.mutateAsync({ slug: slug.value, number });
    await refetch();
    load();
  }

  const asked = computed(() => (content.value ? toPlain(content.value) : undefined));
  const settled = refDebounced(asked, PROOF_AFTER_MS);
  const looked = computed(() => (loaded.value === slug.value ? (settled.value ?? asked.value) : undefined));
  const proof = useProof(slug, looked);
  const trials = useTrialProof(slug, looked);
  const answers = useAnswerProof(slug, looked);
  const sight = useSight(slug, looked);
  const spots = computed(() => sight.data.value?.sight?.blind_spots ?? []);
  const spotText = useInAddress("spot", "");
  const spotAt = computed(() => spots.value.findIndex((one) => one.sql === spotText.value));
  const { data: sample } = useSample(() => content.value?.sample ?? "");
  const schema = computed(() => columnsByTable(sample.value?.tables ?? []));

  function openTrial(at: number): void {
    trialAt.value = at;
    shown.value = "trial";
  }

  /** Brings a blind spot into view: what the datasets do not see, with rows that would show it. */
  function openSpot(at: number): void {
    spotText.value = spots.value[at]?.sql ?? "";
    shown.value = spotText.value ? "spot" : "reference";
  }

  function openMeasure(): void {
    shown.value = "measure";
  }

  function closeTrial(): void {
    trialAt.value = -1;
    shown.value = "reference";
  }

  function addTrial(): void {
    if (!content.value) return;
    const names = new Set(content.value.trials.map((one) => one.name));
    let number = content.value.trials.length + 1;
    while (names.has(`trial ${number}`)) number += 1;
    content.value.trials.push({ name: `trial ${number}`, sql: "", expected: "incorrect" });
    openTrial(content.value.trials.length - 1);
  }

  return {
    slug, exercise, isPending, error, refetch, content, kept, looked, shown, trialAt, saving, problem,
    isChanged, keep, discard, restore, proof, trials, answers, sample, schema, openTrial, closeTrial, addTrial,
    changes, sight, spots, spotAt, openSpot, openMeasure,
  };
}

export type ExerciseBench = ReturnType<typeof useExerciseBench>;
