<script setup lang="ts">
import { computed, reactive, watch } from "vue";

import { useProfile, useTableNotes } from "../../api/samples";
import DataCell from "../../components/rows/DataCell.vue";
import { constraintWords } from "./column-words";
import type { Bench } from "./use-bench";

/** Everything about the column in hand: its type, what constrains it, what it holds. */
const props = defineProps<{ bench: Bench }>();

const table = computed(() => props.bench.tableNamed(props.bench.chosen.value));
const column = computed(() => {
  const active = props.bench.active.value;
  const name = active?.table === table.value?.name ? active?.column : undefined;
  return table.value?.columns.find((one) => one.name === name) ?? table.value?.columns[0];
});
const { data: profile } = useProfile(
  props.bench.name,
  props.bench.version,
  () => table.value?.name ?? "",
);
const facts = computed(() => profile.value?.columns.find((one) => one.name === column.value?.name));
/** The notes as they are being written, and anew when another table or column is in hand. */
const notes = reactive({ column: "", table: "" });
const noting = useTableNotes(() => props.bench.name.value.sample);
watch(
  [() => table.value?.name, () => column.value?.name, () => column.value?.note],
  () => { notes.column = column.value?.note ?? ""; },
  { immediate: true },
);
// Apart: what is being written of the one stays when the other was kept.
watch(
  [() => table.value?.name, () => table.value?.note],
  () => { notes.table = table.value?.note ?? ""; },
  { immediate: true },
);
function save(name: string, note: string): void {
  if (table.value) noting.mutate({ table: table.value.name, column: name, note });
}
const isEachOnce = computed(() => facts.value?.commonest[0]?.count === 1);
const most = computed(() => Math.max(1, ...(facts.value?.commonest ?? []).map((one) => one.count)));
</script>

<template>
  <section v-if="table && column" class="facts" aria-label="The column in hand">
    <h2>{{ table.name }}.{{ column.name }} <small>{{ column.type || "any type" }}</small></h2>
    <p class="quiet">{{ constraintWords(table, column).join(" · ") }}</p>
    <p v-if="!facts" class="quiet">Counting …</p>
    <template v-else-if="!table.stands_in">
      <dl>
        <dt>different</dt>
        <dd>{{ facts.different.toLocaleString("en") }} of {{ profile?.rows.toLocaleString("en") }}</dd>
        <dt>NULL</dt>
        <dd>{{ facts.nulls.toLocaleString("en") }}</dd>
        <template v-if="facts.empty">
          <dt>empty text</dt>
          <dd>{{ facts.empty.toLocaleString("en") }}</dd>
        </template>
        <template v-if="facts.different">
          <dt>smallest</dt>
          <dd><DataCell :value="facts.smallest" /></dd>
          <dt>largest</dt>
          <dd><DataCell :value="facts.largest" /></dd>
        </template>
      </dl>
      <p v-if="isEachOnce" class="quiet">every value once</p>
      <ul v-else aria-label="The most common values">
        <li v-for="(one, at) in facts.commonest" :key="at">
          <span class="value"><DataCell :value="one.value" /></span>
          <i aria-hidden="true" :style="{ width: `${(one.count / most) * 70}px` }" />
          <b>{{ one.count.toLocaleString("en") }}</b>
        </li>
      </ul>
    </template>
    <form class="notes" @submit.prevent>
      <label>Note on {{ column.name }}
        <ElInput v-model="notes.column" type="textarea" :autosize="{ minRows: 1, maxRows: 4 }" :maxlength="500"
          @change="save(column.name, notes.column)" />
      </label>
      <label>Note on {{ table.name }}
        <ElInput v-model="notes.table" type="textarea" :autosize="{ minRows: 1, maxRows: 4 }" :maxlength="500"
          @change="save('', notes.table)" />
      </label>
      <p v-if="noting.error.value" class="problem" role="alert">{{ noting.error.value.message }}</p>
    </form>
  </section>
</template>

<style scoped>
h2 {
  font-size: var(--size-1);
  overflow-wrap: anywhere;
}

.notes {
  display: grid;
  gap: 4px;
  margin-top: 6px;
}

.notes label {
  color: var(--ink-2);
  font-size: var(--size-0);
}

dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 1px 12px;
  margin: 4px 0 6px;
}

dt {
  color: var(--ink-3);
}

dd,
.value {
  font-family: var(--data);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

li {
  display: grid;
  grid-template-columns: minmax(60px, 1fr) 70px max-content;
  gap: 8px;
  align-items: center;
  line-height: 1.45;
}

i {
  height: 6px;
  background: var(--ink-3);
}

b {
  font-weight: 400;
  color: var(--ink-2);
  text-align: right;
}
</style>
