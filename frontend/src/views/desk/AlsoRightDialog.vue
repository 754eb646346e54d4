<script setup lang="ts">
import { computed, ref, watch } from "vue";

import { useAlternativeLook } from "../../api/marking";
import { counted } from "../../composables/words";
import ChangeLists from "../../answer/ChangeLists.vue";
import type { DecidingState } from "./use-deciding";

/** An answer accepted as a further alternative: what that changes, then in one step. */
const props = defineProps<{ slug: string; answer: number; deciding: DecidingState; hidesNames?: boolean }>();
const isOpen = defineModel<boolean>({ required: true });
const { data: look, error, isFetching } = useAlternativeLook(() => props.slug, () => props.answer, isOpen);
const name = ref("");
watch(look, (found) => {
  if (found && !name.value) name.value = found.name;
});
watch(isOpen, () => {
  name.value = "";
});
const { problem, isBusy, said } = props.deciding;
const isPossible = computed(() => Boolean(look.value) && !look.value?.problem && !look.value?.broken.length);

async function accept(): Promise<void> {
  const isDone = await props.deciding.attempt(() =>
    props.deciding.changes.accept.mutateAsync({ slug: props.slug, submission: props.answer, name: name.value }),
  );
  if (isDone) {
    said.value = "Accepted as an alternative; all answers are being graded anew.";
    isOpen.value = false;
  }
}
</script>

<template>
  <ElDialog v-model="isOpen" title="Accept as a further alternative" append-to-body width="min(820px, 94vw)">
    <p v-if="error || problem" class="problem" role="alert">{{ problem || error?.message }}</p>
    <p v-else-if="isFetching" role="status">Working out what would change …</p>
    <template v-else-if="look">
      <p v-if="look.problem" class="problem">{{ look.problem }}</p>
      <template v-for="one in look.broken" :key="one"><p class="problem">It contradicts {{ one }}. Change or delete the
        trial first, if the answer is right.</p></template>
      <template v-if="look.changes">
        <p>{{ counted(look.changes.gains.length, "answer") }} gain, {{ look.changes.losses.length }} lose,
          {{ look.changes.unchanged }} stay. The exercise gets a new version, and its answers are graded anew.</p>
        <ChangeLists :changes="look.changes" :hides-names="hidesNames" />
        <p class="name"><label for="alternative-name">called</label> <ElInput id="alternative-name" v-model="name" /></p>
      </template>
    </template>
    <template #footer>
      <ElButton @click="isOpen = false">Cancel</ElButton>
      <ElButton type="primary" :disabled="!isPossible || isBusy || isFetching" @click="accept">Accept answer</ElButton>
    </template>
  </ElDialog>
</template>

<style scoped>
.name {
  display: flex;
  align-items: center;
  gap: 8px;
  margin-top: 12px;
}

.name .el-input {
  width: 260px;
}
</style>
