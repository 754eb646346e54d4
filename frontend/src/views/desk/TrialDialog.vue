<script setup lang="ts">
import { ref, watch } from "vue";

import type { Verdict } from "../../api/exercises";
import { VERDICT_WORDS } from "../../composables/words";
import type { DecidingState } from "./use-deciding";

/** An answer made a trial of its exercise, with the verdict that it ought to get. */
const props = defineProps<{ slug: string; answer: number; verdict: string; deciding: DecidingState }>();
const isOpen = defineModel<boolean>({ required: true });
const VERDICTS: Verdict[] = ["correct", "incorrect", "error", "refused", "stopped"];
const name = ref("");
const expected = ref<Verdict>("incorrect");
const { problem, isBusy, said } = props.deciding;
watch(isOpen, () => {
  name.value = "";
  expected.value = VERDICTS.find((one) => one === props.verdict) ?? "incorrect";
});

async function make(): Promise<void> {
  const isDone = await props.deciding.attempt(() =>
    props.deciding.changes.tryIt.mutateAsync({
      slug: props.slug, submission: props.answer, name: name.value, expected: expected.value,
    }),
  );
  if (isDone) {
    said.value = "It is a trial of the exercise now.";
    isOpen.value = false;
  }
}
</script>

<template>
  <ElDialog v-model="isOpen" title="Make a trial of this answer" append-to-body width="min(420px, 94vw)">
    <p class="quiet">It runs again whenever the rows, the reference or the rules change, and tells when it comes out
      otherwise.</p>
    <form class="form" @submit.prevent="make">
      <label>called <ElInput v-model="name" placeholder="such as no-outer-join" /></label>
      <label>ought to be <ElSelect v-model="expected" aria-label="ought to be">
        <ElOption v-for="one in VERDICTS" :key="one" :value="one" :label="VERDICT_WORDS[one] ?? one" />
      </ElSelect></label>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    </form>
    <template #footer>
      <ElButton @click="isOpen = false">Cancel</ElButton>
      <ElButton type="primary" :disabled="!name.trim() || isBusy" @click="make">Make a trial</ElButton>
    </template>
  </ElDialog>
</template>
