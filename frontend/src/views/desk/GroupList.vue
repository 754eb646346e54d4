<script setup lang="ts">
import { useQueryClient } from "@tanstack/vue-query";
import { computed, nextTick, ref, watch } from "vue";
import { useRouter } from "vue-router";

import { useAnalysis } from "../../api/explanations";
import { lookAgain } from "../../api/shown";
import { counted } from "../../composables/words";
import type { DeskState, Split } from "./use-desk";

/** The outcome groups of an exercise, the largest first, and how far the marking is. */
const props = defineProps<{ state: DeskState }>();
const emit = defineEmits<{ regrade: []; newMarks: [] }>();
const router = useRouter();
const { desk, lines, groups, group, parts, partAt, split, together, attempts, areNamesHidden } = props.state;

const ATTEMPTS = [
  { label: "that count", value: "counting" },
  { label: "all attempts", value: "all" },
];
const SPLITS: { label: string; value: Split }[] = [
  { label: "whole", value: "whole" },
  { label: "by wording", value: "wording" },
  { label: "by finding", value: "codes" },
];
const open = computed(() => (desk.value ? desk.value.total - desk.value.decided : 0));
const share = computed(() => (desk.value?.total ? (100 * desk.value.decided) / desk.value.total : 0));
const canSplit = computed(() => (group.value?.wordings.length ?? 0) > 1 || (group.value?.splits.length ?? 0) > 1);
const asked = computed(() => new Set((desk.value?.questions ?? []).map((one) => one.submission)));

function says(size: number, decided: number): string {
  if (!decided) return "";
  return decided === size ? "decided" : `${decided} decided`;
}

const analysis = useAnalysis();
const queries = useQueryClient();
watch(() => [analysis.state.value?.running, analysis.state.value?.done], ([running]) => {
  if (running === false) void lookAgain(queries, "desk");
});
const unexplained = computed(() =>
  groups.value
    .filter((one) => ["correct", "incorrect"].includes(one.verdict))
    .reduce((sum, one) => sum + one.size - one.explained.known, 0),
);
const mendedAlike = computed(() => {
  const words = group.value?.explained.near_miss;
  return words ? groups.value.filter((one) => one.explained.near_miss === words) : [];
});
const alike = computed(() => mendedAlike.value.length);
const areAlikeTogether = computed(() =>
  mendedAlike.value.every((one) => one.key === group.value?.key || together.value.includes(one.key)),
);

/** What is said of an edit, without the marks around its code. */
function plain(words: string): string {
  return words.replaceAll("`", "");
}

const list = ref<HTMLElement>();
watch(
  () => group.value?.key,
  async () => {
    await nextTick();
    list.value?.querySelector("[aria-current]")?.scrollIntoView({ block: "nearest" });
  },
);

/** Keys that follow a click are the desk's, not the button's. */
function choose(event: Event, act: () => void): void {
  act();
  (event.currentTarget as HTMLElement).blur();
}
</script>

<template>
  <nav v-if="desk" aria-label="Outcome groups">
    <h1 class="only-read-aloud">{{ desk.title }}</h1>
    <ElSelect :model-value="desk.slug" filterable class="which" aria-label="Exercise"
      @change="router.push({ name: 'desk', params: { slug: $event } })">
      <ElOption v-for="one in lines" :key="one.slug" :value="one.slug" :label="one.title">
        <span class="option"><span>{{ one.title }}</span> <small>{{ one.undecided ? `${one.undecided} to decide` :
          one.total ? "all decided" : "no answers" }}</small></span>
      </ElOption>
    </ElSelect>
    <p class="quiet under">{{ counted(desk.total, "answer") }} · {{ counted(desk.points, "point") }} ·
      <RouterLink :to="{ name: 'exercise', params: { slug: desk.slug } }">the exercise</RouterLink></p>
    <p class="far" role="status"><i :style="{ width: `${share}%` }" aria-hidden="true" /><span>{{ desk.decided }} decided<template v-if="open">, {{ open }} to
        go</template></span></p>
    <ElSegmented v-model="attempts" :options="ATTEMPTS" class="attempts" aria-label="Which attempts" />
    <p v-if="desk.outdated" class="note">{{ counted(desk.outdated, "answer") }} out of date.
      <ElButton link @click="emit('regrade')">Preview regrade</ElButton></p>
    <p v-if="desk.contradicted" class="note">{{ counted(desk.contradicted, "decided mark") }} contradicted by a later
      grading: marked <b class="sign">≠</b>. <ElButton link @click="emit('newMarks')">Take the new marks</ElButton></p>
    <p v-if="analysis.state.value?.running" class="note" role="status">Looking for single edits:
      {{ analysis.state.value.done }} of {{ analysis.state.value.total }}
      <ElButton link @click="analysis.stop.mutate()">Stop</ElButton></p>
    <p v-else-if="unexplained" class="note">{{ counted(unexplained, "answer") }} not looked at for single edits yet.
      <ElButton link @click="analysis.start.mutate(desk.slug)">Look for them</ElButton></p>
    <p v-if="alike > 1" class="note">{{ alike }} groups are one and the same edit away.
      <ElButton link @click="state.turnAlike()">{{ areAlikeTogether ? "Mark them apart" : "Mark them together" }}</ElButton></p>
    <ol ref="list">
      <li v-for="one in groups" :key="one.key" :class="{ chosen: one.key === group?.key, along: together.includes(one.key) }">
        <ElButton class="bare" :aria-current="one.key === group?.key ? 'true' : undefined"
          @click="choose($event, () => state.open(one.key))">
          <b class="size" :class="one.verdict">{{ one.size }}</b>
          <span class="what"><span class="title">{{ one.title }}</span>
            <small v-if="one.says" class="says">{{ one.says }}</small>
            <small v-if="one.explained.near_miss" class="near">one edit away: {{ plain(one.explained.near_miss) }}</small>
            <small v-if="one.explained.lucky" class="near">{{ one.explained.lucky }} right by luck</small>
            <small>{{ counted(one.wordings.length, "wording") }}<b v-if="one.decided" class="state"> · {{ says(one.size,
              one.decided) }}</b><template v-if="together.includes(one.key)"> ·
              together</template><template v-if="one.answers.some((each) => asked.has(each.id))"> · a question</template><template
                v-if="one.answers.some((each) => each.contradicted)"> · <b class="sign">≠</b></template></small></span>
        </ElButton>
        <template v-if="one.key === group?.key && canSplit">
          <ElSegmented v-model="split" :options="SPLITS" class="split" aria-label="The group in parts" />
          <ol v-if="parts.length > 1" class="parts">
            <li v-for="(part, at) in parts" :key="at">
              <ElButton class="bare" :class="{ here: at === partAt }" @click="choose($event, () => { partAt = at; })"><b>{{
                part.answers.length }}</b> {{ part.title }} <small>{{ says(part.answers.length,
                  part.answers.filter((each) => each.state === "decided").length) }}</small></ElButton>
            </li>
          </ol>
        </template>
      </li>
    </ol>
    <p v-if="!groups.length" class="quiet">Nobody has handed in an answer to this exercise yet.</p>
    <p class="names"><ElCheckbox v-model="areNamesHidden">hide names</ElCheckbox></p>
  </nav>
</template>

<style scoped>
.which {
  width: 100%;
  font-weight: 650;
}

.option {
  display: flex;
  justify-content: space-between;
  gap: 14px;
}

.under {
  margin: 4px 0 8px;
}

.far {
  position: relative;
  height: 20px;
  background: var(--line-soft);
  font-size: var(--size-0);
  line-height: 20px;
}

.far i {
  position: absolute;
  inset: 0 auto 0 0;
  border-right: 2px solid var(--given);
  background: var(--line);
}

.far span {
  position: relative;
  padding-left: 6px;
}

.attempts {
  width: 100%;
  margin: 8px 0;
}

.note {
  padding: 4px 0;
  border-top: 1px dashed var(--ink-3);
  font-size: var(--size-0);
}

.sign {
  color: var(--stop);
}

nav > ol > li {
  border-top: 1px solid var(--line);
}

nav > ol > li:last-child {
  border-bottom: 1px solid var(--line);
}

button {
  display: grid;
  grid-template-columns: 34px 1fr;
  gap: 2px 8px;
  width: 100%;
  min-height: 24px;
  padding: 7px 0 7px 6px;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  text-align: left;
  cursor: pointer;
}

.size {
  font-size: var(--size-3);
  line-height: 1.1;
}

.size.correct {
  color: var(--agree);
}

.size.error,
.size.refused,
.size.stopped {
  color: var(--stop);
}

.what {
  display: grid;
  min-width: 0;
}

.says {
  display: -webkit-box;
  overflow: hidden;
  overflow-wrap: anywhere;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
}

.state {
  color: var(--agree);
  font-weight: 600;
}

.chosen {
  margin-right: calc(-1 * var(--edge));
  padding-right: var(--edge);
  background: var(--sheet);
  box-shadow: inset 3px 0 var(--given);
}

.along:not(.chosen) {
  box-shadow: inset 0 0 0 1px var(--given);
}

.split {
  width: 100%;
  margin-bottom: 6px;
}

.parts {
  margin: 0 0 8px 14px;
}

.parts button {
  display: block;
  padding: 3px 6px;
}

.parts .here {
  background: var(--given-wash);
}

.names {
  margin-top: 10px;
}
</style>
