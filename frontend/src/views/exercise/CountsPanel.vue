<script setup lang="ts">
import { computed } from "vue";

import type { ExerciseContent } from "../../api/exercises";
import ConstructRules from "./ConstructRules.vue";
import { LIMITS, RULES } from "../../api/terms";
import { ORDER_COMES_TO } from "./rules";
import type { ExerciseBench } from "./use-exercise-bench";

/** What counts when answers are compared, and which constructs do. */
const props = defineProps<{ bench: ExerciseBench }>();
const content = defineModel<ExerciseContent>("content", { required: true });

type Rule = (typeof RULES)[number];

function chosen(rule: Rule): string {
  return String(content.value.rules[rule.name] ?? rule.choices[0]?.value);
}

/** The usual choice is left out, as packs do. */
function choose(rule: Rule, value: string): void {
  const { [rule.name]: _before, ...rest } = content.value.rules;
  content.value.rules = value === rule.choices[0]?.value ? rest : { ...rest, [rule.name]: value };
}

const order = computed(() => {
  const comesTo = props.bench.proof.data.value?.row_order;
  return (content.value.rules.row_order ?? "auto") === "auto" ? ORDER_COMES_TO[comesTo ?? ""] : "";
});

const tolerance = computed(
  () => content.value.rules.number_tolerance as { absolute?: number; relative?: number } | undefined,
);

function tolerate(part?: "absolute" | "relative", value = 0): void {
  const { number_tolerance: _before, ...rest } = content.value.rules;
  content.value.rules = part
    ? { ...rest, number_tolerance: { absolute: 0, relative: 0, ...tolerance.value, [part]: value } }
    : rest;
}

const limits = computed(() => ({
  ...LIMITS,
  ...(content.value.rules.limits as Partial<Record<keyof typeof LIMITS, number>> | undefined),
}));

function limit(name: keyof typeof LIMITS, value: number): void {
  const { limits: before, ...rest } = content.value.rules;
  const next = Object.fromEntries(
    Object.entries({ ...(before as object), [name]: value }).filter(
      ([key, bound]) => bound !== LIMITS[key as keyof typeof LIMITS],
    ),
  );
  content.value.rules = Object.keys(next).length ? { ...rest, limits: next } : rest;
}
</script>

<template>
  <div>
    <h3>Comparing</h3>
    <p v-for="rule in RULES" :key="rule.name" class="rule"
      :class="{ turned: rule.name in content.rules }">
      <label :for="`rule-${rule.name}`">{{ rule.title }}</label>
      <ElSelect :id="`rule-${rule.name}`" :model-value="chosen(rule)" @change="choose(rule, $event)">
        <ElOption v-for="one in rule.choices" :key="one.value" :value="one.value" :label="one.says" />
      </ElSelect>
      <small v-if="rule.name === 'row_order' && order" class="under">{{ order }}</small>
    </p>
    <p class="rule" :class="{ turned: tolerance }">
      <label for="rule-numbers">Numbers</label>
      <ElSelect id="rule-numbers" :model-value="tolerance ? 'within' : 'usual'" @change="$event === 'within' ? tolerate('absolute', 0.01) : tolerate()">
        <ElOption value="usual" label="equal to 9 digits" />
        <ElOption value="within" label="within …" />
      </ElSelect>
      <span v-if="tolerance" class="under bounds">
        <label><ElInputNumber :controls="false" class="few" :min="0" :model-value="tolerance.absolute ?? 0" @change="tolerate('absolute', Number($event))" /> apart, or</label>
        <label><ElInputNumber :controls="false" class="few" :min="0" :model-value="tolerance.relative ?? 0" @change="tolerate('relative', Number($event))" /> of the
          larger</label>
      </span>
    </p>
    <ConstructRules v-model:content="content" :reference="bench.proof.data.value?.constructs ?? []" />
    <h3>An answer is stopped above</h3>
    <p class="bounds">
      <label><ElInputNumber :controls="false" class="few" :min="0.1" :model-value="limits.seconds" @change="limit('seconds', Number($event))" /> s</label>
      <label><ElInputNumber :controls="false" class="more" :min="1" :model-value="limits.rows" @change="limit('rows', Number($event))" /> rows</label>
      <label><ElInputNumber :controls="false" class="few" :min="8" :model-value="limits.memory_mb" @change="limit('memory_mb', Number($event))" /> MiB</label>
    </p>
    <p class="bounds">
      A value longer than
      <label><ElInputNumber :controls="false" class="few" :min="1" :max="1024" :model-value="limits.cell_kb" @change="limit('cell_kb', Number($event))" /> KiB</label>
      counts as a whole, and is not shown.
    </p>
  </div>
</template>

<style scoped>
h3 {
  margin: 12px 0 4px;
}

h3:first-child {
  margin-top: 0;
}

.rule {
  display: grid;
  grid-template-columns: 100px 1fr;
  align-items: center;
  gap: 1px 8px;
  padding: 1px 0;
}

.rule > label {
  color: var(--ink-3);
}

.rule > .el-select {
  --el-select-width: 100%;
  --el-border-color: transparent;
  --el-fill-color-blank: transparent;
}

.turned > label {
  color: var(--ink);
  font-weight: 650;
}

.turned > .el-select {
  --el-border-color: var(--line);
  --el-fill-color-blank: var(--sheet);
  font-weight: 650;
}

.under {
  grid-column: 2;
  padding-left: 8px;
}

.bounds {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
}

.few {
  width: 56px;
  padding-right: 2px;
}

.more {
  width: 80px;
}
</style>
