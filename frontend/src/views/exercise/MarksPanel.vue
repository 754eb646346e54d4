<script setup lang="ts">
import { computed } from "vue";

import type { ExerciseContent } from "../../api/exercises";
import { counted } from "../../composables/words";
import { LAYOUT_RULES, PARTS } from "./rules";

/** What an answer earns: all or nothing, or by parts; and how its text should be laid out. */
const content = defineModel<ExerciseContent>("content", { required: true });

const isByParts = computed(() => content.value.marks.scheme === "by_parts");
const weights = computed(
  () =>
    content.value.marks.weights ?? Object.fromEntries(PARTS.map((part) => [part.name, part.usual])),
);
const takenOff = computed(() =>
  content.value.constructs.reduce((sum, rule) => sum + (rule.points ?? 0), 0),
);

/** Parts that this exercise has nothing of leave their weight to the others. */
const counts = computed<Record<string, boolean>>(() => ({
  columns: true,
  rows: true,
  order: content.value.rules.row_order !== "ignore",
  names: "column_names" in content.value.rules,
  constructs: content.value.constructs.length > 0,
  layout: LAYOUT_RULES.some((rule) => content.value.layout[rule.name]) || Boolean(content.value.layout.keyword_case),
}));
const whole = computed(() =>
  PARTS.reduce((sum, part) => sum + (counts.value[part.name] ? (weights.value[part.name] ?? 0) : 0), 0),
);

function worth(name: string): string {
  const weight = counts.value[name] ? (weights.value[name] ?? 0) : 0;
  if (!weight || !whole.value) return "–";
  return String(Math.round(((content.value.points ?? 0) * weight * 100) / whole.value) / 100);
}

function scheme(value: string): void {
  content.value.marks = value === "by_parts" ? { scheme: "by_parts", weights: { ...weights.value } } : {};
}

function weigh(name: string, value: number): void {
  content.value.marks = { scheme: "by_parts", weights: { ...weights.value, [name]: value } };
}

function layout(name: string, value: unknown): void {
  const { [name as "spacing"]: _before, ...rest } = content.value.layout;
  content.value.layout = value ? { ...rest, [name]: value } : rest;
}
</script>

<template>
  <div>
    <h3>Mark scheme</h3>
    <p class="either">
      <label><input type="radio" name="scheme" value="all_or_nothing" :checked="!isByParts"
        @change="scheme('all_or_nothing')"> all or nothing</label>
      <label><input type="radio" name="scheme" value="by_parts" :checked="isByParts"
        @change="scheme('by_parts')"> by parts</label>
    </p>
    <template v-if="isByParts">
      <table>
        <thead>
          <tr>
            <th scope="col">part</th>
            <th scope="col">weight</th>
            <th scope="col" class="number">points, about</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="part in PARTS" :key="part.name" :class="{ idle: !counts[part.name] }">
            <th scope="row"><label :for="`weight-${part.name}`">{{ part.says }}</label></th>
            <td><input :id="`weight-${part.name}`" class="field few" type="number" min="0" step="any"
              :value="weights[part.name] ?? 0"
              @change="weigh(part.name, Number(($event.target as HTMLInputElement).value))"></td>
            <td class="number">{{ worth(part.name) }}</td>
          </tr>
        </tbody>
      </table>
      <p class="quiet">Rows, order and names earn by the share that is right; on several datasets the
        smallest share counts. What an exercise has nothing of leaves its weight to the rest.</p>
    </template>
    <p v-else class="quiet">
      A right result earns {{ counted(content.points ?? 0, "point") }}{{ takenOff
        ? `; constructs cost up to ${takenOff} of them` : "" }}{{ content.layout.points
          ? `${takenOff ? "," : ";"} layout up to ${content.layout.points}` : "" }}. A wrong one earns nothing.
    </p>
    <h3>Layout</h3>
    <p class="rule"><label>keywords in
      <select class="field" :value="content.layout.keyword_case ?? ''"
        @change="layout('keyword_case', ($event.target as HTMLSelectElement).value)">
        <option value="">any case</option>
        <option value="upper">upper case</option>
        <option value="lower">lower case</option>
      </select></label></p>
    <p v-for="rule in LAYOUT_RULES" :key="rule.name" class="rule">
      <label><input type="checkbox" :checked="content.layout[rule.name]"
        @change="layout(rule.name, ($event.target as HTMLInputElement).checked)"> {{ rule.says }}</label>
    </p>
    <p v-if="counts.layout" class="rule"><label>costs up to
      <input class="field few" type="number" min="0" step="any" :value="content.layout.points ?? 0"
        @change="layout('points', Number(($event.target as HTMLInputElement).value))"> points</label>
      <small>{{ content.layout.points ? "" : "0: advice only" }}</small></p>
  </div>
</template>

<style scoped>
h3 {
  margin: 14px 0 6px;
}

h3:first-child {
  margin-top: 0;
}

.either {
  display: flex;
  gap: 14px;
  margin-bottom: 6px;
}

table {
  width: 100%;
  border-collapse: collapse;
}

th,
td {
  padding: 2px 4px 2px 0;
  border-bottom: 1px solid var(--line-soft);
  font-weight: 400;
  text-align: left;
}

thead th {
  color: var(--ink-3);
}

.number {
  text-align: right;
}

.idle {
  color: var(--ink-3);
}

.few {
  width: 58px;
}

.rule {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 2px 0;
}
</style>
