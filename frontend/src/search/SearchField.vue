<script setup lang="ts">
import { until } from "@vueuse/core";
import { ref, useTemplateRef } from "vue";
import { useRouter } from "vue-router";

import { foundPlaces, type Place, useOwnPlaces, useTaughtPlaces } from "./places";

const props = defineProps<{ part: "instructor" | "learner" }>();
const emit = defineEmits<{ found: [] }>();

const router = useRouter();
const { places, isComing } = props.part === "instructor" ? useTaughtPlaces() : useOwnPlaces();
const wanted = ref("");
const field = useTemplateRef<{ focus(): void }>("field");

async function find(words: string, show: (found: Place[]) => void): Promise<void> {
  if (isComing.value) await until(isComing).toBe(false);
  show(foundPlaces(places, words));
}

async function go(place: Place): Promise<void> {
  emit("found");
  await router.push(place.to);
}

defineExpose({ focus: () => field.value?.focus() });
</script>

<template>
  <ElAutocomplete ref="field" v-model="wanted" class="search" popper-class="found-places" value-key="name"
    :placeholder="part === 'instructor' ? 'A sample, table, exercise, sheet, learner or page' : 'An exercise or a page'"
    aria-label="Search by name" highlight-first-item :debounce="0" :fetch-suggestions="find as never"
    @select="go($event as Place)">
    <template #default="{ item }">
      <span class="kind">{{ item.kind }}</span> {{ item.name }} <small>{{ item.under }}</small>
    </template>
  </ElAutocomplete>
</template>

<style>
.search {
  width: 100%;
}

.found-places .kind {
  display: inline-block;
  width: 66px;
  color: var(--ink-3);
  font-size: var(--size-0);
}

.found-places small {
  margin-left: 8px;
}
</style>
