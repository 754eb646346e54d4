<script setup lang="ts">
import DOMPurify from "dompurify";
import MarkdownIt from "markdown-it";
import { computed } from "vue";

const props = defineProps<{ text: string }>();
const markdown = new MarkdownIt({ linkify: true });
const html = computed(() => DOMPurify.sanitize(markdown.render(props.text)));
</script>

<template>
  <!-- eslint-disable-next-line vue/no-v-html -- made safe by DOMPurify above -->
  <div class="prose" v-html="html" />
</template>

<style scoped>
.prose {
  padding-left: 12px;
  border-left: 2px solid var(--line);
  font-size: var(--size-2);
  line-height: 1.5;
}

.prose :deep(p + p) {
  margin-top: 8px;
}

.prose :deep(code) {
  font-family: var(--data);
  font-size: 0.92em;
}
</style>
