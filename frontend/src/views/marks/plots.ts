import type { ECharts, EChartsCoreOption } from "echarts/core";

import type { Schemas } from "../../api/client";
import type { PlotInk } from "../../components/PlotFigure.vue";
import { namesApart } from "./names-apart";

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

const NAME_SIZE = 11;
const NAME_HEIGHT = 15;
const POINT_SIZE = 13;

/** How easy exercises are, and how they tell strong from weak: each a point with its place in the list. */
export function separation(exercises: Schemas["ExercisePlots"][]): (ink: PlotInk) => EChartsCoreOption {
  return (ink) => ({
    grid: { ...GRID, left: 8, bottom: 30, top: 16 },
    xAxis: {
      // Where no exercise is hard, the room is for those that there are.
      type: "value", interval: 0.2, min: (range: { min: number }) => Math.max(0, Math.floor(range.min * 5 - 0.5) / 5), max: 1,
      name: "mean share of the points", nameLocation: "middle", nameGap: 24,
      nameTextStyle: { color: ink.quiet }, splitLine: { show: false }, axisLine: { show: true, lineStyle: { color: ink.ink } },
      axisLabel: { color: ink.quiet, formatter: (value: number) => `${Math.round(value * 100)} %` },
    },
    yAxis: {
      type: "value", interval: 0.2, min: (range: { min: number }) => Math.min(0, Math.floor(range.min * 5) / 5),
      max: (range: { max: number }) => Math.min(1, Math.ceil(range.max * 5 + 0.5) / 5),
      splitLine: { lineStyle: { color: ink.line } }, axisLabel: { color: ink.quiet },
    },
    series: [
      {
        type: "scatter", symbolSize: POINT_SIZE, cursor: "pointer",
        data: exercises.map((one) => [one.ease, one.separates]),
        itemStyle: { color: ink.sheet, borderColor: ink.given, borderWidth: 2 },
        label: {
          show: true, color: ink.ink, fontSize: NAME_SIZE,
          formatter: ({ dataIndex }: { dataIndex: number }) => exercises[dataIndex]?.title ?? "",
        },
      },
    ],
  });
}

/** The names of exercises beside their points, once it is known where on the page these are. */
export function separationNames(exercises: Schemas["ExercisePlots"][]): (chart: ECharts, font: string) => EChartsCoreOption {
  return (chart, font) => {
    const ruler = document.createElement("canvas").getContext("2d");
    if (ruler) ruler.font = `${NAME_SIZE}px ${font}`;
    const widths = exercises.map((one) => (ruler?.measureText(one.title).width ?? 0) + 2);
    const points = exercises.map((one): [number, number] => {
      const [x = 0, y = 0] = chart.convertToPixel({ seriesIndex: 0 }, [one.ease ?? 0, one.separates ?? 0]) as number[];
      return [x, y];
    });
    const room = { left: 0, top: 0, right: chart.getWidth(), bottom: chart.getHeight() };
    const names = namesApart(points, widths, NAME_HEIGHT, room);
    return {
      series: [
        {
          data: exercises.map((one, at) => {
            const [x, y] = points[at] ?? [0, 0];
            const { left = x, top = y } = names[at] ?? {};
            // Told from the upper left corner of the point.
            const position = [left - x + POINT_SIZE / 2, top - y + POINT_SIZE / 2];
            return { value: [one.ease, one.separates], label: { position, align: "left", verticalAlign: "top", lineHeight: NAME_HEIGHT } };
          }),
        },
      ],
    };
  };
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
