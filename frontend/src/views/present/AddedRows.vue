<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef, watch } from "vue";

import type { Schemas } from "../../api/client";

/** Rows that are added in class: typed here, tried, and taken away again. */
const props = defineProps<{
  tables: Schemas["TableSchema"][];
  added: Schemas["AddedRow"][];
  /** Tells what is wrong with a row; nothing where it is taken. */
  take: (row: Schemas["AddedRow"]) => Promise<string>;
}>();
const emit = defineEmits<{ remove: [at: number]; close: [] }>();

const name = ref(props.tables[0]?.name ?? "");
const table = computed(() => props.tables.find((one) => one.name === name.value) ?? props.tables[0]);
const values = ref<Record<string, string>>({});
const problem = ref("");
const fields = useTemplateRef<HTMLElement>("fields");

function focusFirst(): void {
  void nextTick(() => fields.value?.querySelector<HTMLElement>("label input")?.focus());
}
watch(name, () => {
  values.value = {};
  problem.value = "";
  focusFirst();
}, { immediate: true });

/** What nobody typed takes its default; NULL is typed as such. */
async function add(): Promise<void> {
  const typed = Object.entries(values.value).filter(([, value]) => value !== "");
  const row = { table: name.value, values: Object.fromEntries(typed.map(([column, value]) => [column, value === "NULL" ? null : value])) };
  problem.value = await props.take(row);
  if (problem.value) return;
  values.value = {};
  focusFirst();
}

function inWords(row: Schemas["AddedRow"]): string {
  return `${row.table}: ${Object.values(row.values).map((value) => value ?? "NULL").join(", ")}`;
}
</script>

<template>
  <section class="added" aria-label="Rows added for now" @keydown.stop @keydown.esc.prevent="emit('close')">
    <form ref="fields" @submit.prevent="add">
      <ElSelect v-if="tables.length > 1" v-model="name" aria-label="table of the new row" class="table">
        <ElOption v-for="one in tables" :key="one.name" :value="one.name" :label="one.name" />
      </ElSelect>
      <b v-else>{{ name }}</b>
      <label v-for="column in table?.columns ?? []" :key="`${name} ${column.name}`"><span>{{ column.name }}</span>
        <ElInput v-model="values[column.name]" spellcheck="false" autocomplete="off" :placeholder="column.not_null ? '' : 'NULL'" /></label>
      <ElButton native-type="submit" type="primary">Add row</ElButton>
    </form>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <ul v-if="added.length">
      <li v-for="(row, at) in added" :key="at"><code>{{ inWords(row) }}</code>
        <ElButton link :aria-label="`Delete the added row ${at + 1}`" @click="emit('remove', at)">Delete</ElButton></li>
    </ul>
  </section>
</template>

<style scoped>
.added {
  flex: none;
  max-height: 42%;
  padding: 10px 20px;
  border-top: 2px solid var(--line);
  background: var(--paper);
  overflow: auto;
}

form {
  display: flex;
  flex-wrap: wrap;
  align-items: end;
  gap: 6px 12px;
}

label {
  display: grid;
  flex: 1 1 5em;
  max-width: 11em;
  font-family: var(--data);
}

.added :deep(.el-input),
.added :deep(.el-select),
.added :deep(.el-button) {
  --el-component-size: 1.8em;

  height: auto;
  min-height: 1.8em;
  font-size: 1em;
}

.added :deep(.el-input__inner) {
  height: 1.6em;
  font: inherit;
  font-family: var(--data);
}

.added :deep(.el-select__wrapper) {
  min-height: 1.8em;
  font-size: 1em;
}

.table {
  width: 9em;
}

ul {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 24px;
  margin-top: 8px;
}

li {
  display: flex;
  gap: 10px;
  padding-left: 10px;
  border-left: 6px solid var(--thread);
}

code {
  font-size: 1em;
}
</style>
