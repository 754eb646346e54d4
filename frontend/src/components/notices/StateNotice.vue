<script setup lang="ts">
import { usePageTitle } from "../../composables/use-page-title";

/**
 * What a view shows while it waits, and when the server cannot answer.
 *
 * Where nothing else stands on the page yet, it is `alone`: the page's main part, with its heading.
 */
defineProps<{ waiting: boolean; problem: Error | null; alone?: boolean }>();
defineEmits<{ again: [] }>();
const title = usePageTitle();
</script>

<template>
  <component :is="alone ? 'main' : 'div'" v-if="problem || waiting" class="notice">
    <h1 v-if="alone" class="only-read-aloud">{{ title }}</h1>
    <ElAlert v-if="problem" type="error" :closable="false" :title="problem.message">
      <ElButton @click="$emit('again')">Try again</ElButton>
    </ElAlert>
    <div v-else role="status">
      <span class="only-read-aloud">Fetching …</span>
      <ElSkeleton :rows="5" :throttle="150" animated />
    </div>
  </component>
</template>

<style scoped>
.notice {
  position: relative; /* what is only read aloud stays inside */
  flex: none;
  width: auto;
  margin: 14px var(--edge);
}
</style>
