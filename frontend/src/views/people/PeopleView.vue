<script setup lang="ts">
import { computed, ref, useTemplateRef } from "vue";
import { useRouter } from "vue-router";

import type { Schemas } from "../../api/client";
import { useCourse, useLearners, usePeopleChanges } from "../../api/people";
import ListColumn from "../../components/lists/ListColumn.vue";
import ListTable from "../../components/lists/ListTable.vue";
import StateNotice from "../../components/notices/StateNotice.vue";
import { useInAddress } from "../../composables/use-address";
import { useKeys } from "../../composables/use-keys";
import { counted, dayAndTime } from "../../composables/words";
import CoursePanel from "./CoursePanel.vue";
import { saveLinks } from "./link-file";
import LearnerPanel from "./LearnerPanel.vue";
import RosterPanel from "./RosterPanel.vue";

/** Who teaches and who learns: the course itself, its learners, and one of them or a roster. */
const router = useRouter();
const { data: course, isPending, error, refetch } = useCourse();
const { data: learners } = useLearners();
const changes = usePeopleChanges();
const code = useInAddress("learner", "");
const chosenId = computed({
  get: () => learners.value?.find((one) => one.code === code.value)?.id,
  set: (id: number | undefined) => {
    code.value = learners.value?.find((one) => one.id === id)?.code ?? "";
  },
});
const wanted = ref("");

type Line = Schemas["LearnerLine"];
const search = useTemplateRef<{ focus(): void }>("search");
const roster = useTemplateRef<InstanceType<typeof RosterPanel>>("roster");

const shown = computed(() => {
  const words = wanted.value.trim().toLowerCase();
  return (learners.value ?? []).filter((one) =>
    `${one.name} ${one.code} ${one.email}`.toLowerCase().includes(words),
  );
});
const chosen = computed(() => learners.value?.find((one) => one.id === chosenId.value));
const withoutAccount = computed(() => (learners.value ?? []).filter((one) => !one.signed_up).length);

function turn(by: number): void {
  const ids = shown.value.map((one) => one.id);
  if (!ids.length) return;
  const at = chosenId.value === undefined ? (by > 0 ? -1 : 0) : ids.indexOf(chosenId.value);
  chosenId.value = ids[(at + by + ids.length) % ids.length];
}

/** Links are told once: they go into a file at once, to be handed out. */
async function makeLinks(): Promise<void> {
  const links = await changes.makeLinks.mutateAsync([]).catch(() => undefined);
  if (links?.length) saveLinks(links, course.value?.title ?? "");
}

useKeys([
  { key: "ArrowDown", cap: "↓", says: "next learner", act: () => turn(1) },
  { key: "ArrowUp", cap: "↑", says: "learner before", act: () => turn(-1) },
  { key: "f", cap: "F", says: "find", act: () => search.value?.focus() },
  { key: "o", cap: "O", says: "import a roster", act: () => { chosenId.value = undefined; roster.value?.choose(); } },
  {
    key: "Escape", cap: "Esc", says: "no learner, or all exercises",
    act: () => {
      if (chosenId.value !== undefined) chosenId.value = undefined;
      else void router.push({ name: "exercises" });
    },
  },
]);
</script>

<template>
  <StateNotice :alone="!course" :waiting="isPending" :problem="error" @again="refetch()" />
  <main v-if="course" class="task people">
    <CoursePanel :course="course" />
    <section class="sheet" aria-label="Learners">
      <div class="tools">
        <h1>Learners <small>{{ learners?.length }}</small></h1>
        <label class="only-read-aloud" for="find-learner">find a learner</label>
        <ElInput id="find-learner" ref="search" v-model="wanted" type="search" placeholder="find" />
        <ElButton v-if="withoutAccount" :disabled="changes.makeLinks.isPending.value" @click="makeLinks">Personal links for {{ withoutAccount }}</ElButton>
      </div>
      <p v-if="changes.makeLinks.error.value" class="problem" role="alert">{{ changes.makeLinks.error.value.message }}</p>
      <p v-if="learners && !learners.length" class="quiet empty">Nobody yet. Import a roster on the right, or let
        learners join by the code on the left.</p>
      <ListTable v-else :rows="shown" by="id" :chosen="shown.findIndex((one) => one.id === chosenId)">
        <ListColumn label="name">
          <template #default="{ row }: { row: Line }"><ElButton link :aria-current="row.id === chosenId" @click="chosenId = row.id">{{
            row.name }}</ElButton></template>
        </ListColumn>
        <ListColumn label="learner id">
          <template #default="{ row }: { row: Line }"><code>{{ row.code }}</code></template>
        </ListColumn>
        <ListColumn label="e-mail" prop="email" class-name="email" />
        <ListColumn label="answers" prop="submissions" class-name="number" />
        <ListColumn label="signs in">
          <template #default="{ row }: { row: Line }">{{ row.signed_up ? "yes" : row.link_ends ? `link until ${dayAndTime(row.link_ends)}` : "no link yet" }}<small
            v-if="row.extensions.length"> {{ counted(row.extensions.length, "extension") }}</small></template>
        </ListColumn>
      </ListTable>
      <p v-if="learners?.length && !shown.length" class="quiet empty">Nobody of that name.</p>
    </section>
    <aside>
      <LearnerPanel v-if="chosen" :key="chosen.id" :learner="chosen" :title="course.title" @gone="chosenId = undefined" />
      <RosterPanel v-else ref="roster" />
    </aside>
  </main>
</template>

<style scoped>
.people {
  grid-template-columns: clamp(220px, 22vw, 290px) 1fr clamp(250px, 25vw, 320px);
}

.tools {
  display: flex;
  align-items: center;
  gap: 12px;
  margin-bottom: 8px;
}

.tools .el-input {
  margin-left: auto;
  width: 150px;
}

.empty {
  padding: 12px 0;
}

td code {
  white-space: nowrap;
}

:deep(.email) {
  max-width: 0;
  width: 34%;
  overflow: hidden;
  text-overflow: ellipsis;
}

@media (max-width: 900px) {
  .sheet {
    order: -1;
  }
}
</style>
