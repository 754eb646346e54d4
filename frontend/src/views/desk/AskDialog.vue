<script setup lang="ts">
import { ref, watch } from "vue";

import type { DecidingState } from "./use-deciding";

/** A question to a colleague about the group in view: it stands there until it is answered. */
const props = defineProps<{ slug: string; answer: number; deciding: DecidingState }>();
const isOpen = defineModel<boolean>({ required: true });
const text = ref("");
const { problem, isBusy, said } = props.deciding;
watch(isOpen, () => {
  problem.value = "";
});

async function ask(): Promise<void> {
  const isDone = await props.deciding.attempt(() =>
    props.deciding.changes.ask.mutateAsync({ slug: props.slug, submission: props.answer, text: text.value }),
  );
  if (!isDone) return;
  text.value = "";
  said.value = "Asked: the question stands at this group until somebody answers it.";
  isOpen.value = false;
}
</script>

<template>
  <ElDialog v-model="isOpen" title="Ask a colleague" append-to-body width="min(460px, 94vw)">
    <ElInput v-model="text" type="textarea" :rows="4" aria-label="Question"
      placeholder="What do you want to know about this group? Every instructor of the course sees it." />
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <template #footer>
      <ElButton @click="isOpen = false">Cancel</ElButton>
      <ElButton type="primary" :disabled="!text.trim() || isBusy" @click="ask">Ask question</ElButton>
    </template>
  </ElDialog>
</template>
