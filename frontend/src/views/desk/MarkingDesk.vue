<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from "vue";
import { useRoute, useRouter } from "vue-router";

import AnswerSheet from "../../answer/AnswerSheet.vue";
import { useAnswerSheet } from "../../answer/use-answer-sheet";
import StateNotice from "../../components/notices/StateNotice.vue";
import { useKeys } from "../../composables/use-keys";
import { usePageName } from "../../composables/use-page-title";
import { counted } from "../../composables/words";
import AlsoRightDialog from "./AlsoRightDialog.vue";
import AskDialog from "./AskDialog.vue";
import DecidePanel from "./DecidePanel.vue";
import GroupList from "./GroupList.vue";
import RegradeDialog from "../../answer/RegradeDialog.vue";
import TrialDialog from "./TrialDialog.vue";
import { useDeciding } from "./use-deciding";
import { useDesk } from "./use-desk";

/** The answers to an exercise, marked group by group. */
const route = useRoute();
const router = useRouter();
const slug = computed(() => String(route.params.slug));
const state = useDesk(slug);
const { desk, isPending, error, refetch, shown, part, chosen } = state;
usePageName(() => desk.value && `Marking · ${desk.value.title}`);
const sheet = useAnswerSheet(computed(() => shown.value?.id ?? 0));
const submission = computed(() => (sheet.submission.value?.id === shown.value?.id ? sheet.submission.value : undefined));
const deciding = useDeciding(slug, state, submission);
const panel = useTemplateRef<InstanceType<typeof DecidePanel>>("panel");

const opened = ref<"" | "regrade" | "also" | "trial" | "ask">("");
function isOpen(which: typeof opened.value) {
  return computed({
    get: () => opened.value === which,
    set: (yes: boolean) => {
      opened.value = yes ? which : "";
    },
  });
}
const isRegradeOpen = isOpen("regrade");
const isAlsoOpen = isOpen("also");
const isTrialOpen = isOpen("trial");
const isAskOpen = isOpen("ask");

// From the list of what needs somebody, straight to what is to be looked at first.
watch(
  [desk, () => route.query.do],
  ([found, what]) => {
    if (!found || what !== "regrade") return;
    opened.value = "regrade";
    // Once: the address does not open it again with the next news.
    void router.replace({ query: { ...route.query, do: undefined } });
  },
  { immediate: true },
);

const headline = computed(() => {
  const found = part.value;
  if (!found) return "";
  const size = chosen.value.reduce((sum, one) => sum + one.answers.length, 0);
  const who = chosen.value.length > 1 ? `${counted(size, "answer")} of ${chosen.value.length} groups` : counted(size, "answer");
  const verb = size === 1 ? "gives" : "give";
  const woven = submission.value?.woven;
  if (woven) return `${who} ${verb} ${counted(woven.given_rows, "row")}, ${woven.due_rows} due`;
  return `${who}: ${sheet.headline.value.toLowerCase() || found.title.toLowerCase()}`;
});

async function decide(): Promise<void> {
  if (!state.toDecide.value.length || deciding.isBusy.value) return;
  const isDone = await deciding.decide();
  if (isDone) next();
}

function next(): void {
  const other = state.nextUndecided();
  if (other) void router.push({ name: "desk", params: { slug: other.slug } });
}

function turnExercise(by: number): void {
  const all = state.lines.value ?? [];
  const to = all[all.findIndex((one) => one.slug === slug.value) + by];
  if (to) void router.push({ name: "desk", params: { slug: to.slug } });
}

useKeys([
  { key: "ArrowDown", cap: "↓", says: "next group", act: () => state.turn(1) },
  { key: "ArrowUp", cap: "↑", says: "group before", rare: true, act: () => state.turn(-1) },
  { key: "n", cap: "N", says: "next undecided", act: next },
  { key: "ArrowRight", cap: "→", says: "next wording", act: () => state.turnWording(1) },
  { key: "ArrowLeft", cap: "←", says: "wording before", rare: true, act: () => state.turnWording(-1) },
  { key: "Enter", cap: "⏎", says: "give the mark", act: () => void decide() },
  { key: "m", cap: "M", says: "mark", act: () => void panel.value?.focusMark() },
  { key: "c", cap: "C", says: "comment", act: () => void panel.value?.focusComment() },
  { key: "u", cap: "U", says: "undo", act: () => void deciding.undo() },
  { key: "d", cap: "D", says: "next dataset", act: () => sheet.nextDataset() },
  { key: "w", cap: "W", says: "only differences", act: () => sheet.turnExtent() },
  { key: "p", cap: "P", says: "rows, parting, steps, why", rare: true, act: () => sheet.turnView() },
  { key: "e", cap: "E", says: "one edit away", rare: true, act: () => state.turnAlike() },
  { key: "s", cap: "S", says: "split the group by wording, by finding", rare: true, act: () => state.turnSplit() },
  { key: "g", cap: "G", says: "mark together with other groups", rare: true, act: () => state.turnTogether() },
  { key: "l", cap: "L", says: "marks line by line", rare: true, act: () => deciding.changeLines() },
  { key: "a", cap: "A", says: "also right", rare: true, act: () => { if (submission.value?.verdict !== "correct") opened.value = "also"; } },
  { key: "t", cap: "T", says: "make a trial", rare: true, act: () => { opened.value = "trial"; } },
  { key: "q", cap: "Q", says: "ask a colleague", rare: true, act: () => { opened.value = "ask"; } },
  { key: "r", cap: "R", says: "preview regrade", rare: true, act: () => { opened.value = "regrade"; } },
  { key: "h", cap: "H", says: "hide names", rare: true, act: () => { state.areNamesHidden.value = !state.areNamesHidden.value; } },
  { key: "]", cap: "]", says: "next exercise", rare: true, act: () => turnExercise(1) },
  { key: "[", cap: "[", says: "exercise before", rare: true, act: () => turnExercise(-1) },
  { key: "Escape", cap: "Esc", says: "leave a field", rare: true, always: true, act: () => (document.activeElement as HTMLElement | null)?.blur() },
]);
</script>

<template>
  <StateNotice :alone="!desk" :waiting="isPending" :problem="error" @again="refetch()" />
  <main v-if="desk" class="task desk">
    <GroupList :state="state" @regrade="opened = 'regrade'" @new-marks="deciding.takeNewMarks()" />
    <AnswerSheet v-if="submission" :sheet="sheet" :headline="headline" @regrade="opened = 'regrade'" />
    <section v-else class="sheet">
      <p v-if="!shown" class="quiet">{{ desk.total ? "Choose a group." : "There is nothing to mark yet." }}
        <RouterLink v-if="!desk.total" :to="{ name: 'taking' }">Import answers</RouterLink></p>
      <StateNotice v-else :waiting="true" :problem="sheet.error.value" @again="sheet.refetch()" />
    </section>
    <DecidePanel ref="panel" :desk="state" :deciding="deciding" :submission="submission" @decide="decide"
      @also="opened = 'also'" @trial="opened = 'trial'" @ask="opened = 'ask'" />
    <RegradeDialog v-model="isRegradeOpen" :slug="slug" :hides-names="state.areNamesHidden.value" />
    <template v-if="shown">
      <AlsoRightDialog v-model="isAlsoOpen" :slug="slug" :answer="shown.id" :deciding="deciding" :hides-names="state.areNamesHidden.value" />
      <TrialDialog v-model="isTrialOpen" :slug="slug" :answer="shown.id" :verdict="submission?.verdict ?? ''" :deciding="deciding" />
      <AskDialog v-model="isAskOpen" :slug="slug" :answer="shown.id" :deciding="deciding" />
    </template>
  </main>
</template>

<style scoped>
.desk {
  grid-template-columns: clamp(216px, 20vw, 268px) 1fr clamp(296px, 26vw, 380px);
}
</style>
