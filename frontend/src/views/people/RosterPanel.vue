<script setup lang="ts">
import { computed, onScopeDispose, ref, useTemplateRef } from "vue";

import type { Schemas } from "../../api/client";
import { lookAtRoster, usePeopleChanges } from "../../api/people";
import { endImport, handInFiles } from "../../api/uploads";
import FileDrop from "../../components/fields/FileDrop.vue";
import { useAttempt } from "../../composables/use-attempt";
import { counted } from "../../composables/words";

/** A roster from a file: what it would do is seen before anybody is taken in. */
const changes = usePeopleChanges();
const { problem, isBusy, attempt } = useAttempt();
const drop = useTemplateRef<InstanceType<typeof FileDrop>>("drop");
const look = ref<Schemas["RosterLook"]>();
const classId = ref("");
const leaveOut = ref(false);
const taken = ref<number>();
let id = "";

const found = computed(() => look.value?.classes.find((one) => one.id === classId.value));

async function handIn(files: File[]): Promise<void> {
  await end();
  look.value = taken.value = undefined;
  leaveOut.value = false;
  await attempt(async () => {
    id = await handInFiles(files);
    look.value = await lookAtRoster(id);
    classId.value = look.value.classes[0]?.id ?? "";
  });
}

function take(): Promise<boolean> {
  return attempt(async () => {
    const body = { class_id: classId.value, leave_out: leaveOut.value };
    taken.value = (await changes.takeRoster.mutateAsync({ id, body })).count;
  });
}

async function end(): Promise<void> {
  const before = id;
  id = "";
  if (before) await endImport(before);
}
onScopeDispose(() => void end());
defineExpose({ choose: () => drop.value?.choose() });
</script>

<template>
  <h2>Import a roster</h2>
  <FileDrop ref="drop" words="Drop it here" accept=".csv,.zip" multiple @files="handIn">
    <dl>
      <dt>.csv</dt>
      <dd>learner id, name, and e-mail if wanted</dd>
      <dt>.zip</dt>
      <dd>OneRoster: users, classes and enrollments</dd>
    </dl>
  </FileDrop>
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  <p v-if="isBusy" class="quiet">Looking …</p>
  <template v-if="look">
    <p v-if="look.classes.length > 1"><span class="labelled">class
      <ElSelect v-model="classId" aria-label="class">
        <ElOption v-for="one in look.classes" :key="one.id" :value="one.id" :label="one.title || one.id" />
      </ElSelect></span></p>
    <template v-if="found">
      <p>{{ counted(found.new.length, "new learner") }}, {{ found.changed.length }} called otherwise, {{ found.same }}
        as they are here.</p>
      <ul>
        <li v-for="one in found.new.slice(0, 100)" :key="one.code">{{ one.name }} <small>{{ one.code }}</small></li>
        <li v-for="one in found.changed.slice(0, 100)" :key="one.code"><s>{{ one.before }}</s> {{ one.after }}</li>
      </ul>
      <p v-if="found.absent.length" class="quiet">Here and not in the file, they stay: {{
        found.absent.slice(0, 20).join(", ") }}{{ found.absent.length > 20 ? " …" : "" }}</p>
    </template>
    <template v-if="look.problems.length">
      <h3>Cannot be used <small>{{ look.problems.length }}</small></h3>
      <ul><li v-for="(one, at) in look.problems.slice(0, 100)" :key="at">{{ one }}</li></ul>
      <p><ElCheckbox v-model="leaveOut">leave these lines out</ElCheckbox></p>
    </template>
    <p v-if="taken !== undefined" role="status"><strong>{{ counted(taken, "learner") }} imported.</strong> Make their
      personal links above the list.</p>
    <p v-else class="take">
      <ElButton type="primary" :disabled="isBusy || !found
        || !(found.new.length + found.changed.length) || (look.problems.length > 0 && !leaveOut)" @click="take">Import the learners</ElButton></p>
  </template>
</template>

<style scoped>
h3 {
  margin: 14px 0 4px;
}

ul {
  max-height: 260px;
  margin: 6px 0;
  overflow: auto;
}

li {
  padding: 3px 0;
  border-top: 1px solid var(--line);
}

.take {
  margin-top: 10px;
}
</style>
