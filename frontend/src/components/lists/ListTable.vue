<script setup lang="ts" generic="Row extends object">
import { computed, nextTick, provide, ref, toRaw, useTemplateRef, watch } from "vue";

import { LIST_OFFSET } from "./list-offset";

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
  /** All of it is drawn at once, however long: its lines can be dragged, say. */
  whole?: boolean;
  /** The columns that have what is largest first when they are sorted by. */
  falling?: readonly string[];
}>();
/** The column that it is sorted by, by its `prop`; empty where it has its own order. */
const sort = defineModel<string>("sort", { default: "" });
const emit = defineEmits<{ choose: [at: number]; open: [row: Row] }>();
const table = useTemplateRef<{ sort(prop: string, order: string): void; clearSort(): void }>("table");

const order = computed(() => (props.falling?.includes(sort.value) ? "descending" : "ascending"));

/** What is long is drawn a page at a time: an arrow key must not wait for hundreds of rows. */
const PAGE = 50;
const page = ref(1);
const isPaged = computed(() => !props.whole && props.rows.length > PAGE);
const offset = computed(() => (isPaged.value ? (page.value - 1) * PAGE : 0));
const drawn = computed(() => (isPaged.value ? props.rows.slice(offset.value, offset.value + PAGE) : props.rows));
provide(LIST_OFFSET, offset);
watch(
  () => [props.chosen ?? -1, props.rows.length] as const,
  ([at, length]) => {
    if (at >= 0) page.value = Math.floor(at / PAGE) + 1;
    else page.value = Math.min(page.value, Math.max(1, Math.ceil(length / PAGE)));
  },
  { immediate: true },
);

function classes({ row, rowIndex }: { row: Row; rowIndex: number }): string {
  return [rowIndex + offset.value === props.chosen ? "chosen" : "", props.classOf?.(row) ?? ""].join(" ");
}

/** The table has made its rows reactive: they are not the very same objects. */
function placeOf(row: Row): number {
  return props.rows.findIndex((one) => toRaw(one) === toRaw(row));
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
  <div>
    <ElTable ref="table" :data="drawn" :row-key="by" table-layout="auto" class="listing" :class="{ untitled }"
      :row-class-name="classes" :default-sort="sort ? { prop: sort, order } : undefined"
      @row-click="(row: Row) => emit('choose', placeOf(row))" @row-dblclick="(row: Row) => emit('open', row)"
      @sort-change="turn">
      <slot />
    </ElTable>
    <ElPagination v-if="isPaged" v-model:current-page="page" class="pages" layout="prev, pager, next"
      :page-size="PAGE" :total="rows.length" />
  </div>
</template>

<style scoped>
.pages {
  margin-top: 8px;
}
</style>
