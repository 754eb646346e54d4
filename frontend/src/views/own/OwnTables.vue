<script setup lang="ts">
import { computed, ref, watch } from "vue";

import type { Schemas } from "../../api/client";
import type { OwnPlace } from "../../api/own";
import OwnTable from "./OwnTable.vue";
import TablesBeside from "./TablesBeside.vue";

/** The tables in sight, one at a time; on a large sheet the map and any of them side by side. */
const props = defineProps<{
  place: OwnPlace;
  tables: Schemas["OwnTable"][];
  inCopy: boolean;
  /** What is asked: a table that is named there is the one to begin with. */
  prompt: string;
}>();
const chosen = ref("");
const areBeside = ref(false);

watch(
  () => props.tables,
  (tables) => {
    if (tables.some((one) => one.table.name === chosen.value)) return;
    const words = new Set(props.prompt.toLowerCase().match(/\w+/g));
    const named = tables.find((one) => words.has(one.table.name.toLowerCase())) ?? tables[0];
    chosen.value = named?.table.name ?? "";
  },
  { immediate: true },
);
const shape = computed(() => props.tables.find((one) => one.table.name === chosen.value)?.table);

function turn(by: number): void {
  const names = props.tables.map((one) => one.table.name);
  chosen.value = names[(names.indexOf(chosen.value) + by + names.length) % names.length] ?? "";
}
defineExpose({ turn, showBeside: () => { areBeside.value = true; } });
</script>

<template>
  <section class="own-tables" aria-label="Tables">
    <div class="line">
      <div role="tablist" aria-label="Tables" class="names">
        <ElButton v-for="one in tables" :key="one.table.name" class="bare" role="tab"
          :aria-selected="one.table.name === chosen" @click="chosen = one.table.name">
          {{ one.table.name }} <small v-if="one.rows !== null">{{ one.rows.toLocaleString("en") }}</small>
        </ElButton>
      </div>
      <ElButton link @click="areBeside = true">Map</ElButton>
    </div>
    <div v-if="shape" class="one" role="tabpanel" :aria-label="chosen">
      <OwnTable :key="chosen" :place="place" :table="shape" :in-copy="inCopy" />
    </div>
    <TablesBeside v-model="areBeside" :place="place" :tables="tables" :in-copy="inCopy" :begin="chosen" />
  </section>
</template>

<style scoped>
.own-tables,
.one {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-height: 0;
}

.line {
  display: flex;
  flex: none;
  align-items: baseline;
  justify-content: space-between;
  gap: 10px;
  padding-bottom: 4px;
}

.names {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
}

[role="tab"] {
  padding: 2px 0;
  border: 0;
  border-bottom: 2px solid transparent;
  background: none;
  color: var(--ink-2);
  font: 600 var(--size-1) var(--data);
  cursor: pointer;
}

[aria-selected="true"] {
  border-bottom-color: var(--ink);
  color: var(--ink);
}
</style>
