<script setup lang="ts">
import { computed } from "vue";

import { type Cell, shownCell, withPlaces } from "./cells";

/* Not typed as a cell: a prop that may be a boolean would have Vue turn empty text into true. */
const props = defineProps<{
  value: unknown;
  /** The places after the point that its column declares; a number with more is shown as it is. */
  places?: number | undefined;
}>();
const LENGTH = new Intl.NumberFormat("en-GB");
const cell = computed(() => withPlaces(shownCell(props.value as Cell), props.places));
</script>

<template>
  <span v-if="cell.kind === 'null'" class="null">NULL</span>
  <span v-else-if="cell.kind === 'empty'" class="empty" data-hint="empty text">empty</span>
  <span v-else-if="cell.kind === 'boolean'" class="truth">{{ cell.text }}</span>
  <span v-else class="value"><span v-if="cell.before" class="blank" data-hint="blank">{{
    "·".repeat(cell.before) }}</span>{{ cell.text }}<span v-if="cell.after" class="blank"
      data-hint="blank at the end">{{ "·".repeat(cell.after) }}</span><span v-if="cell.length" class="rest"> … {{
    LENGTH.format(cell.length) }} {{ cell.kind === "binary" ? "bytes" : "characters" }} in all</span></span>
</template>

<style scoped>
.null {
  padding: 1px 6px;
  border-radius: 8px;
  background: repeating-linear-gradient(90deg, var(--line-soft) 0 2px, transparent 2px 4px);
  color: var(--ink-2);
  font: 600 10px var(--ui);
  letter-spacing: 0.6px;
}

.empty {
  padding: 0 4px;
  border: 1px dotted var(--ink-3);
  color: var(--ink-3);
  font: italic 11px var(--ui);
}

.truth {
  font-style: italic;
}

.value {
  white-space: pre-wrap;
}

.rest {
  color: var(--ink-3);
  font: italic 11px var(--ui);
}

.blank {
  color: var(--stop);
  font-weight: 700;
}
</style>
