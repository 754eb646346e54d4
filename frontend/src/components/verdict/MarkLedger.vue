<script setup lang="ts">
import type { Schemas } from "../../api/client";

/** What earned or cost points, line by line. */
defineProps<{ lines: Schemas["LedgerLine"][] }>();

function amount(line: Schemas["LedgerLine"]): string {
  const points = `${line.points < 0 ? "−" : ""}${Math.abs(line.points)}`;
  return line.possible === null ? points : `${points} of ${line.possible}`;
}
</script>

<template>
  <table class="ledger" aria-label="Ledger">
    <tbody>
      <tr v-for="(line, at) in lines" :key="at">
        <td>{{ line.message }}</td>
        <td class="number">{{ amount(line) }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.ledger {
  width: 100%;
  margin: 4px 0 6px;
  border-collapse: collapse;
}

td {
  padding: 2px 6px 2px 0;
  border-top: 1px solid var(--line-soft);
}

.number {
  text-align: right;
  white-space: nowrap;
}
</style>
