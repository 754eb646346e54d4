<script setup lang="ts">
import { useClipboard } from "@vueuse/core";

/** An address to be handed to somebody; a link that works once is shown once. */
defineProps<{ address: string; label: string }>();
const { copy, copied, isSupported } = useClipboard();
</script>

<template>
  <p class="once">
    <ElInput :model-value="address" :aria-label="label" readonly @focus="($event.target as HTMLInputElement).select()" />
    <ElButton v-if="isSupported" @click="copy(address)">{{ copied ? "copied" : "copy" }}</ElButton>
  </p>
</template>

<style scoped>
.once {
  display: flex;
  gap: 6px;
  margin: 6px 0;
}

.el-input {
  flex: 1;
  min-width: 0;
  font-family: var(--data);
}
</style>
