<script setup lang="ts">
import { computed } from "vue";

import type { Schemas } from "../../api/client";
import PlotFigure from "../../components/PlotFigure.vue";
import { counted } from "../../composables/words";
import { attemptLine, barName, markBars } from "./plots";

/** How an exercise went: its marks, and how many were right by which attempt. */
const props = defineProps<{ plots: Schemas["ExercisePlots"] }>();
const emit = defineEmits<{ behind: [title: string, ids: number[]] }>();

const drawMarks = computed(() => markBars(props.plots.marks));
const drawAttempts = computed(() => attemptLine(props.plots.by_attempt));
const right = computed(() => {
  const { by_attempt: points, handed_in } = props.plots;
  const last = points[points.length - 1];
  return handed_in && last ? `${Math.round((100 * last.right) / handed_in)} % right` : "";
});
</script>

<template>
  <section>
    <h2>{{ plots.title }}</h2>
    <p class="quiet">{{ [counted(plots.points, "point"), `${plots.handed_in} handed in`, right].filter(Boolean).join(" · ") }}</p>
    <p v-if="!plots.handed_in" class="quiet">Nobody has handed in an answer yet.</p>
    <template v-else>
      <PlotFigure title="Marks" says="full: decided, dashed: undecided" :draw="drawMarks"
        :headings="['mark', 'decided', 'undecided']"
        :rows="plots.marks.map((one) => [barName(one), one.decided, one.undecided])"
        @point="emit('behind', `${plots.title}, marks ${barName(plots.marks[$event]!)}`, plots.marks[$event]?.answers ?? [])" />
      <PlotFigure title="Right by attempt" :says="`of ${plots.handed_in} who tried`" :draw="drawAttempts"
        :headings="['attempt', 'tried', 'right by then']"
        :rows="plots.by_attempt.map((one) => [one.attempt, one.tried, one.right])"
        @point="emit('behind', `${plots.title}, attempt ${plots.by_attempt[$event]?.attempt}`, plots.by_attempt[$event]?.answers ?? [])" />
      <template v-if="plots.findings.length">
        <h3>Found most</h3>
        <ul>
          <li v-for="one in plots.findings.slice(0, 5)" :key="one.code"><ElButton link
            @click="emit('behind', `${plots.title}: ${one.words}`, one.answers)">{{ one.count }} × {{ one.words }}</ElButton></li>
        </ul>
      </template>
    </template>
  </section>
</template>
