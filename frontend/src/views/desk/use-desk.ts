import { useLocalStorage } from "@vueuse/core";
import { computed, nextTick, type Ref, ref, watch } from "vue";

import { openCourse } from "../../api/client";
import { type DeskAnswer, type Group, useDeskLines, useDeskView } from "../../api/marking";
import { useInAddress } from "../../composables/use-address";

export type Split = "whole" | "wording" | "codes";

/** A group, or the part of it that is dealt with by itself. */
export interface Part {
  group: Group;
  /** What it is a part by: a wording, the kinds of what was found, or nothing. */
  wording: string;
  codes: string;
  title: string;
  says: string;
  answers: DeskAnswer[];
}

/** The outcome groups of an exercise's answers: which part of which is in view, and what is dealt with along. */
export function useDesk(slug: Ref<string>) {
  const attempts = useInAddress("attempts", "counting", ["counting", "all"]);
  const { data: desk, isPending, error, refetch } = useDeskView(slug, attempts);
  const { data: lines } = useDeskLines();
  const areNamesHidden = useLocalStorage(`jentrow names hidden ${openCourse.value}`, false);

  const groupKey = useInAddress("group", "");
  const split = useInAddress<Split>("split", "whole", ["whole", "wording", "codes"]);
  const partAt = ref(0);
  const wordingAt = ref(0);
  const together = ref<string[]>([]);
  /** An answer that somebody asked for by its number. */
  const wanted = useInAddress("answer", "");

  const groups = computed(() => desk.value?.groups ?? []);
  const group = computed(
    () => groups.value.find((one) => one.key === groupKey.value)
      ?? groups.value.find((one) => one.decided < one.size && one.verdict !== "waiting") ?? groups.value[0],
  );
  const parts = computed<Part[]>(() => (group.value ? partsOf(group.value, split.value) : []));
  const part = computed(() => parts.value[Math.min(partAt.value, parts.value.length - 1)]);

  /** The wordings within the part in view, the commonest first. */
  const wordings = computed(() => {
    const found = part.value;
    if (!found) return [];
    const counts = new Map<number, DeskAnswer[]>();
    for (const one of found.answers) counts.set(one.wording, [...(counts.get(one.wording) ?? []), one]);
    return [...counts.values()].sort((one, other) => other.length - one.length);
  });
  const shownAnswers = computed(() => wordings.value[Math.min(wordingAt.value, wordings.value.length - 1)] ?? []);
  const shown = computed(
    () => shownAnswers.value.find((one) => String(one.id) === wanted.value) ?? shownAnswers.value[0],
  );

  // An answer that is asked for is brought into view with its group, also one that does not count.
  watch(
    [desk, wanted],
    ([found, id]) => {
      if (!found || !id) return;
      const holds = (answers: DeskAnswer[]) => answers.some((one) => String(one.id) === id);
      const its = found.groups.find((one) => holds(one.answers));
      if (its) {
        groupKey.value = its.key;
        void nextTick(() => {
          partAt.value = Math.max(parts.value.findIndex((one) => holds(one.answers)), 0);
          void nextTick(() => {
            wordingAt.value = Math.max(wordings.value.findIndex(holds), 0);
          });
        });
      } else if (attempts.value === "counting") {
        attempts.value = "all";
      }
    },
    { immediate: true },
  );

  /** What a decision is about: the part in view, with the groups that were put together with it. */
  const chosen = computed<Part[]>(() => {
    if (!part.value) return [];
    const along = groups.value.filter((one) => together.value.includes(one.key) && one.key !== group.value?.key);
    return [part.value, ...along.flatMap((one) => partsOf(one, "whole"))];
  });
  /** Answers that were decided one by one stay as they were decided. */
  const toDecide = computed(() => chosen.value.flatMap((one) => one.answers).filter((one) => !one.single));

  watch([() => group.value?.key, split], () => {
    partAt.value = 0;
    wordingAt.value = 0;
  });
  watch(partAt, () => {
    wordingAt.value = 0;
  });
  watch(slug, () => {
    together.value = [];
  });

  function open(key: string): void {
    wanted.value = "";
    groupKey.value = key;
  }

  /** Goes on to the next part, and from the last of a group to the next group. */
  function turn(by: number): void {
    const next = partAt.value + by;
    if (next >= 0 && next < parts.value.length) {
      partAt.value = next;
      return;
    }
    const at = groups.value.findIndex((one) => one.key === group.value?.key);
    const to = groups.value[at + by];
    if (to) open(to.key);
  }

  function turnWording(by: number): void {
    wanted.value = "";
    wordingAt.value = Math.min(Math.max(wordingAt.value + by, 0), Math.max(wordings.value.length - 1, 0));
  }

  /** The next group that is not decided, of this exercise or, where none is left, the next exercise. */
  function nextUndecided(): { slug: string } | null {
    const at = groups.value.findIndex((one) => one.key === group.value?.key);
    const order = [...groups.value.slice(at + 1), ...groups.value.slice(0, at + 1)];
    const open_ = order.find((one) => one.decided < one.size && one.verdict !== "waiting");
    if (open_) {
      open(open_.key);
      return null;
    }
    const all = lines.value ?? [];
    const here = all.findIndex((one) => one.slug === slug.value);
    const other = [...all.slice(here + 1), ...all.slice(0, here)].find((one) => one.undecided);
    return other ? { slug: other.slug } : null;
  }

  function turnTogether(): void {
    const key = group.value?.key;
    if (!key) return;
    together.value = together.value.includes(key)
      ? together.value.filter((one) => one !== key)
      : [...together.value, key];
  }

  /** The groups that the same single edit would mend are dealt with together, or no longer. */
  function turnAlike(): void {
    const words = group.value?.explained.near_miss;
    if (!words) return;
    const alike = groups.value.filter((one) => one.explained.near_miss === words).map((one) => one.key);
    const areTogether = alike.every((key) => key === group.value?.key || together.value.includes(key));
    together.value = areTogether
      ? together.value.filter((key) => !alike.includes(key))
      : [...new Set([...together.value, ...alike])];
  }

  function turnSplit(): void {
    const ways: Split[] = ["whole", "wording", "codes"];
    split.value = ways[(ways.indexOf(split.value) + 1) % ways.length] ?? "whole";
  }

  return {
    desk, isPending, error, refetch, lines, attempts, groups, group, parts, part, partAt, split, wordings,
    wordingAt, shownAnswers, shown, together, chosen, toDecide, areNamesHidden, open, turn, turnWording,
    nextUndecided, turnTogether, turnSplit, turnAlike,
  };
}

export type DeskState = ReturnType<typeof useDesk>;

function partsOf(group: Group, split: Split): Part[] {
  const whole = { group, wording: "", codes: "", title: group.title, says: group.says, answers: group.answers };
  if (split === "wording" && group.wordings.length > 1) {
    return group.wordings.map((one, at) => ({
      ...whole, wording: one.key, title: `Wording ${at + 1}`, says: "",
      answers: group.answers.filter((answer) => answer.wording === at),
    }));
  }
  if (split === "codes" && group.splits.length > 1) {
    return group.splits.map((one, at) => ({
      ...whole, codes: one.codes, title: one.words, says: "",
      answers: group.answers.filter((answer) => answer.codes === at),
    }));
  }
  return [whole];
}
