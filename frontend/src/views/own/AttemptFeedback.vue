<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from "vue";

import type { Schemas } from "../../api/client";
import MarkLedger from "../../components/verdict/MarkLedger.vue";
import SqlText from "../../components/sql/SqlText.vue";
import WovenTable from "../../components/rows/WovenTable.vue";
import { counted, deadline } from "../../composables/words";
import HintThread from "./HintThread.vue";
import OwnWords from "./OwnWords.vue";
import OwnExample from "./OwnExample.vue";

/** What came of an attempt, as far as the exercise tells: in words, then woven, then what to do next. */
const props = defineProps<{
  feedback: Schemas["FeedbackView"];
  points: number;
  zone: string;
  /** Whether the text of the attempt is the one in the editor. */
  isWritten: boolean;
  canHandIn: boolean;
  /** The text that stands in the editor now. */
  text: string;
}>();
const emit = defineEmits<{ take: []; edit: []; tidy: []; place: [place: { start: number; end: number }] }>();

const example = useTemplateRef<InstanceType<typeof OwnExample>>("example");
const hints = useTemplateRef<InstanceType<typeof HintThread>>("hints");
const isMended = ref(false);
const place = ref<{ start: number; end: number }>();
watch(() => props.feedback.attempt.id, () => {
  place.value = undefined;
});
/** The hinted place in the text of the attempt, where that is shown. */
const mark = computed(() => {
  const one = place.value;
  if (!one) return null;
  const before = props.feedback.attempt.sql.slice(0, one.start).split("\n");
  return { line: before.length, column: (before.at(-1)?.length ?? 0) + 1, length: Math.max(one.end - one.start, 1) };
});

function point(where: { start: number; end: number }): void {
  place.value = where;
  emit("place", where);
}

defineExpose({ runOnRows: () => example.value?.go(), nextHint: () => hints.value?.next() });

/** Whether layout cost points. */
const hasLayout = computed(() =>
  props.feedback.ledger.some((one) => one.part === "layout" && (one.points < 0 || one.points < (one.possible ?? 0))),
);

const HEADLINES: Record<string, [string, string]> = {
  waiting: ["Handed in", "It is being graded …"],
  correct: ["Right", "Your query gives what is due."],
  incorrect: ["Wrong", "This is not what is due."],
  error: ["Error", "The engine cannot run it."],
  refused: ["Refused", "It did not run."],
  stopped: ["Stopped", "It passed a limit."],
  undecided: ["Undecided", "Your answer runs, and waits for your instructor: whether it is right cannot be told by running it alone."],
};

const verdict = computed(() => props.feedback.attempt.verdict);
const isTold = computed(() => !props.feedback.opens);
const headline = computed((): [string, string] => {
  if (props.feedback.opens) {
    return ["Handed in", `It is graded. What came of it is told from ${deadline(props.feedback.opens, props.zone)} on.`];
  }
  const [word, otherwise] = HEADLINES[verdict.value] ?? ["", ""];
  const [first] = props.feedback.findings;
  return [word, verdict.value !== "correct" && first ? first.message : otherwise];
});
/** The findings that the headline does not say already. */
const others = computed(() => props.feedback.findings.slice(verdict.value === "correct" ? 0 : 1));
const first = computed(() => (verdict.value === "correct" ? undefined : props.feedback.findings[0]));
const isOver = computed(() => ["correct", "undecided", "waiting"].includes(verdict.value) || !isTold.value);
</script>

<template>
  <section class="came" aria-label="What came of it" aria-live="polite">
    <header>
      <h2 :class="verdict">{{ headline[0] }}</h2>
      <p>{{ headline[1] }}
        <small v-if="first?.line">line {{ first.line }}, column {{ first.column }}</small></p>
      <b v-if="feedback.attempt.mark !== null" class="points">{{ feedback.attempt.mark }} of {{ counted(points, "point") }}</b>
    </header>
    <p v-if="feedback.comment" class="comment"><b>Your instructor</b> {{ feedback.comment }}</p>
    <template v-if="isTold">
      <ul v-if="others.length" class="others">
        <li v-for="(one, at) in others" :key="at">{{ one.message }}
          <small v-if="one.line">line {{ one.line }}, column {{ one.column }}</small></li>
      </ul>
      <p v-if="feedback.hint" class="hint"><b>Hint</b> {{ feedback.hint }}</p>
    </template>
    <OwnExample v-if="isTold && feedback.example" ref="example" :feedback="feedback" :text="text" @mended="isMended = $event" />
    <div v-if="!isWritten && !isMended" class="text">
      <h3>Text of attempt {{ feedback.attempt.number }}</h3>
      <SqlText :sql="feedback.attempt.sql" :mark="mark" />
      <ElButton @click="emit('take')">Edit this text</ElButton>
    </div>
    <template v-if="isTold && feedback.woven">
      <h3>What differs <small>{{ feedback.woven.left_out ? `${counted(feedback.woven.left_out, "row")} not shown: the
        rows that agree, and what goes on like this` : "" }}</small></h3>
      <WovenTable :woven="feedback.woven" :only-differences="false" due="due" given="yours" />
    </template>
    <p v-if="!isOver && canHandIn && (isWritten || feedback.example)" class="next">
      <b>Next</b>
      <ElButton link @click="emit('edit')"><span class="step" :class="{ now: isWritten }" aria-hidden="true">1</span> change the text</ElButton>
      <ElButton v-if="feedback.example" link @click="example?.go()"><span class="step" :class="{ now: !isWritten && !isMended }" aria-hidden="true">2</span> run it on these rows <kbd>Alt ⏎</kbd></ElButton>
      <span v-else><span class="step" aria-hidden="true">2</span> run it</span>
      <span><span class="step" :class="{ now: isMended && !isWritten }" aria-hidden="true">3</span> hand in{{ feedback.example ? " once the knot is gone" : "" }}</span>
    </p>
    <OwnWords v-if="isTold && feedback.words" :id="feedback.attempt.id" />
    <HintThread v-if="isTold && feedback.near_miss !== 'none'" ref="hints" :feedback="feedback" @place="point" />
    <template v-if="isTold && feedback.ledger.length">
      <h3>Points</h3>
      <MarkLedger :lines="feedback.ledger" />
      <p v-if="isWritten && hasLayout"><ElButton link @click="emit('tidy')">See the text laid out tidily</ElButton></p>
    </template>
  </section>
</template>

<style scoped>
.came {
  display: grid;
  gap: 10px;
}

header {
  display: flex;
  align-items: baseline;
  gap: 10px;
  padding-top: 8px;
  border-top: 1.5px solid var(--ink);
}

header p {
  flex: 1;
  font-size: var(--size-2);
}

.correct {
  color: var(--agree);
}

.error,
.refused,
.stopped {
  color: var(--stop);
}

.points {
  white-space: nowrap;
}

small {
  margin-left: 6px;
}

.others li {
  padding: 2px 0 2px 12px;
}

.others li::before {
  content: "–";
  margin: 0 6px 0 -12px;
}

.comment {
  padding: 6px 8px;
  border-left: 3px double var(--due);
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}

.hint {
  padding: 6px 8px;
  border-left: 3px solid var(--due);
  background: var(--due-wash);
}

.text {
  display: grid;
  justify-items: start;
  gap: 6px;
}

.next {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 18px;
  padding: 6px 10px;
  border-left: 3px solid var(--ink);
  background: var(--paper);
}

.next kbd {
  margin-left: 5px;
}

.step {
  display: inline-grid;
  place-items: center;
  width: 19px;
  height: 19px;
  margin-right: 4px;
  border: 1.5px solid var(--ink-3);
  border-radius: 50%;
  font-size: var(--size-0);
}

.now {
  border-color: var(--ink);
  background: var(--ink);
  color: var(--sheet);
}
</style>
