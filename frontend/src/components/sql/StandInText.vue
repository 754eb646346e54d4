<script setup lang="ts">
import SqlText from "./SqlText.vue";

/** What runs in place of a text whose engine cannot run here, and what is doubtful of it. */
defineProps<{ sql: string; doubts: string[] }>();
</script>

<template>
  <div v-if="sql || doubts.length">
    <ul v-if="doubts.length" class="doubts">
      <li v-for="doubt in doubts" :key="doubt">{{ doubt }}</li>
    </ul>
    <details v-if="sql">
      <summary>What the stand-in runs</summary>
      <SqlText :sql="sql" engine="duckdb" />
    </details>
  </div>
</template>

<style scoped>
.doubts {
  margin: 12px 0 6px;
  padding: 2px 8px;
  border-left: 3px solid var(--due);
  list-style: none;
}

details {
  margin: 12px 0 8px;
}
</style>
