<script setup lang="ts">
import type { UploadFile, UploadInstance } from "element-plus";
import { computed, useTemplateRef } from "vue";

/** Where files are dropped, or chosen; what they may be stands in the slot. */
const props = defineProps<{ accept: string; words: string; multiple?: boolean }>();
const emit = defineEmits<{ files: [files: File[]] }>();

const place = useTemplateRef<HTMLElement>("place");
const upload = useTemplateRef<UploadInstance>("upload");
const choosing = computed(() => (props.multiple ? "choose them" : "choose it"));
let dropped: File[] = [];

/** Files that come together are told one by one, in one go. */
function gather({ raw }: UploadFile): void {
  if (!raw) return;
  if (!dropped.length) queueMicrotask(hand);
  dropped.push(raw);
}

function hand(): void {
  const files = props.multiple ? dropped : dropped.slice(0, 1);
  dropped = [];
  upload.value?.clearFiles();
  emit("files", files);
}

defineExpose({ choose: () => place.value?.querySelector("input")?.click() });
</script>

<template>
  <div ref="place" class="zone">
    <ElUpload ref="upload" drag :auto-upload="false" :show-file-list="false" :multiple="multiple" :accept="accept" @change="gather">
      <strong>{{ words }}</strong>, or <span class="link">{{ choosing }}</span>.
    </ElUpload>
    <slot />
  </div>
</template>

<style scoped>
.zone {
  margin: 12px 0;
}

.link {
  color: var(--given);
  text-decoration: underline;
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
