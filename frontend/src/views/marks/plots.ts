import type { EChartsCoreOption } from "echarts/core";

import type { Schemas } from "../../api/client";
import type { PlotInk } from "../../components/PlotFigure.vue";

type Bar = Schemas["MarkBar"];

const GRID = { left: 4, right: 8, top: 22, bottom: 2, outerBoundsMode: "same", outerBoundsContain: "axisLabel" };

function categories(names: string[], ink: PlotInk) {
  return {
    type: "category", data: names, axisTick: { show: false }, axisLine: { lineStyle: { color: ink.ink } },
    axisLabel: { color: ink.quiet, fontSize: 11, hideOverlap: true },
  };
}

export function barName(bar: Bar): string {
  return bar.least === bar.most ? String(bar.least) : `${bar.least}–${bar.most}`;
}

/** Marks in bars: full is decided, dashed undecided; every number stands at its bar. */
export function markBars(bars: Bar[]): (ink: PlotInk) => EChartsCoreOption {
  return (ink) => ({
    grid: GRID,
    xAxis: categories(bars.map(barName), ink),
    yAxis: { type: "value", show: false },
    series: [
      {
        type: "bar", stack: "marks", data: bars.map((one) => one.decided || null), barWidth: "62%",
        itemStyle: { color: ink.given }, cursor: "pointer",
        label: {
          show: true, position: "top", color: ink.ink, fontSize: 11, fontWeight: 600,
          formatter: ({ dataIndex }: { dataIndex: number }) => {
            const bar = bars[dataIndex];
            return bar && !bar.undecided && bar.decided ? String(bar.decided) : "";
          },
        },
      },
      {
        type: "bar", stack: "marks", data: bars.map((one) => one.undecided || null), cursor: "pointer",
        itemStyle: { color: ink.sheet, borderColor: ink.given, borderType: "dashed", borderWidth: 1.5 },
        label: {
          show: true, position: "top", color: ink.ink, fontSize: 11, fontWeight: 600,
          formatter: ({ dataIndex }: { dataIndex: number }) => {
            const bar = bars[dataIndex];
            return bar?.undecided ? String(bar.decided + bar.undecided) : "";
          },
        },
      },
    ],
  });
}

/** The share of all who tried that was right by an attempt. */
export function attemptLine(points: Schemas["AttemptPoint"][]): (ink: PlotInk) => EChartsCoreOption {
  const all = points[0]?.tried ?? 0;
  return (ink) => ({
    grid: GRID,
    xAxis: {
      ...categories(points.map((one) => `${one.attempt}\n${one.tried} tried`), ink), boundaryGap: true,
    },
    yAxis: { type: "value", show: false, min: 0, max: 1 },
    series: [
      {
        type: "line", data: points.map((one) => (all ? one.right / all : 0)), symbol: "circle", symbolSize: 9,
        lineStyle: { color: ink.given, width: 2 },
        itemStyle: { color: ink.sheet, borderColor: ink.given, borderWidth: 2 },
        label: {
          show: true, position: "top", color: ink.ink, fontSize: 11, fontWeight: 600,
          formatter: ({ value }: { value: number }) => `${Math.round(value * 100)} %`,
        },
      },
    ],
  });
}

/** How easy exercises are, and how they tell strong from weak: each a point with its place in the list. */
export function separation(exercises: Schemas["ExercisePlots"][]): (ink: PlotInk) => EChartsCoreOption {
  return (ink) => ({
    grid: { ...GRID, left: 8, bottom: 8, top: 16 },
    xAxis: {
      type: "value", min: 0, max: 1, name: "mean share of the points", nameLocation: "middle", nameGap: 24,
      nameTextStyle: { color: ink.quiet }, splitLine: { show: false }, axisLine: { show: true, lineStyle: { color: ink.ink } },
      axisLabel: { color: ink.quiet, formatter: (value: number) => `${Math.round(value * 100)} %` },
    },
    yAxis: {
      type: "value", min: (range: { min: number }) => Math.min(0, Math.floor(range.min * 10) / 10), max: (range: { max: number }) => Math.min(1, Math.ceil(range.max * 10 + 1) / 10),
      splitLine: { lineStyle: { color: ink.line } }, axisLabel: { color: ink.quiet },
    },
    series: [
      {
        type: "scatter", symbolSize: 13, cursor: "pointer",
        // A name stands where there is room for it.
        data: exercises.map((one) => ({
          value: [one.ease, one.separates], label: { position: (one.ease ?? 0) > 0.7 ? "left" : "right" },
        })),
        itemStyle: { color: ink.sheet, borderColor: ink.given, borderWidth: 2 },
        label: {
          show: true, color: ink.ink, fontSize: 11, distance: 7,
          formatter: ({ dataIndex }: { dataIndex: number }) => exercises[dataIndex]?.title ?? "",
        },
        labelLayout: { moveOverlap: "shiftY" },
      },
    ],
  });
}

/** Attempts by the hours that were left; what came after closing stands right of the line. */
export function hourBars(bars: Schemas["HourBar"][]): (ink: PlotInk) => EChartsCoreOption {
  return (ink) => ({
    grid: GRID,
    xAxis: {
      ...categories(bars.map(hourName), ink),
      axisLabel: { color: ink.quiet, fontSize: 11, hideOverlap: true },
    },
    yAxis: { type: "value", show: false },
    series: [
      {
        type: "bar", barCategoryGap: "12%", cursor: "pointer",
        data: bars.map((one) => ({
          value: one.count,
          itemStyle: one.hours < 0
            ? { color: ink.sheet, borderColor: ink.given, borderType: "dashed", borderWidth: 1.5 }
            : { color: ink.given },
        })),
        label: {
          show: bars.length <= 30, position: "top", color: ink.ink, fontSize: 10,
          formatter: ({ value }: { value: number }) => (value ? String(value) : ""),
        },
      },
    ],
  });
}

export function hourName(bar: Schemas["HourBar"]): string {
  const days = bar.hours / 24;
  if (bar.hours === 0) return "last 12 h";
  return bar.hours < 0 ? `${-days} d late` : `${days} d`;
}
