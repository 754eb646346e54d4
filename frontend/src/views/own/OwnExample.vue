<script setup lang="ts">
import { computed, ref, watch } from "vue";

import type { Schemas } from "../../api/client";
import { useOwnExample, useRunOnExample } from "../../api/explanations";
import ExampleRows from "../../components/rows/ExampleRows.vue";

/** The smallest example of a wrong attempt, and what the text in the editor gives on its rows. */
const props = defineProps<{ feedback: Schemas["FeedbackView"]; text: string }>();
const emit = defineEmits<{ mended: [yes: boolean] }>();

const id = computed(() => props.feedback.attempt.id);
const { data: found, isFetching } = useOwnExample(id, () => props.feedback.example);
const run = useRunOnExample();
const ranText = ref("");
const problem = ref("");
watch(id, () => {
  run.reset();
  ranText.value = problem.value = "";
  emit("mended", false);
});

const example = computed(() => (ranText.value ? run.data.value?.example : undefined) ?? found.value?.example);
const isMended = computed(() => Boolean(ranText.value && run.data.value?.example?.agrees));
const isCurrent = computed(() => ranText.value === props.text);

async function go(): Promise<void> {
  problem.value = "";
  const text = props.text;
  try {
    const came = await run.mutateAsync({ id: id.value, sql: text });
    ranText.value = text;
    if (!came.example) problem.value = "The text does not run on these rows: Run says what is wrong with it.";
    emit("mended", Boolean(came.example?.agrees));
  } catch (refused) {
    problem.value = (refused as Error).message;
  }
}

defineExpose({ go });
</script>

<template>
  <p v-if="!example" class="quiet">{{ isFetching ? "Looking for rows that show it …" : "No few rows were found that show it." }}</p>
  <template v-else>
    <ExampleRows :example="example" :texts="[feedback.attempt.sql, text]" given="yours">
      <ElButton :type="isMended && isCurrent ? '' : 'primary'" :disabled="run.isPending.value" @click="go">Run on these rows <kbd>Alt ⏎</kbd></ElButton>
    </ExampleRows>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <p v-else-if="isMended && isCurrent" role="status"><b>The knot is gone:</b> on these rows your text gives what is due. Run it on
      the sample, then hand in.</p>
    <p v-else-if="ranText && isCurrent" class="quiet" role="status">Your text, as it is now, still differs.</p>
  </template>
</template>

<style scoped>
kbd {
  margin-left: 6px;
}
</style>
