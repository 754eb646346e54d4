<script setup lang="ts">
import type { Schemas } from "../api/client";
import ChangeList from "./ChangeList.vue";

/** All that grading anew would change, by what it means for a mark. */
defineProps<{ changes: Schemas["RegradePreview"]; hidesNames?: boolean }>();
</script>

<template>
  <div class="lists">
    <ChangeList :hides-names="hidesNames" title="Gain" :changes="changes.gains" />
    <ChangeList :hides-names="hidesNames" title="Lose" :changes="changes.losses" />
    <ChangeList :hides-names="hidesNames" title="Another verdict, the same mark" :changes="changes.same_mark" />
    <ChangeList :hides-names="hidesNames" title="Decided by hand, and contradicted by the new result" :changes="changes.kept" kept />
  </div>
</template>

<style scoped>
.lists {
  max-height: 50vh;
  overflow: auto;
}
</style>
