<script setup lang="ts">
import { computed, ref } from "vue";
import { useRoute } from "vue-router";

import SearchField from "./SearchField.vue";

/** Finds what is in a course by its name; outside a course there is nothing to find. */
const open = defineModel<boolean>({ required: true });
const route = useRoute();
const part = computed(() => route.meta.part as "instructor" | "learner" | undefined);
const field = ref<InstanceType<typeof SearchField>>();
</script>

<template>
  <ElDialog v-model="open" title="Search" append-to-body width="min(560px, 94vw)" top="12vh" destroy-on-close
    @opened="field?.focus()">
    <SearchField v-if="part" ref="field" :key="String(route.params.course)" :part="part" @found="open = false" />
  </ElDialog>
</template>
