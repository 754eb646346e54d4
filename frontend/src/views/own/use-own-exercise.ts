import { useQueryClient } from "@tanstack/vue-query";
import { useDebounceFn, useEventListener, useStorage } from "@vueuse/core";
import { computed, onScopeDispose, ref, watch } from "vue";
import { useRoute } from "vue-router";

import { courseAddress } from "../../api/client";
import {
  type OwnPlace, sendOwnDraft, useCopyChanges, useFeedback, useOwnExercise, usePrivateCopy, useRun,
} from "../../api/own";
import { useEvents } from "../../composables/use-events";
import { useOutbox } from "../../composables/use-outbox";
import { useSession } from "../../composables/use-session";
import { lookAgain } from "../../api/shown";

const DRAFT_AFTER_MS = 800;

/** One exercise of a learner's: what they write, run and hand in, and what came of it. */
export function useOwnExercisePage() {
  const route = useRoute();
  const session = useSession();
  const queries = useQueryClient();
  const outbox = useOutbox();
  const course = computed(() => String(route.params.course));
  const place = computed<OwnPlace>(() => ({
    sheet: String(route.params.sheet ?? ""),
    slug: String(route.params.slug ?? ""),
  }));
  const { data: exercise, isPending, error, refetch } = useOwnExercise(place);

  // What is typed stays in this browser until the server has it: no sign-out or reload costs it.
  const name = computed(
    () => `${session.me?.login ?? ""} ${course.value} ${place.value.sheet} ${place.value.slug}`,
  );
  const unsent = useStorage<Record<string, string>>("jentrow-answers", {});
  const scratch = useStorage<Record<string, string>>("jentrow-scratch", {});
  const text = ref("");
  const loaded = ref("");
  const saving = ref<"saved" | "unsaved" | "offline">("saved");

  function load(): void {
    const found = exercise.value;
    if (!found || found.slug !== place.value.slug || loaded.value === name.value) return;
    const last = found.attempts.at(-1)?.sql ?? "";
    text.value = unsent.value[name.value] ?? found.draft?.sql ?? last;
    loaded.value = name.value;
    saving.value = name.value in unsent.value ? "unsaved" : "saved";
    if (saving.value === "unsaved") void save();
  }

  async function save(): Promise<void> {
    const mine = loaded.value;
    const what = text.value;
    const where = place.value;
    if (!(mine in unsent.value)) return;
    try {
      await sendOwnDraft(where, what);
      if (unsent.value[mine] !== what) return;
      const { [mine]: _sent, ...rest } = unsent.value;
      unsent.value = rest;
      if (loaded.value === mine) saving.value = "saved";
    } catch {
      saving.value = "offline";
    }
  }
  const saveSoon = useDebounceFn(save, DRAFT_AFTER_MS);

  function write(next: string): void {
    if (next === text.value || !loaded.value) return;
    text.value = next;
    unsent.value = { ...unsent.value, [loaded.value]: next };
    saving.value = "unsaved";
    void saveSoon();
  }
  watch([exercise, name], load, { immediate: true });
  watch(place, () => void save(), { flush: "sync" });
  onScopeDispose(() => void save());
  useEventListener(window, "online", () => void save());
  useEventListener(window, "pagehide", () => void save());

  // The two kinds of running: on the sample, and on a copy in which everything may be changed.
  const inCopy = ref(false);
  const run = useRun(place);
  const copy = usePrivateCopy(place, inCopy);
  const copyChanges = useCopyChanges(place);
  const copyText = computed({
    get: () => scratch.value[name.value] ?? "",
    set: (next: string) => {
      scratch.value = { ...scratch.value, [name.value]: next };
    },
  });
  const tables = computed(
    () => (inCopy.value ? copy.data.value?.tables : exercise.value?.tables) ?? [],
  );
  watch(place, () => {
    run.reset();
    copyChanges.run.reset();
    inCopy.value = false;
    chosen.value = undefined;
  });

  /** Runs a part of the text, or the whole; what is handed in is always the whole. */
  async function go(part?: string): Promise<void> {
    chosen.value = undefined;
    if (inCopy.value) await copyChanges.run.mutateAsync(part ?? copyText.value).catch(() => undefined);
    else await run.mutateAsync(part ?? text.value).catch(() => undefined);
  }

  // Handing in, and what came of it.
  const chosen = ref<number>();
  const key = ref("");
  const feedback = useFeedback(chosen);
  const isUnderWay = computed(() => outbox.waiting.some((one) => one.key === key.value));
  const kept = computed(() =>
    outbox.waiting.filter(
      (one) => one.course === course.value && one.slug === place.value.slug && one.sheet === place.value.sheet,
    ),
  );
  const refusal = computed(() =>
    outbox.refused && outbox.refused.key === key.value ? outbox.refused.message : "",
  );
  const canHandIn = computed(() => {
    const found = exercise.value;
    return Boolean(
      found && ["open", "late"].includes(found.times.standing) && found.attempts_left !== 0 && !isUnderWay.value,
    );
  });

  function handIn(): void {
    if (!canHandIn.value || inCopy.value) return;
    key.value = outbox.handIn({ course: course.value, ...place.value, sql: text.value });
  }
  watch(
    () => outbox.taken,
    (taken) => {
      if (!taken || taken.key !== key.value) return;
      chosen.value = taken.id;
      if (taken.sql !== text.value) return;
      const { [name.value]: _sent, ...rest } = unsent.value;
      unsent.value = rest;
      saving.value = "saved";
    },
  );
  void outbox.drain();

  const news = useEvents(() => courseAddress("/own/events"), "news", () => {
    void lookAgain(queries, "own-exercise", "own-course", "own-feedback");
  });
  news.listen();

  return {
    course, place, exercise, isPending, error, refetch, text, write, saving, inCopy, run, copy, copyChanges,
    copyText, tables, go, chosen, feedback, kept, refusal, canHandIn, handIn,
  };
}

export type OwnExercisePage = ReturnType<typeof useOwnExercisePage>;
