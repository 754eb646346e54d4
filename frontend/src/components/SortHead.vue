<script setup lang="ts" generic="Sort extends string">
/** The heading of a column that a list can be sorted by; pressed again, the list has its own order. */
const props = defineProps<{ by: Sort; descending?: boolean }>();
const sort = defineModel<Sort>({ required: true });

function turn(event: MouseEvent): void {
  sort.value = (sort.value === props.by ? "" : props.by) as Sort;
  // Pressed with a pointer it does not keep the keys: Enter opens what is chosen in the list.
  if (event.detail && event.currentTarget instanceof HTMLElement) event.currentTarget.blur();
}
</script>

<template>
  <th scope="col" :aria-sort="sort === by ? (descending ? 'descending' : 'ascending') : undefined">
    <ElButton link class="sort" :class="{ sorted: sort === by }" @click="turn">
      <slot /><i v-if="sort === by" aria-hidden="true">{{ descending ? "▾" : "▴" }}</i>
    </ElButton>
  </th>
</template>

<style scoped>
.sort.el-button {
  color: var(--ink-2);
  font-weight: 600;
  text-decoration: none;
}

.sort.el-button:hover {
  text-decoration: underline;
}

.sorted.el-button {
  color: var(--ink);
}

i {
  margin-left: 4px;
  font-style: normal;
}
</style>
