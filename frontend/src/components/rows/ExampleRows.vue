<script setup lang="ts">
import { computed, ref, watch } from "vue";

import type { Example } from "../../api/explanations";
import { counted } from "../../composables/words";
import DataTable from "./DataTable.vue";
import WovenTable from "./WovenTable.vue";

/** Few made-up rows, and what a query gives on them: both threads start from one square. */
const props = withDefaults(
  defineProps<{
    example: Example;
    /** Texts whose columns are in sight; those that none of them names are folded. */
    texts: string[];
    due?: string;
    given?: string;
    title?: string;
  }>(),
  { due: "due", given: "given", title: "" },
);

const FOLDED_FROM = 2;
const unfolded = ref(new Set<string>());
watch(() => props.example, () => {
  unfolded.value = new Set();
});

const named = computed(() => new Set(props.texts.flatMap((text) => text.toLowerCase().match(/[\p{L}\p{N}_]+/gu) ?? [])));
const tables = computed(() =>
  props.example.tables.map(({ name, result }) => {
    const shown = result.columns.map(
      (column, at) => at === 0 || named.value.has(column.name.toLowerCase()) || /_(id|code|key)$/.test(column.name),
    );
    const folded = shown.filter((yes) => !yes).length;
    const isWhole = unfolded.value.has(name) || folded < FOLDED_FROM;
    const keep = <T,>(cells: T[]) => (isWhole ? cells : cells.filter((_, at) => shown[at]));
    return {
      name,
      folded: isWhole ? 0 : folded,
      result: { ...result, columns: keep(result.columns), rows: result.rows.map(keep) },
    };
  }),
);
const heading = computed(() => {
  const count = props.example.row_count;
  if (props.title) return props.title;
  const words = ["No", "One", "Two", "Three", "Four", "Five", "Six"][count] ?? String(count);
  return `${words} ${count === 1 ? "row is" : "rows are"} enough to see it`;
});

function unfold(name: string): void {
  unfolded.value = new Set([...unfolded.value, name]);
}
</script>

<template>
  <section class="example" :aria-label="heading">
    <header>
      <h3>{{ heading }}</h3><small>made-up rows</small>
      <slot />
    </header>
    <div class="rows">
      <span class="source" aria-hidden="true"><i /><b class="due" /><b class="given" /></span>
      <div class="tables">
        <div v-for="table in tables" :key="table.name" class="table">
          <p class="name">{{ table.name }}
            <ElButton v-if="table.folded" link @click="unfold(table.name)">{{ counted(table.folded, "more column") }}</ElButton></p>
          <DataTable :result="table.result" :label="`${table.name}, made-up rows`" />
        </div>
      </div>
    </div>
    <WovenTable :woven="example.woven" :only-differences="false" :due="due" :given="given" />
  </section>
</template>

<style scoped>
header {
  display: flex;
  align-items: center;
  gap: 8px;
  margin-bottom: 4px;
}

header > :last-child:not(small) {
  margin-left: auto;
}

.rows {
  display: grid;
  grid-template-columns: 64px 1fr;
}

.source {
  position: relative;
}

.source i {
  position: absolute;
  left: 14px;
  top: 8px;
  width: 10px;
  height: 10px;
  background: var(--ink);
}

.source b {
  position: absolute;
  top: 12px;
  bottom: 0;
  width: 9px;
  border-top: 2px solid;
}

.source .due {
  left: 10px;
  border-left: 2px solid;
  color: var(--due);
}

.source .given {
  left: 19px;
  border-right: 2px solid;
  color: var(--given);
}

.tables {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 28px;
  padding-bottom: 10px;
  min-width: 0;
  overflow-x: auto;
}

.table {
  background: inherit;
}

.name {
  display: flex;
  align-items: baseline;
  gap: 10px;
  font-weight: 650;
}
</style>
