<script setup lang="ts">
import { computed, ref, watch } from "vue";

import type { Schemas } from "../../api/client";
import type { OwnPlace } from "../../api/own";
import SampleMap from "../../components/map/SampleMap.vue";
import { counted } from "../../composables/words";
import OwnTable from "./OwnTable.vue";

/** How the tables hang together, and any of them side by side: the one in hand and what it refers to first. */
const props = defineProps<{
  place: OwnPlace;
  tables: Schemas["OwnTable"][];
  inCopy: boolean;
  begin: string;
}>();
const open = defineModel<boolean>({ required: true });
const chosen = ref("");
const pinned = ref<string[]>([]);
const MOST = 3;

const shapes = computed(() => props.tables.map((one) => one.table));
const counts = computed(() => new Map(props.tables.map((one) => [one.table.name, one.rows ?? 0])));
const inSight = computed(() => pinned.value.flatMap((name) => props.tables.filter((one) => one.table.name === name)));

watch(open, (is) => {
  if (!is || pinned.value.length) return;
  chosen.value = props.begin;
  const keys = shapes.value.flatMap((one) => one.foreign_keys.map((key) => [one.name, key.table] as const));
  const linked = keys.find((pair) => pair.includes(props.begin) && pair[0] !== pair[1]);
  pinned.value = [props.begin, ...(linked ?? []).filter((name) => name !== props.begin)];
});

/** Brings a table in sight or takes it away; the one that is longest there makes room. */
function pin(name: string): void {
  pinned.value = pinned.value.includes(name)
    ? pinned.value.filter((one) => one !== name)
    : [...pinned.value, name].slice(-MOST);
}
</script>

<template>
  <ElDialog v-model="open" title="Tables and how they are linked" width="96vw" top="3vh"
    class="tables-beside" destroy-on-close>
    <div class="around">
      <div class="map-place">
        <SampleMap v-model:chosen="chosen" :tables="shapes" :counts="counts" :pinned="pinned" @pin="pin" />
        <p class="quiet">A click on a table, or Enter, brings its rows in sight or closes them; up to {{ MOST }} at a time.</p>
      </div>
      <section v-for="one in inSight" :key="one.table.name" :aria-label="one.table.name">
        <h3>{{ one.table.name }} <small v-if="one.rows !== null">{{ counted(one.rows, "row") }}</small>
          <ElButton link @click="pin(one.table.name)">Close<span class="only-read-aloud"> {{ one.table.name }}</span></ElButton></h3>
        <OwnTable :place="place" :table="one.table" :in-copy="inCopy" />
      </section>
      <p v-if="!inSight.length" class="quiet">No table is in sight: choose one on the map.</p>
    </div>
  </ElDialog>
</template>

<style>
.tables-beside {
  display: flex;
  flex-direction: column;
  height: 94vh;
  margin-bottom: 0;
}

.tables-beside .el-dialog__body {
  --behind: var(--sheet);

  flex: 1;
  min-height: 0;
}
</style>

<style scoped>
.around {
  display: flex;
  gap: 20px;
  height: 100%;
}

.map-place,
section {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
}

.map-place {
  flex: 0 0 380px;
}

section {
  padding-left: 12px;
  border-left: 1px solid var(--line-soft);
}

h3 {
  display: flex;
  align-items: baseline;
  gap: 8px;
  font-size: var(--size-2);
}

h3 .el-button {
  margin-left: auto;
}

@media (max-width: 900px) {
  .around {
    flex-direction: column;
    overflow: auto;
  }

  .map-place,
  section {
    flex: none;
  }
}
</style>
