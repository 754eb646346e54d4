<script setup lang="ts">
import { computed } from "vue";

import type { ExerciseContent } from "../../api/exercises";
import { counted } from "../../composables/words";
import { LAYOUT_RULES, PARTS } from "../../api/terms";

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
  const { scheme: _scheme, weights: _weights, ...away } = content.value.marks;
  content.value.marks = value === "by_parts" ? { scheme: "by_parts", weights: { ...weights.value }, ...away } : away;
}

function weigh(name: string, value: number): void {
  content.value.marks = { ...content.value.marks, scheme: "by_parts", weights: { ...weights.value, [name]: value } };
}

const AWAY = [
  { name: "one_edit", says: "one edit away from right earns at least" },
  { name: "two_edits", says: "two edits away" },
] as const;

function awayEarns(name: "one_edit" | "two_edits", percent: number): void {
  const { [name]: _before, ...rest } = content.value.marks;
  content.value.marks = percent > 0 ? { ...rest, [name]: Math.min(percent, 99) / 100 } : rest;
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
      <ElRadioGroup :model-value="isByParts ? 'by_parts' : 'all_or_nothing'" aria-label="Mark scheme"
        @change="scheme(String($event))">
        <ElRadio value="all_or_nothing">all or nothing</ElRadio>
        <ElRadio value="by_parts">by parts</ElRadio>
      </ElRadioGroup>
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
            <td><ElInputNumber :id="`weight-${part.name}`" :controls="false" class="few" :min="0" :model-value="weights[part.name] ?? 0" @change="weigh(part.name, Number($event))" /></td>
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
    <h3>Near misses</h3>
    <p v-for="one in AWAY" :key="one.name" class="rule"><label>{{ one.says }}
      <ElInputNumber :controls="false" class="few" :min="0" :max="99" :model-value="Math.round((content.marks[one.name] ?? 0) * 100)" @change="awayEarns(one.name, Number($event))" /> %</label></p>
    <h3>Layout</h3>
    <p class="rule"><span class="labelled">keywords in
      <ElSelect aria-label="keywords in" :model-value="content.layout.keyword_case ?? 'any'" @change="layout('keyword_case', $event === 'any' ? '' : $event)">
        <ElOption value="any" label="any case" />
        <ElOption value="upper" label="upper case" />
        <ElOption value="lower" label="lower case" />
      </ElSelect></span></p>
    <p v-for="rule in LAYOUT_RULES" :key="rule.name" class="rule">
      <ElCheckbox :model-value="content.layout[rule.name]" @change="layout(rule.name, Boolean($event))">{{ rule.says }}</ElCheckbox>
    </p>
    <p v-if="counts.layout" class="rule"><label>costs up to
      <ElInputNumber :controls="false" class="few" :min="0" :model-value="content.layout.points ?? 0" @change="layout('points', Number($event))" /> points</label>
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
