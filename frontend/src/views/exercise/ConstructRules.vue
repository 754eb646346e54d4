<script setup lang="ts">
import { computed, ref } from "vue";

import { type ConstructRule, type ExerciseContent, useConstructs } from "../../api/exercises";

/** Constructs that are asked for or forbidden, each with points and words of its own. */
const props = defineProps<{ reference: string[] }>();
const content = defineModel<ExerciseContent>("content", { required: true });
const { data: constructs } = useConstructs();

const chosen = ref("");
const byId = computed(() => new Map((constructs.value ?? []).map((one) => [one.id, one])));
const open = ref(-1);

function words(rule: ConstructRule): string {
  const id = rule.require ?? rule.forbid ?? "";
  const said = byId.value.get(id)?.words ?? id;
  return rule.name ? `${said} ${rule.name}` : said;
}

function isNamed(rule: ConstructRule): boolean {
  return byId.value.get(rule.require ?? rule.forbid ?? "")?.named ?? false;
}

function add(demand: "require" | "forbid"): void {
  if (!chosen.value) return;
  content.value.constructs.push({ [demand]: chosen.value, points: 1 });
  open.value = content.value.constructs.length - 1;
  chosen.value = "";
}

/** What the reference answer uses itself comes first: that is what most often is asked for. */
const usedFirst = computed(() => {
  const all = constructs.value ?? [];
  const used = new Set(props.reference);
  return [...all.filter((one) => used.has(one.id)), ...all.filter((one) => !used.has(one.id))];
});
</script>

<template>
  <h3>Constructs</h3>
  <ul v-if="content.constructs.length">
    <li v-for="(rule, at) in content.constructs" :key="at">
      <ElButton class="bare head" :aria-expanded="open === at" @click="open = open === at ? -1 : at">
        <span>{{ rule.require ? "must use" : "must not use" }} <b>{{ words(rule) }}</b></span>
        <small>{{ rule.points ? `costs ${rule.points}` : "advice" }}</small>
      </ElButton>
      <div v-if="open === at" class="body">
        <label v-if="isNamed(rule)">which <ElInput v-model.trim="rule.name" placeholder="name" /></label>
        <label>costs <ElInputNumber v-model="rule.points" :controls="false" class="few" :min="0" />
          points</label>
        <label class="wide"><span class="only-read-aloud">message</span>
          <ElInput v-model.lazy="rule.message" placeholder="what the learner reads" /></label>
        <ElButton link @click="content.constructs.splice(at, 1); open = -1">
          remove</ElButton>
      </div>
    </li>
  </ul>
  <p class="add">
    <ElSelect v-model="chosen" placeholder="a construct …" aria-label="construct">
      <ElOption v-for="one in usedFirst" :key="one.id" :value="one.id" :label="reference.includes(one.id) ? `${one.words} (the reference uses it)` : one.words" />
    </ElSelect>
    <ElButton :disabled="!chosen" @click="add('require')">must</ElButton>
    <ElButton :disabled="!chosen" @click="add('forbid')">must not</ElButton>
  </p>
</template>

<style scoped>
h3 {
  margin: 12px 0 4px;
}

li {
  border-top: 1px solid var(--line-soft);
}

.head {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  width: 100%;
  padding: 4px 0;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  text-align: left;
  cursor: pointer;
}

.head small {
  white-space: nowrap;
}

.body {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 12px;
  padding: 0 0 8px;
}

.wide {
  flex: 1 1 100%;
}

.few {
  width: 58px;
}

.add {
  display: flex;
  gap: 6px;
  margin-top: 4px;
}

.add .el-select {
  flex: 1;
  min-width: 0;
}
</style>
