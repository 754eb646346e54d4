<script setup lang="ts">
import { computed, ref, watch } from "vue";

import { useShowing } from "../../api/samples";
import type { Bench } from "./use-bench";

/** What the rows of the table in hand can show, and what they cannot. */
const props = defineProps<{ bench: Bench }>();

const { data: showing, error } = useShowing(props.bench.name, props.bench.version);
const here = computed(() =>
  (showing.value ?? []).filter((one) => one.table === props.bench.chosen.value),
);
const missing = computed(() => here.value.filter((one) => !one.present));
const present = computed(() => here.value.filter((one) => one.present));
const elsewhere = computed(
  () => (showing.value ?? []).filter((one) => !one.present).length - missing.value.length,
);
const at = ref(0);
watch(missing, () => {
  at.value = Math.min(at.value, Math.max(missing.value.length - 1, 0));
});

/** Makes a row for the missing kind that is marked, and marks the next. */
async function addNext(): Promise<void> {
  const wanted = missing.value[at.value];
  if (wanted) await props.bench.suggest(wanted);
}

function step(by: number): void {
  const last = Math.max(missing.value.length - 1, 0);
  at.value = Math.min(Math.max(at.value + by, 0), last);
}

function find(where: string, table: string): void {
  const pin = props.bench.pinOf(table);
  if (!pin) props.bench.togglePin(table);
  const found = props.bench.pinOf(table);
  if (found) props.bench.narrow(found, where);
}

defineExpose({ addNext, step });
</script>

<template>
  <section class="showing" aria-label="What these rows can show">
    <h2>
      What the rows of {{ bench.chosen.value }} can show
      <small v-if="showing">{{ missing.length ? `${missing.length} missing` : "nothing missing" }}{{
        elsewhere ? `, ${elsewhere} in other tables` : "" }}</small>
    </h2>
    <p v-if="error" class="problem">{{ error.message }}</p>
    <p v-else-if="!showing" class="quiet">Looking …</p>
    <ul v-else>
      <li v-for="(one, place) in missing" :key="one.id" class="missing"
        :class="{ next: place === at }">
        <span class="state">missing</span>
        <span>{{ one.words }}</span>
        <ElButton link @click="at = place; bench.suggest(one)">
          add one<span class="only-read-aloud">: {{ one.words }}</span>
        </ElButton>
      </li>
      <li v-for="one in present" :key="one.id">
        <span class="state">{{ one.count.toLocaleString("en") }}</span>
        <ElButton class="bare find" @click="find(one.where, one.table)">
          {{ one.words }}
        </ElButton>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.showing {
  display: flex;
  flex-direction: column;
  min-height: 0;
}

h2 {
  font-size: var(--size-1);
  margin-bottom: 2px;
}

ul {
  overflow: auto;
  min-height: 0;
}

li {
  display: grid;
  grid-template-columns: 46px 1fr max-content;
  gap: 6px;
  padding: 1px 4px 1px 0;
  align-items: baseline;
}

.state {
  color: var(--agree);
  font-size: var(--size-0);
  text-align: right;
}

.missing .state {
  color: var(--due);
}

.next {
  background: var(--sheet);
  box-shadow: inset 2px 0 var(--due);
}

.find {
  min-height: 24px;
  padding: 0;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  text-align: left;
  cursor: pointer;
}

.find:hover {
  text-decoration: underline;
}
</style>
