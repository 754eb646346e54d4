<script setup lang="ts">
import type { Schemas } from "../../api/client";
import TextMerge from "./TextMerge.vue";

/** What differs in the parts of an exercise, part by part. */
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
    <TextMerge :label="partWords(part.part)" :first="part.before" :second="part.after" :before="before" :after="after"
      :is-sql="part.part.endsWith('.sql')" />
  </section>
  <p v-if="!parts.length" class="quiet">Nothing differs.</p>
</template>

<style scoped>
.part + .part {
  margin-top: 14px;
}

h3 {
  margin-bottom: 4px;
}
</style>
