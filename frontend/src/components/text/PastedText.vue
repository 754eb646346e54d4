<script setup lang="ts">
import { ref } from "vue";

/** Text that is pasted instead of a file: it is read as the file that it would be. */
const props = defineProps<{ label: string; hint: string; nameOf: (text: string) => string }>();
const emit = defineEmits<{ file: [file: File] }>();
const text = ref("");

function read(): void {
  if (text.value.trim()) emit("file", new File([text.value], props.nameOf(text.value)));
}
</script>

<template>
  <form class="pasted" @submit.prevent="read">
    <ElInput v-model="text" type="textarea" :rows="6" :aria-label="label" :placeholder="hint" spellcheck="false"
      @keydown.ctrl.enter.stop.prevent="read" @keydown.meta.enter.stop.prevent="read" />
    <ElButton native-type="submit" :disabled="!text.trim()">Read this text</ElButton>
  </form>
</template>

<style scoped>
.pasted {
  display: grid;
  justify-items: start;
  gap: 8px;
}

.pasted :deep(textarea) {
  font-family: var(--data);
  font-size: var(--size-1);
}
</style>
