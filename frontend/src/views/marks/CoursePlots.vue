<script setup lang="ts">
import { computed } from "vue";

import type { Schemas } from "../../api/client";
import PlotFigure from "../../components/PlotFigure.vue";
import { barName, hourBars, hourName, markBars, separation, separationNames } from "./plots";

/** Where the class stands: sums by sheet, attempts before closing, exercises against the rest, findings. */
const props = defineProps<{ plots: Schemas["CoursePlots"] }>();
const emit = defineEmits<{ behind: [title: string, ids: number[]]; exercise: [slug: string, sheet: string] }>();

const sheets = computed(() => props.plots.sheets.filter((one) => one.sums.some((bar) => bar.decided + bar.undecided)));
const told = computed(() => props.plots.exercises.filter((one) => one.separates !== null && one.ease !== null));
const drawSeparation = computed(() => separation(told.value));
const nameSeparation = computed(() => separationNames(told.value));

/** The kinds of findings over all exercises, the commonest first. */
const kinds = computed(() => {
  const found = new Map<string, { words: string; count: number }>();
  for (const one of props.plots.exercises) {
    for (const finding of one.findings) {
      const before = found.get(finding.code);
      found.set(finding.code, { words: finding.words, count: (before?.count ?? 0) + finding.count });
    }
  }
  return [...found].sort(([, one], [, other]) => other.count - one.count).slice(0, 14);
});
const tried = computed(() => props.plots.exercises.filter((one) => one.handed_in));
const most = computed(() => Math.max(1, ...tried.value.flatMap((one) => one.findings.map((finding) => finding.count))));

function findingOf(exercise: Schemas["ExercisePlots"], code: string) {
  return exercise.findings.find((one) => one.code === code);
}
const drawn = computed(() =>
  sheets.value.map((sheet) => ({ sheet, sums: markBars(sheet.sums), hours: hourBars(sheet.before_closing) })),
);
</script>

<template>
  <div class="plots" tabindex="0" aria-label="Plots">
    <p v-if="!tried.length" class="quiet">There is nothing to plot yet: nobody has handed in.</p>
    <section v-for="one in drawn" :key="one.sheet.slug">
      <h2>{{ one.sheet.title }}</h2>
      <PlotFigure title="Sums of the sheet" :says="`of ${one.sheet.points} points, by learner`" :draw="one.sums" :height="160"
        :headings="['points', 'decided', 'may change']" :rows="one.sheet.sums.map((bar) => [barName(bar), bar.decided, bar.undecided])"
        @point="emit('behind', `${one.sheet.title}, ${barName(one.sheet.sums[$event]!)} points`, one.sheet.sums[$event]?.answers ?? [])" />
      <PlotFigure v-if="one.sheet.before_closing.length" title="Attempts before closing" says="by the days that were left; dashed: after it"
        :draw="one.hours" :height="120" :headings="['left', 'attempts']" :rows="one.sheet.before_closing.map((bar) => [hourName(bar), bar.count])"
        @point="emit('behind', `${one.sheet.title}, ${hourName(one.sheet.before_closing[$event]!)}`, one.sheet.before_closing[$event]?.answers ?? [])" />
    </section>
    <section v-if="told.length" class="wide">
      <PlotFigure title="Which exercises tell strong from weak"
        says="up: who is right here is right elsewhere too; right: easy" :draw="drawSeparation" :fit="nameSeparation" :height="330"
        :headings="['exercise', 'mean share', 'correlation with the rest']"
        :rows="told.map((one) => [one.title, one.ease, one.separates])"
        @point="told[$event] && emit('exercise', told[$event]!.slug, told[$event]!.sheet)" />
    </section>
    <section v-if="kinds.length" class="wide">
      <h2>What is found, and where</h2>
      <div class="scroll" tabindex="0">
        <table class="findings">
          <thead>
            <tr>
              <th scope="col">finding</th>
              <th v-for="one in tried" :key="`${one.sheet} ${one.slug}`" scope="col"><span class="upright">{{ one.title }}</span></th>
              <th scope="col" class="number">in all</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="[code, kind] in kinds" :key="code">
              <th scope="row">{{ kind.words }}</th>
              <td v-for="one in tried" :key="`${one.sheet} ${one.slug}`">
                <ElButton v-if="findingOf(one, code)" class="bare" :style="{ '--size': `${8 + 18 * Math.sqrt((findingOf(one, code)?.count ?? 0) / most)}px` }"
                  :aria-label="`${findingOf(one, code)?.count} times ${kind.words} in ${one.title}`"
                  @click="emit('behind', `${one.title}: ${kind.words}`, findingOf(one, code)?.answers ?? [])"><i aria-hidden="true" />{{
                    findingOf(one, code)?.count }}</ElButton>
              </td>
              <td class="number"><b>{{ kind.count }}</b></td>
            </tr>
          </tbody>
        </table>
      </div>
    </section>
  </div>
</template>

<style scoped>
.plots {
  display: grid;
  flex: 1;
  grid-template-columns: repeat(auto-fit, minmax(min(380px, 100%), 1fr));
  gap: 8px 32px;
  align-content: start;
  min-height: 0;
  overflow: auto;
}

.wide {
  grid-column: 1 / -1;
}

.scroll {
  overflow-x: auto;
}

.findings {
  border-collapse: collapse;
  font-size: var(--size-0);
}

.findings th[scope="row"] {
  padding-right: 12px;
  font-weight: 500;
  text-align: left;
  white-space: nowrap;
}

.findings td {
  border-bottom: 1px solid var(--line-soft);
  text-align: center;
}

.upright {
  display: inline-block;
  max-height: 120px;
  overflow: hidden;
  writing-mode: vertical-rl;
  rotate: 180deg;
  font-weight: 500;
}

button {
  display: inline-flex;
  align-items: center;
  gap: 4px;
  min-width: 40px;
  min-height: 28px;
  justify-content: center;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  cursor: pointer;
}

button i {
  width: var(--size);
  height: var(--size);
  border: 1.5px solid var(--given);
  border-radius: 50%;
  background: var(--given-wash);
}

.number {
  padding-left: 10px;
  text-align: right;
}
</style>
