<script setup lang="ts">
import { useExerciseChanges } from "../api/exercises";
import { useRegradePreview } from "../api/marking";
import { useAttempt } from "../composables/use-attempt";
import { counted } from "../composables/words";
import ChangeLists from "./ChangeLists.vue";

/** What grading all answers anew would change, before anything is changed. */
const props = defineProps<{ slug: string; hidesNames?: boolean }>();
const isOpen = defineModel<boolean>({ required: true });
const { preview, error, isDone, isStopped } = useRegradePreview(() => props.slug, isOpen);
const { regrade } = useExerciseChanges();
const { problem, isBusy, attempt } = useAttempt();

async function apply(): Promise<void> {
  if (await attempt(() => regrade.mutateAsync(props.slug))) isOpen.value = false;
}
</script>

<template>
  <ElDialog v-model="isOpen" title="Grade all answers anew" append-to-body width="min(820px, 94vw)">
    <p v-if="error || problem" class="problem" role="alert">{{ problem || error?.message }}</p>
    <p v-else-if="!preview" role="status">Working out what would change …</p>
    <template v-else>
      <p v-if="preview.problem" class="problem">{{ preview.problem }}</p>
      <template v-else>
        <div v-if="!isDone" class="far" role="status">
          <ElProgress :percentage="Math.floor((100 * preview.done) / Math.max(preview.total, 1))" :aria-label="`${preview.done} of ${preview.total} looked at`" />
          <span>{{ preview.done.toLocaleString("en") }} of {{ counted(preview.total, "answer") }} looked at</span>
          <ElButton v-if="isStopped" link @click="isStopped = false">Continue</ElButton>
          <ElButton v-else link @click="isStopped = true">Stop</ElButton>
        </div>
        <p>{{ preview.unchanged }} of {{ counted(isDone ? preview.total : preview.done, "answer") }} stay as they are.
          {{ preview.gains.length }} gain, {{ preview.losses.length }} lose. Marks that were decided by hand stay.</p>
        <ChangeLists :changes="preview" :hides-names="hidesNames" />
      </template>
    </template>
    <template #footer>
      <ElButton @click="isOpen = false">Cancel</ElButton>
      <ElButton type="primary" :disabled="isBusy || !preview || !(isDone || isStopped) || Boolean(preview.problem)" @click="apply">Regrade {{
        preview ? counted(preview.total, "answer") : "" }}</ElButton>
    </template>
  </ElDialog>
</template>

<style scoped>
.far {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 12px;
  margin-bottom: 8px;
}

.far :deep(.el-progress) {
  flex: 1 1 200px;
}
</style>
