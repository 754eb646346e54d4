<script setup lang="ts">
import { computed } from "vue";

import { useParting } from "../api/marking";
import WovenTable from "../components/rows/WovenTable.vue";
import { STEP_NAMES } from "../steps/trace";

/** Reference and answer step by step, side by side: where the rows are not the same any more. */
const props = defineProps<{ slug: string; answer: number; dataset: string }>();
const { data: parting, error, isPending } = useParting(
  () => props.slug, () => props.answer, () => props.dataset, true,
);

function rows(count: number | null, isThere: boolean): string {
  if (!isThere) return "–";
  return count === null ? "not counted" : count.toLocaleString("en");
}

const sentence = computed(() => {
  const found = parting.value;
  if (!found?.steps.length) return "";
  const step = found.first === null ? undefined : found.steps[found.first];
  if (!step) return "Every step gives the same rows on this dataset.";
  const name = STEP_NAMES[step.kind] ?? step.kind;
  if (!step.given_clause) return `They part at ${name}: the answer has no such step.`;
  if (!step.due_clause) return `They part at ${name}: the reference has no such step.`;
  return `Up to ${name} the rows are the same; there they part.`;
});
</script>

<template>
  <p v-if="error" class="problem" role="alert">{{ error.message }}</p>
  <p v-else-if="isPending" class="quiet">Taking both apart …</p>
  <template v-else-if="parting">
    <p v-if="parting.note && !parting.steps.length" class="quiet">{{ parting.note }}</p>
    <template v-else>
      <table class="pairs" aria-label="Steps of both sides">
        <thead>
          <tr>
            <th scope="col">step</th>
            <th scope="col" class="due">due</th>
            <th scope="col" class="number due">rows</th>
            <th scope="col" class="given">given</th>
            <th scope="col" class="number given">rows</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(step, at) in parting.steps" :key="at" :class="{ differs: step.differs, first: at === parting.first }">
            <th scope="row">{{ STEP_NAMES[step.kind] ?? step.kind }}
              <small v-if="at === parting.first">here they part</small></th>
            <td class="due"><code>{{ step.due_clause || "–" }}</code></td>
            <td class="number due">{{ rows(step.due, Boolean(step.due_clause)) }}</td>
            <td class="given"><code>{{ step.given_clause || "–" }}</code></td>
            <td class="number given">{{ rows(step.given, Boolean(step.given_clause)) }}</td>
          </tr>
        </tbody>
      </table>
      <p class="sentence">{{ sentence }} <span v-if="parting.note" class="quiet">{{ parting.note }}</span></p>
      <WovenTable v-if="parting.woven" :woven="parting.woven" only-differences />
    </template>
  </template>
</template>

<style scoped>
.pairs {
  width: 100%;
  border-collapse: collapse;
  font-size: var(--size-1);
}

.pairs th,
.pairs td {
  padding: 4px 8px 4px 0;
  border-bottom: 1px solid var(--line-soft);
  text-align: left;
  vertical-align: top;
}

.pairs thead th {
  border-bottom: 1.5px solid var(--ink);
  font-size: var(--size-0);
}

.pairs .number {
  text-align: right;
  font-family: var(--data);
  white-space: nowrap;
}

.pairs code {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}

.due {
  color: var(--due);
}

.given {
  color: var(--given);
}

tbody th {
  white-space: nowrap;
}

tbody th small {
  display: block;
  color: var(--given);
  font-weight: 650;
}

.differs .number {
  font-weight: 700;
  text-decoration: underline;
  text-decoration-thickness: 2px;
  text-underline-offset: 3px;
}

.first th {
  box-shadow: inset 3px 0 var(--given);
  padding-left: 8px;
}

.sentence {
  margin: 10px 0;
}
</style>
