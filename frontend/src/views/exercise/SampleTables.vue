<script setup lang="ts">
import { computed } from "vue";

import { useDataset, useSample } from "../../api/samples";
import TableRows from "./TableRows.vue";

/** The tables of the exercise's sample with their first rows. */
const props = defineProps<{ sample: string }>();
const { data } = useSample(() => props.sample);
const name = computed(() => ({ sample: props.sample, dataset: "open" }));
const { data: dataset } = useDataset(name);
</script>

<template>
  <div class="tables" tabindex="0">
    <p><RouterLink :to="{ name: 'sample', params: { sample } }">Open the sample bench</RouterLink></p>
    <TableRows v-for="table in data?.tables ?? []" :key="table.name" :name="name" :table="table"
      :version="dataset?.version" />
  </div>
</template>

<style scoped>
.tables {
  flex: 1;
  min-height: 0;
  overflow: auto;
}
</style>
