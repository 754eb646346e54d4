<script setup lang="ts">
import { useElementSize } from "@vueuse/core";
import { computed, nextTick, ref, useTemplateRef } from "vue";

import type { Schemas } from "../../api/client";
import { fit, HEAD, layOut, LINE, nearest, READABLE } from "./map-layout";

/** A sample's tables with their keys, and the links between them. */
const props = defineProps<{
  tables: Schemas["TableSchema"][];
  counts: Map<string, number>;
  pinned: string[];
}>();
const chosen = defineModel<string>("chosen", { required: true });
const emit = defineEmits<{ pin: [table: string] }>();

const frame = useTemplateRef<HTMLElement>("frame");
const { width, height } = useElementSize(frame);

const SMALLEST = 0.4;
const field = computed(() => ({ width: width.value, height: height.value }));
const whole = computed(() => layOut(props.tables, false, field.value));
const nearness = ref(0);

/** Cards with their columns where they can be read, else with their names only. */
const map = computed(() => {
  const closer = Math.max(fit(whole.value, field.value), nearness.value);
  if (!width.value || closer >= READABLE) return whole.value;
  return layOut(props.tables, true, field.value);
});
const scale = computed(() => {
  const all = fit(map.value, field.value) || 1;
  return nearness.value ? Math.max(all, nearness.value) : Math.max(all, SMALLEST);
});

/** Where cards stand close, only the links of the table in hand. */
const drawn = computed(() =>
  map.value.isDense ? map.value.links.filter((one) => isNear(one.from, one.to)) : map.value.links,
);
const neighbours = computed(
  () => new Set(map.value.links.filter((one) => isNear(one.from, one.to)).flatMap((one) => [one.from, one.to])),
);

function isNear(from: string, to: string): boolean {
  return chosen.value === from || chosen.value === to;
}

async function onKey(event: KeyboardEvent): Promise<void> {
  const here = map.value.cards.find((card) => card.table.name === chosen.value);
  if (event.key.startsWith("Arrow") && here) {
    const next = nearest(map.value.cards, here, event.key);
    event.preventDefault();
    event.stopPropagation();
    if (!next) return;
    chosen.value = next.table.name;
    await nextTick();
    frame.value?.querySelector<SVGElement>("[tabindex='0']")?.focus();
  } else if (event.key === "Enter" || event.key === " ") {
    event.preventDefault();
    event.stopPropagation();
    emit("pin", chosen.value);
  } else if (event.key === "+" || event.key === "-") {
    event.preventDefault();
    zoom(event.key === "+" ? 1 : -1);
  }
}

function zoom(step: number): void {
  const next = scale.value * (step > 0 ? 1.25 : 0.8);
  nearness.value = next <= fit(map.value, field.value) ? 0 : Math.min(next, 1.6);
}

function focusChosen(): void {
  frame.value?.querySelector<SVGElement>("[tabindex='0']")?.focus();
}

defineExpose({ focusChosen });
</script>

<template>
  <div class="around">
  <div ref="frame" class="map" role="group" aria-label="Tables and their links" tabindex="-1"
    @keydown="onKey">
    <svg v-if="width" :width="map.width * scale" :height="map.height * scale"
      :viewBox="`0 0 ${map.width} ${map.height}`">
      <path v-for="one in drawn" :key="one.id" :d="one.path" class="link"
        :class="{ near: isNear(one.from, one.to) }" />
      <circle v-for="one in drawn" :key="`end-${one.id}`" :cx="one.end.x" :cy="one.end.y"
        r="3" class="end" :class="{ near: isNear(one.from, one.to) }" />
      <g v-for="card in map.cards" :key="card.table.name" role="button" class="card"
        :class="{ chosen: card.table.name === chosen, pinned: pinned.includes(card.table.name), linked: map.isDense && neighbours.has(card.table.name) }"
        :transform="`translate(${card.x} ${card.y})`" :data-table="card.table.name"
        :tabindex="card.table.name === chosen ? 0 : -1"
        :aria-pressed="pinned.includes(card.table.name)"
        @click="chosen = card.table.name; emit('pin', card.table.name)">
        <rect class="body" :width="card.width" :height="card.height" />
        <rect class="top" :width="card.width" height="3" />
        <text class="name" x="9" :y="HEAD - 8">{{ card.table.name }}</text>
        <text class="count" :x="card.width - 8" :y="HEAD - 8">
          {{ card.table.kind === "view" ? "view, " : ""
          }}{{ card.table.stands_in ? "–" : (counts.get(card.table.name) ?? 0).toLocaleString("en") }}
        </text>
        <line v-if="card.lines.length" class="rule" x1="0" :x2="card.width" :y1="HEAD" :y2="HEAD" />
        <g v-for="(line, at) in card.lines" :key="line.name"
          :transform="`translate(0 ${HEAD + at * LINE})`">
          <path v-if="line.isKey" class="key" d="M9 10l4-4 4 4-4 4z" />
          <circle v-else-if="line.isLink" class="reference" cx="13" cy="10" r="3.4" />
          <text x="23" y="14">{{ line.name }}</text>
          <text class="says" :x="card.width - 8" y="14">{{ line.says }}</text>
        </g>
      </g>
    </svg>
  </div>
    <p class="legend" aria-hidden="true">
      <span v-if="map === whole"><i class="diamond" /> key</span>
      <span v-if="map === whole"><i class="ring" /> refers to a row</span>
      <ElButton class="bare" tabindex="-1" aria-label="further away" @click="zoom(-1)">−</ElButton>
      <ElButton class="bare" tabindex="-1" aria-label="closer" @click="zoom(1)">+</ElButton>
    </p>
  </div>
</template>

<style scoped>
.around {
  position: relative;
  display: flex;
  flex: 1;
  min-height: 0;
}

.map {
  display: flex;
  flex: 1;
  min-width: 0;
  margin-bottom: 28px;
  overflow: auto;
  outline: none;
}

svg {
  flex: none;
  margin: auto;
  font: 12px var(--ui);
}

.link {
  fill: none;
  stroke: var(--line);
  stroke-width: 1.5;
}

.link.near {
  stroke: var(--ink-2);
}

.end {
  fill: var(--line);
}

.end.near {
  fill: var(--ink-2);
}

.card {
  cursor: pointer;
  outline: none;
}

.body {
  fill: var(--sheet);
  stroke: var(--line);
}

.top {
  fill: var(--ink-3);
}

.linked .body {
  stroke: var(--ink-2);
}

.pinned .body {
  stroke: var(--given);
}

.pinned .top {
  fill: var(--given);
}

.chosen .body {
  stroke-width: 2;
  stroke: var(--ink);
}

.card:focus-visible .body {
  stroke: var(--focus);
  stroke-width: 2.5;
}

.rule {
  stroke: var(--line-soft);
}

text {
  fill: var(--ink);
}

.name {
  font-weight: 650;
  font-size: 13px;
}

.count,
.says {
  fill: var(--ink-3);
  font-size: 11px;
  text-anchor: end;
}

.key {
  fill: var(--due);
}

.reference {
  fill: none;
  stroke: var(--given);
  stroke-width: 1.5;
}

.legend {
  position: absolute;
  left: 0;
  bottom: 0;
  display: flex;
  gap: 10px;
  align-items: center;
  color: var(--ink-3);
  font-size: var(--size-0);
}

.legend i {
  display: inline-block;
  width: 8px;
  height: 8px;
}

.diamond {
  background: var(--due);
  transform: rotate(45deg) scale(0.8);
}

.ring {
  border: 1.5px solid var(--given);
  border-radius: 50%;
}

.legend button {
  text-align: center;
  width: 20px;
  height: 20px;
  padding: 0;
  border: 1px solid var(--line);
  border-radius: var(--radius);
  background: var(--sheet);
  color: var(--ink-2);
  cursor: pointer;
}
</style>
