<script setup lang="ts">
import type { Schemas } from "../../api/client";
import { counted } from "../../composables/words";
import DataTable from "../rows/DataTable.vue";
import WovenTable from "../rows/WovenTable.vue";

/** What one query gives on each engine, side by side; what differs from the first is woven. */
const props = defineProps<{ runs: Schemas["EngineRun"][] }>();

function verdict(run: Schemas["EngineRun"]): string {
  if (run.same === true) return "the same rows";
  if (run.same === false) return "not the same";
  return run.result ? counted(run.result.row_count, "row") : "no rows";
}

/** The engine that the others are held against. */
function firstLabel(): string {
  return props.runs.find((one) => one.result)?.label ?? "";
}
</script>

<template>
  <div class="engines">
    <section v-for="run in runs" :key="run.engine" :aria-label="run.label">
      <h3>{{ run.label }} <small>{{ run.version }}</small></h3>
      <p :class="{ parted: run.same === false }"><strong>{{ verdict(run) }}</strong></p>
      <p v-if="run.message" class="problem">{{ run.message }}</p>
      <div v-if="run.woven" class="rows"><WovenTable :woven="run.woven" :only-differences="false" :due="firstLabel()" :given="run.label" /></div>
      <div v-else-if="run.result" class="rows"><DataTable :result="run.result" :label="`Rows on ${run.label}`" /></div>
      <template v-if="run.why.length">
        <p class="quiet">What this text holds that the two do differently:</p>
        <ul><li v-for="one in run.why" :key="one">{{ one }}</li></ul>
      </template>
    </section>
  </div>
</template>

<style scoped>
.engines {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(230px, 1fr));
  gap: 0 16px;
}

section {
  min-width: 0;
  border-top: 1px solid var(--line-strong);
}

h3 {
  margin: 6px 0 0;
}

.rows {
  overflow: auto;
}

ul {
  margin: 4px 0;
  padding-left: 16px;
}

.parted strong {
  border-bottom: 2px solid var(--given);
}
</style>
