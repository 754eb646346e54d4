<script setup lang="ts">
import { computed, ref } from "vue";

import type { Schemas } from "../../api/client";
import { counted, dayAndTime } from "../../composables/words";

type Line = Schemas["HistoryLine"];

/** What was run before: found again by its text or name, and kept under a name. */
const props = defineProps<{ lines: Line[]; zone?: string; withDataset?: boolean }>();
const emit = defineEmits<{ take: [line: Line]; name: [line: Line, name: string] }>();

const wanted = ref("");
const naming = ref<number>();
const name = ref("");
const found = computed(() => {
  const words = wanted.value.toLowerCase().split(/\s+/).filter(Boolean);
  const all = props.lines.filter((line) => {
    const text = `${line.name} ${line.sql}`.toLowerCase();
    return words.every((word) => text.includes(word));
  });
  // What has a name was meant to be found again.
  return [...all.filter((line) => line.name), ...all.filter((line) => !line.name)];
});

function ask(line: Line): void {
  naming.value = naming.value === line.id ? undefined : line.id;
  name.value = line.name;
}

function keep(line: Line): void {
  emit("name", line, name.value);
  naming.value = undefined;
}

function came(line: Line): string {
  const rows = line.rows === null ? "did not run" : counted(line.rows, "row");
  return [rows, props.withDataset ? line.dataset : "", dayAndTime(line.tried_at, props.zone)].filter(Boolean).join(" · ");
}
</script>

<template>
  <section class="history" aria-label="Earlier runs">
    <ElInput v-model="wanted" placeholder="Search earlier runs" aria-label="Search earlier runs" clearable />
    <ul>
      <li v-for="line in found" :key="line.id">
        <div>
          <b v-if="line.name">{{ line.name }}</b>
          <code>{{ line.sql }}</code>
          <small>{{ came(line) }}</small>
        </div>
        <ElButton @click="emit('take', line)">Edit this text</ElButton>
        <ElButton link :aria-expanded="naming === line.id" @click="ask(line)">{{ line.name ? "Rename" : "Name it" }}</ElButton>
        <form v-if="naming === line.id" @submit.prevent="keep(line)">
          <label>name <ElInput v-model="name" maxlength="80" placeholder="none: it is forgotten some day" /></label>
          <ElButton native-type="submit" type="primary">Save name</ElButton>
        </form>
      </li>
    </ul>
    <p v-if="!found.length" class="quiet">{{ lines.length ? "Nothing that was run has all of these words." : "Nothing was run yet." }}</p>
  </section>
</template>

<style scoped>
.history {
  display: grid;
  gap: 6px;
}

li {
  display: grid;
  grid-template-columns: 1fr auto auto;
  gap: 4px 12px;
  align-items: start;
  padding: 6px 0;
  border-top: 1px solid var(--line);
}

li div {
  display: grid;
  min-width: 0;
}

code {
  max-height: 4.8em;
  overflow: auto;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}

form {
  display: flex;
  grid-column: 1 / -1;
  gap: 8px;
}
</style>
