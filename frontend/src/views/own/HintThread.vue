<script setup lang="ts">
import { computed, ref, watch } from "vue";

import type { Schemas } from "../../api/client";
import { type Strength, useOpenHint } from "../../api/explanations";
import { counted } from "../../composables/words";
import BeadThread, { type Bead } from "./BeadThread.vue";

/** Hints of the one edit that would mend an answer: kind, where, what, as far as they are open. */
const props = defineProps<{ feedback: Schemas["FeedbackView"] }>();
const emit = defineEmits<{ place: [place: { start: number; end: number }] }>();

const STRENGTHS: Strength[] = ["kind", "where", "what"];
const LABELS: Record<Strength, string> = { kind: "kind", where: "where", what: "what" };
const BUTTONS: Record<Strength, string> = { kind: "Show the kind", where: "Show where", what: "Show what" };

const open = useOpenHint();
const hint = ref<Schemas["Hint"]>();
const opened = ref(0);
const problem = ref("");
watch(() => props.feedback.attempt.id, () => {
  hint.value = undefined;
  opened.value = 0;
  problem.value = "";
});

const openable = computed(() =>
  props.feedback.near_miss_in > 0 ? 0 : STRENGTHS.indexOf(props.feedback.near_miss as Strength) + 1,
);
const isNone = computed(() => hint.value?.found === false);
const beads = computed(() =>
  STRENGTHS.map((strength, at) => ({ label: LABELS[strength], state: stateOf(at), says: says(at), button: BUTTONS[strength] })),
);

function stateOf(at: number): Bead["state"] {
  if (at < opened.value) return "opened";
  return at < openable.value ? "open" : "shut";
}

function says(at: number): string {
  const one = hint.value;
  if (at >= opened.value) {
    if (stateOf(at) === "open") return "";
    return props.feedback.near_miss_in > 0
      ? `Opens after ${counted(props.feedback.near_miss_in, "more wrong answer")}.`
      : "Your instructor keeps it shut.";
  }
  if (at === 0) return one?.mistake ?? "";
  if (at === 1) return one?.line ? `In line ${one.line}: it is marked in your text.` : "";
  if (!one) return "";
  const [old, now] = [one.old?.trim() ?? "", one.new?.trim() ?? ""];
  if (!old) return `Add ${now}`;
  return now ? `Write ${now} instead of ${old}` : `Leave out ${old}`;
}

async function next(): Promise<void> {
  const strength = STRENGTHS[opened.value];
  if (!strength || opened.value >= openable.value || isNone.value) return;
  problem.value = "";
  try {
    const found = await open.mutateAsync({ id: props.feedback.attempt.id, strength });
    hint.value = found;
    if (!found.found) return;
    opened.value += 1;
    if (typeof found.start === "number" && typeof found.end === "number") emit("place", { start: found.start, end: found.end });
  } catch (refused) {
    problem.value = (refused as Error).message;
  }
}

defineExpose({ next });
</script>

<template>
  <section class="hints" aria-label="Hints" aria-live="polite">
    <h3>Hints <small>one click each, no points lost</small></h3>
    <p v-if="isNone" class="quiet">{{ hint?.withheld ? "One edit would mend this text, and it would give a part of the answer away."
      : "No single edit was found that mends this text: more than one thing may have to change." }}</p>
    <BeadThread v-else :beads="beads" :is-busy="open.isPending.value" @next="next" />
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  </section>
</template>

<style scoped>
.hints {
  padding-top: 8px;
  border-top: 1px solid var(--line);
}
</style>
