<script setup lang="ts">
import { inject, ref } from "vue";

import { LIST_OFFSET } from "./list-offset";

/** A column of a list; where it `sorts`, a press on its heading sorts by it, and another lets go. */
defineProps<{
  label: string;
  /** The heading is read aloud only. */
  unseen?: boolean;
  /** What is shown where there is no slot, and what the list says that it is sorted by. */
  prop?: string;
  className?: string;
  sorts?: "rising" | "falling";
}>();
/** `$index` is the place in the whole list. */
defineSlots<{ default?(its: { row: never; $index: number }): unknown }>();

const offset = inject(LIST_OFFSET, ref(0));

function leave(event: MouseEvent): void {
  // Pressed with a pointer it does not keep the keys: Enter opens what is chosen in the list.
  if (event.detail && event.currentTarget instanceof HTMLElement) event.currentTarget.blur();
}
</script>

<template>
  <ElTableColumn :prop="prop" :class-name="className" :sortable="sorts ? 'custom' : false"
    :sort-orders="[sorts === 'falling' ? 'descending' : 'ascending', null]">
    <template #header>
      <ElButton v-if="sorts" link class="sort" @click="leave">{{ label }}</ElButton>
      <span v-else :class="{ 'only-read-aloud': unseen }">{{ label }}</span>
    </template>
    <!-- The table looks once, without a row, whether there are columns within the column. -->
    <template v-if="$slots.default" #default="its">
      <slot v-if="its.$index >= 0" v-bind="{ row: its.row as never, $index: its.$index + offset }" />
    </template>
  </ElTableColumn>
</template>
