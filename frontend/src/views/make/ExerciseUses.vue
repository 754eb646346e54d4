<script setup lang="ts">
import type { Schemas } from "../../api/client";
import { counted } from "../../composables/words";

/** The exercises that use what a change of tables renames, retypes or drops; undefined while that is looked for. */
defineProps<{ uses: Schemas["ExerciseUse"][] | undefined }>();
</script>

<template>
  <div class="uses" role="status">
    <p v-if="!uses" class="quiet">Looking which exercises use what is changed …</p>
    <p v-else-if="!uses.length">No exercise uses a column that is renamed, retyped or dropped.</p>
    <template v-else>
      <h3>{{ counted(uses.length, "exercise") }} {{ uses.length === 1 ? "uses" : "use" }} what is renamed, retyped or dropped</h3>
      <ul>
        <li v-for="one in uses" :key="one.exercise">
          <RouterLink :to="{ name: 'exercise', params: { slug: one.exercise } }" target="_blank">{{ one.title }}</RouterLink>
          <code v-for="use in one.uses" :key="use">{{ use }}</code>
        </li>
      </ul>
    </template>
  </div>
</template>

<style scoped>
.uses {
  margin: 12px 0 8px;
}

li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  padding: 2px 0;
}
</style>
