<script setup lang="ts" generic="Version extends { number: number; summary: string }">
/** The versions of something, the last first: one chosen, and one that it is compared with. */
defineProps<{ versions: readonly Version[] | undefined; against: number }>();
const chosen = defineModel<number>({ required: true });
defineSlots<{
  /** Who kept a version, and when. */
  default(its: { version: Version }): unknown;
}>();
</script>

<template>
  <ol aria-label="Versions">
    <li v-for="one in versions" :key="one.number" :class="{ chosen: one.number === chosen, against: one.number === against }">
      <ElButton class="bare" :aria-current="one.number === chosen" @click="chosen = one.number">
        <b>{{ one.number }}</b>
        <span>{{ one.summary }}<small><slot :version="one" /></small></span>
      </ElButton>
    </li>
  </ol>
</template>

<style scoped>
button {
  display: grid;
  grid-template-columns: 26px 1fr;
  gap: 6px;
  width: 100%;
  padding: 5px 6px 5px 0;
  border-top: 1px solid var(--line-soft);
  overflow-wrap: anywhere;
}

b {
  text-align: right;
}

small {
  display: block;
}

.against button {
  box-shadow: inset 3px 0 var(--due);
}

.chosen button {
  background: var(--paper);
  box-shadow: inset 3px 0 var(--given);
}
</style>
