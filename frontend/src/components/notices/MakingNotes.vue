<script setup lang="ts">
import { computed, ref } from "vue";
import type { Schemas } from "../../api/client";
import { counted } from "../../composables/words";

/** What was left out when a sample was made, or is to be known; what is of no effect only on demand. */
const props = defineProps<{ notes: Schemas["Note"][]; heading: string }>();

const seesAll = ref(false);
const lost = computed(() => props.notes.filter((note) => note.is_lost));
const rest = computed(() => props.notes.filter((note) => !note.is_lost));
const lists = computed(() => [lost.value, seesAll.value ? rest.value : []]);
</script>

<template>
  <div class="making-notes">
    <h3>{{ lost.length ? heading : "All tables and rows were read" }}</h3>
    <template v-for="(list, part) in lists" :key="part">
      <p v-if="part && rest.length" class="more">
        <ElButton link :aria-expanded="seesAll" @click="seesAll = !seesAll">{{ seesAll ? "Hide" : "Show" }}
          {{ counted(rest.length, "thing") }} of no effect here</ElButton>
      </p>
      <ul v-if="list.length">
        <li v-for="(note, at) in list" :key="at">
          <small>{{ note.line ? `line ${note.line}` : "" }}</small>
          <span><code v-if="note.text">{{ note.text }}</code> {{ note.why }}</span>
        </li>
      </ul>
    </template>
  </div>
</template>

<style scoped>
h3 {
  margin: 16px 0 4px;
}

li {
  display: grid;
  grid-template-columns: 60px minmax(0, 1fr);
  gap: 8px;
  padding: 3px 0;
  border-top: 1px solid var(--line-soft);
  overflow-wrap: anywhere;
}

.more {
  margin: 6px 0;
}
</style>
