<script setup lang="ts">
import { useDropZone, useFileDialog } from "@vueuse/core";
import { useTemplateRef } from "vue";

/** Where files are dropped, or chosen; what they may be stands in the slot. */
const props = defineProps<{ accept: string; words: string; multiple?: boolean }>();
const emit = defineEmits<{ files: [files: File[]] }>();

const zone = useTemplateRef<HTMLElement>("zone");
const { isOverDropZone } = useDropZone(zone, (files) => hand(files ?? []));
const { open, onChange } = useFileDialog({
  multiple: props.multiple, reset: true, accept: props.accept,
});
onChange((files) => hand([...(files ?? [])]));

function hand(files: File[]): void {
  if (files.length) emit("files", props.multiple ? files : files.slice(0, 1));
}

defineExpose({ choose: () => open() });
</script>

<template>
  <div ref="zone" class="zone" :class="{ over: isOverDropZone }">
    <p><strong>{{ words }}</strong>, or
      <ElButton link @click="open()">choose {{ multiple ? "them" : "it" }}</ElButton>.</p>
    <slot />
  </div>
</template>

<style scoped>
.zone {
  margin: 12px 0;
  padding: 14px;
  border: 1px dashed var(--ink-3);
}

.zone.over {
  border-style: solid;
  border-color: var(--given);
  background: var(--given-wash);
}
</style>

<!-- Not scoped: what stands in the slot belongs to the view. -->
<style>
.zone dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 4px 12px;
  margin-top: 10px;
}

.zone dt {
  font-family: var(--data);
  white-space: nowrap;
}

.zone dd {
  color: var(--ink-2);
}
</style>
