<script setup lang="ts">
import { usePreferredDark, useResizeObserver } from "@vueuse/core";
import { BarChart, LineChart, ScatterChart } from "echarts/charts";
import { GridComponent, TooltipComponent } from "echarts/components";
import * as echarts from "echarts/core";
import { SVGRenderer } from "echarts/renderers";
import { computed, onBeforeUnmount, ref, useTemplateRef, watch } from "vue";

/** A plot with its title, and its numbers as a table for whoever would rather read them. */
echarts.use([BarChart, LineChart, ScatterChart, GridComponent, TooltipComponent, SVGRenderer]);

export interface PlotInk {
  ink: string;
  quiet: string;
  line: string;
  due: string;
  given: string;
  sheet: string;
}

const props = withDefaults(
  defineProps<{
    title: string;
    says?: string;
    /** What ECharts is to draw, in the colours of the theme. */
    draw: (ink: PlotInk) => echarts.EChartsCoreOption;
    /** What hangs on where its points are on the page: drawn after them, and anew with each size. */
    fit?: (chart: echarts.ECharts, font: string) => echarts.EChartsCoreOption;
    headings: string[];
    rows: (string | number | null)[][];
    height?: number;
  }>(),
  { says: "", height: 140, fit: undefined },
);
const emit = defineEmits<{ point: [at: number, series: number] }>();

const isTable = ref(false);
const place = useTemplateRef<HTMLElement>("place");
const isDark = usePreferredDark();
let chart: echarts.ECharts | undefined;

function token(name: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();
}

function paint(): void {
  if (!place.value || !place.value.clientWidth) return;
  chart ??= echarts.init(place.value, null, { renderer: "svg" });
  chart.off("click");
  chart.on("click", (event) => emit("point", event.dataIndex ?? 0, event.seriesIndex ?? 0));
  const ink: PlotInk = {
    ink: token("ink"), quiet: token("ink-3"), line: token("line"), due: token("due"), given: token("given"),
    sheet: token("sheet"),
  };
  chart.setOption({ animation: false, textStyle: { fontFamily: token("ui") }, ...props.draw(ink) }, true);
  fitted();
}

function fitted(): void {
  if (chart && props.fit) chart.setOption(props.fit(chart, token("ui")));
}

function drop(): void {
  chart?.dispose();
  chart = undefined;
}

watch([() => props.draw, () => props.rows, isDark, place], paint, { flush: "post" });
watch(isTable, drop);
useResizeObserver(place, () => {
  if (!chart) paint();
  else {
    chart.resize();
    fitted();
  }
});
onBeforeUnmount(drop);

const words = computed(() => `${props.title}: ${props.rows.map((row) => row.join(" ")).join("; ")}`);
</script>

<template>
  <figure class="plot">
    <figcaption>
      <b>{{ title }}</b> <small>{{ says }}</small>
      <ElButton link class="turn" :aria-pressed="isTable" @click="isTable = !isTable">{{ isTable ? "plot" : "numbers" }}</ElButton>
    </figcaption>
    <div v-if="!isTable" ref="place" role="img" :aria-label="words" :style="{ height: `${height}px` }" />
    <div v-else class="numbers" tabindex="0">
      <table :aria-label="title">
        <thead><tr><th v-for="one in headings" :key="one" scope="col">{{ one }}</th></tr></thead>
        <tbody>
          <tr v-for="(row, at) in rows" :key="at"><td v-for="(field, place_) in row" :key="place_">{{ field ?? "–" }}</td></tr>
        </tbody>
      </table>
    </div>
  </figure>
</template>

<style scoped>
.plot {
  margin: 10px 0;
}

figcaption {
  display: flex;
  align-items: baseline;
  gap: 6px;
}

.turn {
  margin-left: auto;
  font-size: var(--size-0);
}

.numbers {
  max-height: 260px;
  overflow: auto;
}

table {
  width: 100%;
  border-collapse: collapse;
  font-size: var(--size-0);
}

th,
td {
  padding: 2px 8px 2px 0;
  border-bottom: 1px solid var(--line-soft);
  text-align: left;
}
</style>
