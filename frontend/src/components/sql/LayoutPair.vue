<script setup lang="ts">
import type { Schemas } from "../../api/client";
import { counted } from "../../composables/words";
import SqlText from "./SqlText.vue";

/** A text as it is and as it could be, side by side. */
defineProps<{ sql: string; layout: Schemas["Layout"] }>();
const emit = defineEmits<{ take: [] }>();
</script>

<template>
  <section class="layout" aria-label="Layout">
    <p class="head">
      <strong>Layout</strong>
      <span class="quiet">{{ counted(layout.changes.length, "place") }} could be laid out otherwise; the
        meaning stays</span>
      <ElButton @click="emit('take')">lay it out</ElButton>
    </p>
    <div class="pair">
      <figure>
        <figcaption class="quiet">as it is</figcaption>
        <SqlText :sql="sql" />
      </figure>
      <figure>
        <figcaption class="quiet">as it could be</figcaption>
        <SqlText :sql="layout.text" />
      </figure>
    </div>
    <ul>
      <li v-for="(change, at) in layout.changes.slice(0, 6)" :key="at">
        <small>line {{ change.place.line }}</small> {{ change.message }}
      </li>
      <li v-if="layout.changes.length > 6"><small>and {{ layout.changes.length - 6 }} more</small></li>
    </ul>
  </section>
</template>

<style scoped>
.layout {
  margin: 12px 0;
}

.head {
  display: flex;
  align-items: center;
  gap: 12px;
}

.head .el-button {
  margin-left: auto;
}

.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
  margin: 4px 0;
}

ul {
  columns: 2;
}
</style>
