<script setup lang="ts">
import { computed } from "vue";

import type { Schemas } from "../../api/client";
import { useFeedbackPages, useMarksChanges } from "../../api/marking";
import ListColumn from "../../components/lists/ListColumn.vue";
import ListTable from "../../components/lists/ListTable.vue";
import { useAttempt } from "../../composables/use-attempt";
import { counted } from "../../composables/words";
import type { Sheet } from "./use-marks";

/** Publishing a sheet, with a look at what learners will see. */
const props = defineProps<{ sheet: Sheet }>();
type Page = Schemas["FeedbackPage"];
const isOpen = defineModel<boolean>({ required: true });
const { data: pages, isFetching } = useFeedbackPages(() => props.sheet.slug, undefined);
const { publish } = useMarksChanges();
const { problem, isBusy, attempt } = useAttempt();

const open = computed(() => ({
  undecided: props.sheet.exercises.reduce((sum, one) => sum + one.undecided, 0),
  outdated: props.sheet.exercises.reduce((sum, one) => sum + one.outdated, 0),
}));
const holdsUp = computed(() => open.value.undecided + open.value.outdated > 0);
const told = computed(() => (pages.value ?? []).filter((one) => one.exercises.some((each) => each.submission)));
const comments = computed(() => told.value.reduce((sum, one) => sum + one.exercises.filter((each) => each.comment).length, 0));

async function send(anyway: boolean): Promise<void> {
  if (await attempt(() => publish.mutateAsync({ slug: props.sheet.slug, anyway }))) isOpen.value = false;
}
</script>

<template>
  <ElDialog v-model="isOpen" :title="`Publish ${sheet.title}`" append-to-body width="min(720px, 94vw)">
    <p v-if="isFetching && !pages" role="status">Looking at what learners will see …</p>
    <template v-else>
      <p>{{ counted(told.length, "learner") }} will see their marks and {{ counted(comments, "comment") }}. It can be taken back.</p>
      <p v-if="holdsUp" class="problem">{{ [open.undecided && `${counted(open.undecided, "answer")} undecided`, open.outdated && `${counted(open.outdated, "answer")} out of date`].filter(Boolean).join(", ") }}:
        learners would see the marks of grading there, without a decision.</p>
      <div class="list" tabindex="0" aria-label="What learners will see">
        <ListTable :rows="told" by="learner_id">
          <ListColumn label="learner" prop="learner" />
          <ListColumn label="mark" prop="mark" class-name="number" />
          <ListColumn label="of" prop="points" class-name="number" />
          <ListColumn label="comments">
            <template #default="{ row }: { row: Page }">{{ row.exercises.filter((each) => each.comment).length || "" }}</template>
          </ListColumn>
          <ListColumn label="look" unseen>
            <template #default="{ row }: { row: Page }"><RouterLink :to="{ name: 'feedback', params: { sheet: sheet.slug }, query: { learner: String(row.learner_id) } }">Look</RouterLink></template>
          </ListColumn>
        </ListTable>
      </div>
    </template>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <template #footer>
      <ElButton @click="isOpen = false">Cancel</ElButton>
      <ElButton v-if="holdsUp" :disabled="isBusy" @click="send(true)">Publish anyway</ElButton>
      <ElButton v-else type="primary" :disabled="isBusy" @click="send(false)">Publish marks</ElButton>
    </template>
  </ElDialog>
</template>

<style scoped>
.list {
  max-height: 46vh;
  margin-top: 10px;
  overflow: auto;
}
</style>
