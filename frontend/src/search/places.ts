import { computed, type MaybeRefOrGetter, toValue } from "vue";
import type { RouteLocationRaw } from "vue-router";

import { useSheets } from "../api/exercises";
import { useOwnCourse } from "../api/own";
import { useLearners } from "../api/people";
import { useExercises } from "../api/queries";
import { useSamples } from "../api/samples";

/** Something that is found by its name, and where it is. */
export interface Place {
  kind: "page" | "sample" | "table" | "exercise" | "sheet" | "learner";
  name: string;
  /** What tells it from others of its name. */
  under: string;
  to: RouteLocationRaw;
}

function page(name: string, route: string): Place {
  return { kind: "page", name, under: "", to: { name: route } };
}

const EVERYWHERE = [page("Your courses", "courses"), page("Your account", "account")];

/** Everything of a course that an instructor may look for. */
export function useTaughtPlaces() {
  const { data: samples, isPending: samplesCome } = useSamples();
  const { data: exercises, isPending: exercisesCome } = useExercises();
  const { data: sheets, isPending: sheetsCome } = useSheets();
  const { data: learners, isPending: learnersCome } = useLearners();
  const isComing = computed(
    () => samplesCome.value || exercisesCome.value || sheetsCome.value || learnersCome.value,
  );
  const places = computed<Place[]>(() => [
    page("Samples", "samples"), page("Make a sample", "make"), page("Exercises", "exercises"),
    page("Import a pack", "pack"), page("Sheets", "sheets"), page("Answers, the marking desk", "answers"),
    page("Marks", "marks"), page("What needs you", "needs"),
    page("Import answers", "taking"), page("People", "people"), ...EVERYWHERE,
    ...(samples.value ?? []).map((one): Place => ({
      kind: "sample", name: one.name, under: "", to: { name: "sample", params: { sample: one.name } },
    })),
    ...(samples.value ?? []).flatMap((one) => one.tables.map((table): Place => ({
      kind: "table", name: table, under: `in ${one.name}`,
      to: { name: "sample", params: { sample: one.name }, query: { table } },
    }))),
    ...(exercises.value ?? []).map((one): Place => ({
      kind: "exercise", name: one.title, under: [one.sample, ...one.tags].join(", "),
      to: { name: "exercise", params: { slug: one.slug } },
    })),
    ...(sheets.value ?? []).map((one): Place => ({
      kind: "sheet", name: one.title, under: "", to: { name: "sheets", query: { sheet: one.slug } },
    })),
    ...(learners.value ?? []).map((one): Place => ({
      kind: "learner", name: one.name || one.code, under: one.name ? one.code : "",
      to: { name: "people", query: { learner: one.code } },
    })),
  ]);
  return { places, isComing };
}

/** Everything of a course that a learner may look for. */
export function useOwnPlaces() {
  const { data: course, isPending: isComing } = useOwnCourse();
  const places = computed<Place[]>(() => [
    page("Your sheets", "own"), ...EVERYWHERE,
    ...(course.value?.sheets ?? []).flatMap((sheet) => sheet.exercises.map((line): Place => ({
      kind: "exercise", name: line.title, under: sheet.title,
      to: { name: "own-exercise", params: { sheet: sheet.slug, slug: line.slug } },
    }))),
  ]);
  return { places, isComing };
}

/** The places that hold every word, the best first: whose name begins so, in which a word does, the rest. */
export function foundPlaces(places: MaybeRefOrGetter<Place[]>, wanted: string, most = 40): Place[] {
  const words = wanted.toLowerCase().split(/\s+/).filter(Boolean);
  const whole = words.join(" ");
  const ranked = toValue(places).flatMap((place) => {
    const name = place.name.toLowerCase();
    const all = `${name} ${place.under.toLowerCase()} ${place.kind}`;
    if (!words.every((word) => all.includes(word))) return [];
    const rank = name.startsWith(whole) ? 0 : ` ${name}`.includes(` ${whole}`) ? 1 : name.includes(whole) ? 2 : 3;
    return [{ place, rank }];
  });
  return ranked.sort((one, other) => one.rank - other.rank).slice(0, most).map((one) => one.place);
}
