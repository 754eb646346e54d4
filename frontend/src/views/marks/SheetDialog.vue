<script setup lang="ts">
import { computed, ref } from "vue";

import type { Schemas } from "../../api/client";
import { useSheets } from "../../api/exercises";
import { useDeskChanges } from "../../api/marking";
import { useAttempt } from "../../composables/use-attempt";
import { counted } from "../../composables/words";

/** Where answers that are on no sheet belong. */
const props = defineProps<{ need: Schemas["Need"] }>();
const emit = defineEmits<{ close: [] }>();
const { data: sheets, isPending } = useSheets();
const { putOnSheet } = useDeskChanges();
const { problem, isBusy, attempt } = useAttempt();

const having = computed(() =>
  (sheets.value ?? []).filter((one) => one.entries.some((each) => each.slug === props.need.exercise)),
);
const chosen = ref("");

async function put(): Promise<void> {
  if (await attempt(() => putOnSheet.mutateAsync({ slug: props.need.exercise, sheet: chosen.value }))) emit("close");
}
</script>

<template>
  <ElDialog :model-value="true" :title="`${counted(need.count, 'answer')} on no sheet`" append-to-body width="min(460px, 94vw)" @close="emit('close')">
    <p v-if="isPending" role="status">Looking at the sheets …</p>
    <template v-else-if="having.length">
      <p>Marks are given on sheets. {{ need.title }} is on {{ counted(having.length, "sheet") }}: the answers count on the
        one that they belong to, late where it had closed before.</p>
      <ElRadioGroup v-model="chosen" class="sheets" aria-label="Sheet">
        <ElRadio v-for="one in having" :key="one.slug" :value="one.slug">{{ one.title }}</ElRadio>
      </ElRadioGroup>
    </template>
    <p v-else>Marks are given on sheets, and {{ need.title }} is on none. Add it to a sheet: its answers are on that sheet
      from then on. <RouterLink :to="{ name: 'sheets' }">Open the sheets</RouterLink></p>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <template #footer>
      <ElButton @click="emit('close')">Cancel</ElButton>
      <ElButton v-if="having.length" type="primary" :disabled="isBusy || !chosen" @click="put">Put on the sheet</ElButton>
    </template>
  </ElDialog>
</template>

<style scoped>
.sheets {
  display: grid;
  justify-items: start;
  margin-top: 8px;
}
</style>
