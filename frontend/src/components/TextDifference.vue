<script setup lang="ts">
import type { Schemas } from "../api/client";

/** What differs in the parts of an exercise: lines of both sides woven, as rows are. */
withDefaults(
  defineProps<{ parts: Schemas["FileDifference"][]; before?: string; after?: string }>(),
  { before: "before", after: "after" },
);

const PART_WORDS: Record<string, string> = {
  "exercise.yaml": "title, sample, points, rules",
  "prompt.md": "prompt",
  "reference.sql": "reference answer",
};

function partWords(part: string): string {
  const [folder, file] = part.split("/");
  if (!file) return PART_WORDS[part] ?? part;
  return `${folder === "trials" ? "trial" : "also right"}: ${file.replace(/\.sql$/, "")}`;
}
</script>

<template>
  <section v-for="part in parts" :key="part.part" class="part">
    <h3>{{ partWords(part.part) }}</h3>
    <ol>
      <li v-for="(line, at) in part.lines" :key="at" :class="line.kind">
        <span class="side">{{ line.kind === "before" ? before : line.kind === "after" ? after : "" }}</span>
        <code v-if="line.kind !== 'left_out'">{{ line.text || " " }}</code>
        <small v-else>{{ line.text }}</small>
      </li>
    </ol>
  </section>
  <p v-if="!parts.length" class="quiet">Nothing differs.</p>
</template>

<style scoped>
.part + .part {
  margin-top: 14px;
}

ol {
  margin-top: 4px;
  border: 1px solid var(--line);
  background: var(--paper);
}

li {
  display: grid;
  grid-template-columns: 58px 1fr;
  gap: 8px;
  padding: 0 8px;
  border-left: 3px solid transparent;
}

code {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  font-size: 12.5px;
  line-height: 1.6;
}

.side {
  align-self: center;
  color: var(--ink-3);
  font-size: var(--size-0);
}

.before {
  border-left-color: var(--due);
  background: var(--due-wash);
}

.after {
  border-left-color: var(--given);
  background: var(--given-wash);
}

.before .side {
  color: var(--due);
}

.after .side {
  color: var(--given);
}
</style>
