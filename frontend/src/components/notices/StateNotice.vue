<script setup lang="ts">
/** What a view shows while it waits, and when the server cannot answer. */
defineProps<{ waiting: boolean; problem: Error | null }>();
defineEmits<{ again: [] }>();
</script>

<template>
  <ElAlert v-if="problem" class="notice" type="error" :closable="false" show-icon :title="problem.message">
    <ElButton @click="$emit('again')">Try again</ElButton>
  </ElAlert>
  <div v-else-if="waiting" class="notice" role="status">
    <span class="only-read-aloud">Fetching …</span>
    <ElSkeleton :rows="5" :throttle="150" animated />
  </div>
</template>

<style scoped>
.notice {
  position: relative; /* what is only read aloud stays inside */
  flex: none;
  width: auto;
  margin: 14px var(--edge);
}
</style>
