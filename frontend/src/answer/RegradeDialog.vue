<script setup lang="ts">
import { useExerciseChanges } from "../api/exercises";
import { useRegradePreview } from "../api/marking";
import { useAttempt } from "../composables/use-attempt";
import { counted } from "../composables/words";
import ChangeLists from "./ChangeLists.vue";

/** What grading all answers anew would change, before anything is changed. */
const props = defineProps<{ slug: string; hidesNames?: boolean }>();
const isOpen = defineModel<boolean>({ required: true });
const { data: preview, error, isFetching } = useRegradePreview(() => props.slug, isOpen);
const { regrade } = useExerciseChanges();
const { problem, isBusy, attempt } = useAttempt();

async function apply(): Promise<void> {
  if (await attempt(() => regrade.mutateAsync(props.slug))) isOpen.value = false;
}
</script>

<template>
  <ElDialog v-model="isOpen" title="Grade all answers anew" append-to-body width="min(820px, 94vw)">
    <p v-if="error || problem" class="problem" role="alert">{{ problem || error?.message }}</p>
    <p v-else-if="isFetching" role="status">Working out what would change …</p>
    <template v-else-if="preview">
      <p v-if="preview.problem" class="problem">{{ preview.problem }}</p>
      <template v-else>
        <p>{{ preview.unchanged }} of {{ counted(preview.total, "answer") }} stay as they are.
          {{ preview.gains.length }} gain, {{ preview.losses.length }} lose. Marks that were decided by hand stay.</p>
        <ChangeLists :changes="preview" :hides-names="hidesNames" />
      </template>
    </template>
    <template #footer>
      <ElButton @click="isOpen = false">Cancel</ElButton>
      <ElButton type="primary" :disabled="isBusy || isFetching || !preview || Boolean(preview.problem)" @click="apply">Regrade {{
        preview ? counted(preview.total, "answer") : "" }}</ElButton>
    </template>
  </ElDialog>
</template>
