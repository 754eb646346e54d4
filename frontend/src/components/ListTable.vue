<script setup lang="ts" generic="Row extends object">
import { computed, nextTick, useTemplateRef, watch } from "vue";

/** A list: a line each, of which one may be chosen. Its columns are the slot's. */
const props = defineProps<{
  rows: Row[];
  /** What tells the rows apart; without it their places do. */
  by?: (keyof Row & string) | ((row: Row) => string);
  /** The place of the row that is chosen. */
  chosen?: number;
  classOf?: (row: Row) => string;
  /** The columns' names are read aloud only. */
  untitled?: boolean;
  /** The columns that have what is largest first when they are sorted by. */
  falling?: readonly string[];
}>();
/** The column that it is sorted by, by its `prop`; empty where it has its own order. */
const sort = defineModel<string>("sort", { default: "" });
const emit = defineEmits<{ choose: [at: number]; open: [row: Row] }>();
const table = useTemplateRef<{ sort(prop: string, order: string): void; clearSort(): void }>("table");

const order = computed(() => (props.falling?.includes(sort.value) ? "descending" : "ascending"));

function classes({ row, rowIndex }: { row: Row; rowIndex: number }): string {
  return [rowIndex === props.chosen ? "chosen" : "", props.classOf?.(row) ?? ""].join(" ");
}

function turn(to: { prop?: string | null; order: string | null }): void {
  sort.value = to.order ? (to.prop ?? "") : "";
}

// The order may come from elsewhere: from the address, say.
watch(sort, async () => {
  await nextTick();
  if (sort.value) table.value?.sort(sort.value, order.value);
  else table.value?.clearSort();
});
</script>

<template>
  <ElTable ref="table" :data="rows" :row-key="by" table-layout="auto" class="listing" :class="{ untitled }"
    :row-class-name="classes" :default-sort="sort ? { prop: sort, order } : undefined"
    @row-click="(row: Row) => emit('choose', rows.indexOf(row))" @row-dblclick="(row: Row) => emit('open', row)"
    @sort-change="turn">
    <slot />
  </ElTable>
</template>
