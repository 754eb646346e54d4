<script setup lang="ts">
import { computed, nextTick, ref } from "vue";

import type { Schemas } from "../../api/client";
import MarkLedger from "../../components/verdict/MarkLedger.vue";
import SqlText from "../../components/sql/SqlText.vue";
import { placeOf } from "../../answer/place";
import { counted, dayAndTime } from "../../composables/words";
import DeskHistory from "./DeskHistory.vue";
import { filledIn, PLACES } from "./phrases";
import type { DecidingState } from "./use-deciding";
import type { DeskState } from "./use-desk";

/** One wording of the group in view, and the mark and comment that its answers get. */
const props = defineProps<{ desk: DeskState; deciding: DecidingState; submission: Schemas["Submission"] | undefined }>();
const emit = defineEmits<{ decide: []; also: []; trial: []; ask: [] }>();
const { shown, shownAnswers, wordings, wordingAt, toDecide, areNamesHidden } = props.desk;
const { mark, lines, comment, reason, isTouched, points, standing, ledgerSum, words, marks, problem, isBusy, said } = props.deciding;

const panel = ref<HTMLElement>();
const isReasonOpen = ref(false);

const who = computed(() => {
  const one = shown.value;
  if (!one) return "";
  const more = shownAnswers.value.length - 1;
  const name = areNamesHidden.value ? `answer ${one.id}` : one.learner;
  return more ? `${name} and ${more} more` : name;
});
const question = computed(() => marks.value?.questions.filter((one) => !one.answered_at) ?? []);
const answers = ref<Record<number, string>>({});
const phrases = computed(() => props.desk.desk.value?.phrases ?? []);
const places = PLACES.map((one) => `{${one}}`).join(", ");
const isKept = computed(() => phrases.value.includes(comment.value.trim()));

function fill(phrase: string): void {
  const words_ = filledIn(phrase, props.submission);
  comment.value = comment.value.trim() ? `${comment.value.trim()} ${words_}` : words_;
  isTouched.value = true;
}

async function focusOn(selector: string): Promise<void> {
  await nextTick();
  const field = panel.value?.querySelector<HTMLElement>(selector);
  field?.focus();
  if (field instanceof HTMLInputElement) field.select();
}

async function answer(id: number): Promise<void> {
  const text = answers.value[id] ?? "";
  const isDone = await props.deciding.attempt(() => props.deciding.changes.answer.mutateAsync({ id, text }));
  if (isDone) answers.value[id] = "";
}

function blur(event: Event): void {
  (event.target as HTMLElement).blur();
}

defineExpose({
  focusMark: () => focusOn(".mark input"),
  focusComment: () => focusOn("textarea.comment, .comment textarea"),
});
</script>

<template>
  <aside ref="panel" aria-label="The answer, and what it gets">
    <template v-if="shown && submission">
      <div class="head">
        <h2>{{ wordings.length > 1 ? `Wording ${wordingAt + 1} of ${wordings.length}` : "One wording" }}</h2>
        <span v-if="wordings.length > 1" class="turn">
          <ElButton link aria-label="wording before" :disabled="wordingAt === 0" @click="desk.turnWording(-1)">←</ElButton>
          <ElButton link aria-label="next wording" :disabled="wordingAt === wordings.length - 1" @click="desk.turnWording(1)">→</ElButton>
        </span>
        <RouterLink class="who" :to="{ name: 'submission', params: { id: shown.id } }">{{ who }}</RouterLink>
      </div>
      <SqlText :sql="submission.sql" :engine="submission.engine" :mark="placeOf(submission)" class="text" />

      <div v-for="one in question" :key="one.id" class="question">
        <p><b>{{ one.by_learner && areNamesHidden ? "A learner" : one.asked_by }}</b> {{ one.by_learner ? "asks" : "asks a second reader" }}, {{ dayAndTime(one.asked_at) }}</p>
        <p class="asked">{{ one.text }}</p>
        <ElInput v-model="answers[one.id]" type="textarea" :rows="2" :aria-label="`Answer to ${one.asked_by}`" placeholder="Your answer" />
        <ElButton :disabled="!answers[one.id]?.trim() || isBusy" @click="answer(one.id)">Send answer</ElButton>
      </div>

      <table v-if="lines" class="lines" aria-label="Ledger, to be changed">
        <tbody>
          <tr v-for="(line, at) in lines" :key="at">
            <td>{{ line.message }}</td>
            <td class="number"><ElInputNumber v-model="line.points" :controls="false" :aria-label="`points for: ${line.message}`"
              :min="line.possible === null ? -points : 0" :max="line.possible ?? points" :precision="2" />
              <span v-if="line.possible !== null">of {{ line.possible }}</span></td>
          </tr>
        </tbody>
      </table>
      <MarkLedger v-else-if="submission.ledger.length > 1" :lines="submission.ledger" />

      <div class="decided-now">
        <p class="mark">
          <label for="mark">mark</label>
          <ElInputNumber v-if="!lines" id="mark" v-model="mark" :controls="false" :min="0" :max="points"
            :placeholder="standing.several ? `${standing.least} to ${standing.most}` : String(standing.least)"
            @change="isTouched = true" @keydown.enter.prevent="blur" />
          <b v-else>{{ ledgerSum }}</b>
          <span>of {{ points }}</span>
          <ElButton v-if="submission.ledger.length" link @click="deciding.changeLines()">{{ lines ? "one mark" : "line by line" }}</ElButton>
        </p>
        <ElInput v-model="comment" class="comment" type="textarea" :rows="3"
          aria-label="Comment" placeholder="Comment, which learners see when the marks are published"
          @input="isTouched = true" @keydown.ctrl.enter.prevent="emit('decide')" />
        <p class="beside">
          <ElPopover v-if="phrases.length" trigger="click" :width="330" placement="left-start">
            <template #reference><ElButton link>Kept phrases</ElButton></template>
            <ul class="phrases">
              <li v-for="one in phrases" :key="one">
                <ElButton class="bare" @click="fill(one)">{{ one }}</ElButton>
                <ElButton link :aria-label="`Delete the phrase ${one}`" @click="deciding.changes.deletePhrase.mutate(one)">Delete</ElButton>
              </li>
            </ul>
            <p class="quiet">In braces stands what is filled in: {{ places }}.</p>
          </ElPopover>
          <ElButton v-if="comment.trim() && !isKept" link @click="deciding.attempt(() => deciding.changes.keepPhrase.mutateAsync(comment))">Save as a phrase</ElButton>
          <ElButton link @click="isReasonOpen = !isReasonOpen">{{ reason ? "Reason: " + reason : "Add a reason" }}</ElButton>
        </p>
        <ElInput v-if="isReasonOpen" v-model="reason" aria-label="Reason, for the history" placeholder="why, for the history; learners do not see it" />
        <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
        <p class="acts">
          <ElButton type="primary" :disabled="!toDecide.length || isBusy" @click="emit('decide')">{{ words }} <kbd>⏎</kbd></ElButton>
          <ElButton v-if="toDecide.length > 1" :disabled="isBusy" @click="deciding.decideOne(shown.id)">Only this answer</ElButton>
        </p>
        <p class="acts">
          <ElButton v-if="submission.verdict !== 'correct'" @click="emit('also')">Also right <kbd>A</kbd></ElButton>
          <ElButton @click="emit('trial')">Make a trial <kbd>T</kbd></ElButton>
          <ElButton @click="emit('ask')">Ask a colleague <kbd>Q</kbd></ElButton>
        </p>
        <p v-if="said" class="said" role="status">{{ said }}</p>
      </div>
      <p v-if="shown.joined" class="quiet">It came after its group was decided, and took the mark of the group.</p>
      <p v-if="shown.contradicted" class="note">Decided: {{ shown.mark }}. Grading says {{ shown.auto }} by now.
        <ElButton link @click="mark = undefined; isTouched = true">Take the new mark</ElButton></p>
      <p v-if="shown.late_days" class="quiet">Handed in {{ counted(shown.late_days, "day") }} late; what lateness takes off is
        worked out on the page of marks.</p>
    </template>
    <DeskHistory :desk="desk" :deciding="deciding" />
  </aside>
</template>

<style scoped>
.head {
  display: flex;
  align-items: baseline;
  gap: 6px;
}

.who {
  margin-left: auto;
  color: var(--ink-2);
  font-size: var(--size-0);
}

.turn :deep(.el-button + .el-button) {
  margin-left: 2px;
}

.text {
  max-height: 40vh;
  margin: 8px 0;
}

.question {
  margin: 8px 0;
  padding: 6px 0 8px 10px;
  border-left: 3px double var(--given);
}

.asked {
  margin: 2px 0 6px;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}

.question .el-button {
  margin-top: 4px;
}

.lines {
  width: 100%;
  border-collapse: collapse;
}

.lines td {
  padding: 2px 6px 2px 0;
  border-top: 1px solid var(--line-soft);
}

.lines .number {
  text-align: right;
  white-space: nowrap;
}

.lines .el-input-number {
  width: 62px;
}

.decided-now {
  margin-top: 8px;
  padding-top: 8px;
  border-top: 1.5px solid var(--ink);
}

.mark {
  display: flex;
  align-items: baseline;
  gap: 8px;
  margin-bottom: 6px;
}

.mark label {
  font-weight: 650;
}

.mark .el-input-number {
  width: 84px;
}

.mark .el-button {
  margin-left: auto;
}

.beside {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  margin: 4px 0;
}

.beside .el-button {
  margin: 0;
}

.phrases li {
  display: flex;
  gap: 8px;
  align-items: baseline;
  padding: 2px 0;
  border-bottom: 1px solid var(--line-soft);
}

.phrases .bare {
  flex: 1;
  min-height: 24px;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  text-align: left;
  cursor: pointer;
}

.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-top: 8px;
}

.acts .el-button {
  margin: 0;
}

.acts :deep(kbd) {
  margin-left: 6px;
}

.said {
  margin-top: 6px;
  color: var(--ink-2);
}

.note {
  margin-top: 6px;
}
</style>
