import { computed, ref, watch } from "vue";

import type { Schemas } from "../../api/client";
import { useSheetChanges, useSheets } from "../../api/exercises";
import { useExercises } from "../../api/queries";
import { useInAddress } from "../../composables/use-address";

type Body = Schemas["SheetContent"];

const NEW: Body = {
  title: "", opens: null, closes: null, attempts: 10,
  late: { rule: "refuse", percent_a_day: 10, days: null }, counting: "best", best_of: null, weight: null, exercises: [],
};

/** The sheets, and one of them as it is being changed. */
export function useSheetDesk() {
  const { data: sheets, isPending, error, refetch } = useSheets();
  const { data: exercises } = useExercises();
  const changes = useSheetChanges();
  /** The sheet that is chosen; empty for a new one. */
  const slug = ref<string>();
  const named = useInAddress("sheet", "");
  const body = ref<Body>();
  const problem = ref("");

  const chosen = computed(() => sheets.value?.find((one) => one.slug === slug.value));
  const before = computed<Body>(() => (chosen.value ? bodyOf(chosen.value) : NEW));
  const isChanged = computed(
    () => Boolean(body.value) && JSON.stringify(body.value) !== JSON.stringify(before.value),
  );
  const rest = computed(() => {
    const on = new Set(body.value?.exercises.map((one) => one.exercise));
    return (exercises.value ?? []).filter((one) => !on.has(one.slug));
  });
  const bySlug = computed(() => new Map((exercises.value ?? []).map((one) => [one.slug, one])));
  const total = computed(() =>
    (body.value?.exercises ?? []).reduce(
      (sum, one) => sum + (one.points ?? bySlug.value.get(one.exercise)?.points ?? 0),
      0,
    ),
  );

  function choose(next: string): void {
    slug.value = named.value = next;
    body.value = JSON.parse(JSON.stringify(before.value)) as Body;
    problem.value = "";
  }
  watch(
    sheets,
    (found) => {
      if (!found || slug.value !== undefined) return;
      choose((found.find((one) => one.slug === named.value) ?? found[0])?.slug ?? "");
    },
    { immediate: true },
  );
  watch(named, (next) => {
    if (next && next !== slug.value && sheets.value?.some((one) => one.slug === next)) choose(next);
  });

  function turn(by: number): void {
    const all = sheets.value ?? [];
    const at = all.findIndex((one) => one.slug === slug.value);
    const next = all[Math.min(Math.max(at + by, 0), all.length - 1)];
    if (next) choose(next.slug);
  }

  async function keep(): Promise<void> {
    if (!body.value || !isChanged.value) return;
    problem.value = "";
    try {
      const kept = slug.value
        ? await changes.change.mutateAsync({ slug: slug.value, body: body.value })
        : await changes.make.mutateAsync(body.value);
      await refetch();
      choose(kept.slug);
    } catch (refused) {
      problem.value = (refused as Error).message;
    }
  }

  async function remove(): Promise<void> {
    if (!slug.value) return;
    problem.value = "";
    try {
      await changes.remove.mutateAsync(slug.value);
      await refetch();
      choose(sheets.value?.[0]?.slug ?? "");
    } catch (refused) {
      problem.value = (refused as Error).message;
    }
  }

  function add(exercise: string): void {
    body.value?.exercises.push({ exercise, points: null });
  }

  function shift(at: number, by: number): void {
    const list = body.value?.exercises;
    const [moved] = list?.splice(at, 1) ?? [];
    if (moved) list?.splice(Math.min(Math.max(at + by, 0), list.length), 0, moved);
  }

  return {
    sheets, isPending, error, refetch, slug, chosen, body, problem, isChanged, rest, bySlug, total,
    choose, turn, keep, remove, add, shift,
  };
}

function bodyOf(sheet: Schemas["Sheet"]): Body {
  return {
    title: sheet.title,
    opens: local(sheet.opens),
    closes: local(sheet.closes),
    attempts: sheet.attempts,
    late: { ...sheet.late },
    counting: sheet.counting,
    best_of: sheet.best_of,
    weight: sheet.weight,
    exercises: sheet.entries.map((one) => ({ exercise: one.slug, points: one.points })),
  };
}

/** A time as a field for days and times takes it: local, to the minute. */
function local(time: string | null): string | null {
  return time ? time.slice(0, 16) : null;
}
