<script setup lang="ts">
import { computed, ref, watch } from "vue";

import { useFeedbackPages, useMarksChanges } from "../../api/marking";
import ConfirmButton from "../../components/fields/ConfirmButton.vue";
import { useAttempt } from "../../composables/use-attempt";
import { dayAndTime } from "../../composables/words";
import type { Row, Sheet } from "./use-marks";

/** One learner on one sheet: what they are told, with extra marks and excuses by hand. */
const props = defineProps<{ row: Row; sheet: Sheet }>();
const { data: pages } = useFeedbackPages(() => props.sheet.slug, () => props.row.id);
const page = computed(() => pages.value?.[0]);
const changes = useMarksChanges();
const { problem, isBusy, attempt } = useAttempt();

const isOpen = ref(false);
const kind = ref<"extra" | "excused">("extra");
const points = ref<number>();
const excused = ref("");
const reason = ref("");
watch(() => [props.row.id, props.sheet.slug], () => {
  isOpen.value = false;
});

async function adjust(): Promise<void> {
  const isDone = await attempt(() =>
    changes.adjust.mutateAsync({
      learner: props.row.id, sheet: props.sheet.slug, reason: reason.value,
      points: kind.value === "extra" ? (points.value ?? 0) : 0, excused: kind.value === "excused" ? excused.value : "",
    }),
  );
  if (!isDone) return;
  isOpen.value = false;
  reason.value = "";
  points.value = undefined;
}
</script>

<template>
  <section>
    <h2>{{ row.name }}</h2>
    <p class="quiet">{{ row.code }} · {{ sheet.title }}: <b>{{ page?.mark }}</b> of {{ page?.points }}</p>
    <ol v-if="page" class="exercises">
      <li v-for="one in page.exercises" :key="one.slug">
        <span><RouterLink v-if="one.submission" :to="{ name: 'submission', params: { id: one.submission } }">{{ one.title }}</RouterLink><template
          v-else>{{ one.title }}</template> <small v-if="one.state !== 'decided'">{{ one.state === "none" ? "not handed in" : one.state }}</small></span>
        <b>{{ one.mark ?? "–" }}</b>
        <small v-if="one.comment" class="comment">{{ one.comment }}</small>
      </li>
    </ol>
    <ul v-if="page?.extras.length" class="extras">
      <li v-for="one in page.extras" :key="one.id">{{ one.kind === "extra" ? `${one.points > 0 ? "+" : "−"}${Math.abs(one.points)}` : `excused from ${one.exercise}` }}:
        {{ one.reason }} <small>{{ one.by }}, {{ dayAndTime(one.at) }}</small>
        <ConfirmButton question="Take this back?" yes="Take back" @confirm="attempt(() => changes.takeBack.mutateAsync(one.id))">Take back</ConfirmButton></li>
    </ul>
    <p class="acts">
      <ElButton @click="isOpen = !isOpen">Extra mark or excuse</ElButton>
      <RouterLink class="button" :to="{ name: 'feedback', params: { sheet: sheet.slug }, query: { learner: String(row.id) } }">Look at feedback</RouterLink>
    </p>
    <form v-if="isOpen" class="form" @submit.prevent="adjust">
      <ElRadioGroup v-model="kind" aria-label="What">
        <ElRadio value="extra">an extra mark</ElRadio>
        <ElRadio value="excused">excused from</ElRadio>
      </ElRadioGroup>
      <label v-if="kind === 'extra'">points, below 0 for a deduction <ElInputNumber v-model="points" :controls="false" :precision="2" /></label>
      <label v-else>exercise <ElSelect v-model="excused" aria-label="exercise">
        <ElOption v-for="one in sheet.exercises" :key="one.slug" :value="one.slug" :label="one.title" />
      </ElSelect></label>
      <label>reason, which the learner sees <ElInput v-model="reason" /></label>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <ElButton native-type="submit" type="primary" :disabled="isBusy || !reason.trim() || (kind === 'extra' ? !points : !excused)">Save</ElButton>
    </form>
  </section>
</template>

<style scoped>
.exercises li {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0 8px;
  padding: 4px 0;
  border-top: 1px solid var(--line-soft);
}

.comment {
  grid-column: 1 / -1;
}

.extras {
  margin-top: 8px;
}

.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
  margin: 10px 0;
}

.acts .el-button {
  margin: 0;
}
</style>
