<script setup lang="ts">
import { ref } from "vue";
import { useRouter } from "vue-router";

import type { Schemas } from "../../api/client";
import { exportAddress, type ExportFormat, useSampleChanges } from "../../api/samples";
import ConfirmButton from "../../components/fields/ConfirmButton.vue";
import { counted, dayAndTime } from "../../composables/words";

/** A sample's datasets, and what can be done with it as a whole. */
const props = defineProps<{ sample: Schemas["SampleLine"] }>();

const router = useRouter();
const changes = useSampleChanges();
const problem = ref("");
const said = ref("");

type Wish = "" | "copy" | "rename" | "dataset";
const wish = ref<Wish>("");
const newName = ref("");
const from = ref(props.sample.datasets[0]?.name ?? "open");
const isEmpty = ref(false);
/** The dataset that a script or an SQLite file holds. */
const given = ref(props.sample.datasets[0]?.name ?? "open");

const FORMATS: { format: ExportFormat; says: string; about: string }[] = [
  { format: "pack", says: "pack", about: "all datasets, for exchange and version control" },
  { format: "csv", says: "CSV folder", about: "schema and all datasets, a file a table" },
  { format: "script", says: "SQL script", about: "one dataset, tables and rows" },
  { format: "database", says: "SQLite file", about: "one dataset" },
];

function ask(next: Wish): void {
  wish.value = wish.value === next ? "" : next;
  newName.value = next === "copy" ? `${props.sample.name} copy` : next === "rename" ? props.sample.name : "";
  problem.value = "";
}

async function attempt(work: () => Promise<unknown>): Promise<void> {
  problem.value = "";
  try {
    await work();
    wish.value = "";
  } catch (refused) {
    problem.value = (refused as Error).message;
  }
}

function doIt(): Promise<void> {
  const sample = props.sample.name;
  return attempt(async () => {
    switch (wish.value) {
      case "copy": {
        const made = await changes.copy.mutateAsync({ sample, name: newName.value });
        await router.push({ name: "sample", params: { sample: made.name } });
        break;
      }
      case "rename":
        await changes.rename.mutateAsync({ sample, name: newName.value });
        break;
      case "dataset":
        await changes.addDataset.mutateAsync({
          sample, name: newName.value, copy_of: from.value, empty: isEmpty.value,
        });
        said.value = `${newName.value} is held back: learners never see its rows.`;
    }
  });
}

function removeDataset(dataset: string): Promise<void> {
  return attempt(() => changes.removeDataset.mutateAsync({ sample: props.sample.name, dataset }));
}
</script>

<template>
  <h3>Datasets</h3>
  <ul class="datasets">
    <li v-for="one in sample.datasets" :key="one.name">
      <RouterLink :to="{ name: 'sample', params: { sample: sample.name }, query: { data: one.name } }">
        {{ one.name }}</RouterLink>
      <small>{{ one.is_open ? "learners see it" : "held back" }} · {{
        counted(one.rows, "row") }}
        · version {{ one.version }}, {{ dayAndTime(one.changed_at) }}</small>
      <ConfirmButton v-if="!one.is_open" :question="`Delete the dataset ${one.name}, with its versions?`" yes="Delete"
        @confirm="removeDataset(one.name)">Delete</ConfirmButton>
    </li>
  </ul>
  <p class="line">
    <ElButton :aria-expanded="wish === 'dataset'" @click="ask('dataset')">
      New held-back dataset</ElButton>
  </p>
  <p v-if="said" class="quiet" aria-live="polite">{{ said }}</p>

  <h3>Export</h3>
  <ul class="formats">
    <li v-for="one in FORMATS" :key="one.format">
      <a :href="exportAddress({ sample: sample.name, dataset: given }, one.format)"
        download>{{ one.says }}</a> <small>{{ one.about }}</small>
    </li>
  </ul>

  <span class="labelled check">script and SQLite file of
    <ElSelect v-model="given" aria-label="script and SQLite file of">
      <ElOption v-for="one in sample.datasets" :key="one.name" :value="one.name" :label="one.name" />
    </ElSelect></span>

  <h3>The sample</h3>
  <p class="line">
    <ElButton :aria-expanded="wish === 'copy'" @click="ask('copy')">Copy</ElButton>
    <RouterLink class="button" :to="{ name: 'make', query: { from: sample.name } }">Change tables</RouterLink>
    <ElButton :aria-expanded="wish === 'rename'" @click="ask('rename')">Rename</ElButton>
    <ConfirmButton :question="`Delete ${sample.name}, with all its datasets and versions?`" yes="Delete" :link="false"
      :is-busy="sample.exercises > 0" @confirm="attempt(() => changes.remove.mutateAsync(sample.name))">Delete</ConfirmButton>
    <span v-if="sample.exercises" class="quiet">Exercises need it.</span>
  </p>

  <form v-if="wish" class="wish" @submit.prevent="doIt">
    <label>{{ wish === "dataset" ? "Name of the dataset" : "Name" }}
      <ElInput v-model="newName" v-focus required maxlength="64" /></label>
    <template v-if="wish === 'dataset'">
      <span class="labelled">begin with the rows of
        <ElSelect v-model="from" aria-label="begin with the rows of" :disabled="isEmpty">
          <ElOption v-for="one in sample.datasets" :key="one.name" :value="one.name" :label="one.name" />
        </ElSelect></span>
      <ElCheckbox v-model="isEmpty" class="check">begin with empty tables</ElCheckbox>
    </template>
    <p class="line">
      <ElButton native-type="submit" type="primary">{{ { copy: "Copy sample", rename: "Rename sample", dataset: "Add dataset" }[wish] }}</ElButton>
      <ElButton @click="wish = ''">Cancel</ElButton>
    </p>
  </form>
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
</template>

<script lang="ts">
/** Puts the caret where the next word goes. */
export const vFocus = { mounted: (place: HTMLElement) => place.querySelector("input")?.focus() };
</script>

<style scoped>
.datasets small {
  margin-right: 8px;
}

h3 {
  margin: 16px 0 4px;
}

.datasets li,
.formats li {
  padding: 4px 0;
  border-top: 1px solid var(--line-soft);
}

.datasets a {
  margin-right: 6px;
  font-weight: 650;
}

.line {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 8px;
  margin-top: 8px;
}

.wish {
  display: grid;
  gap: 8px;
  margin-top: 12px;
  padding-left: 12px;
  border-left: 2px solid var(--given);
}

label {
  display: grid;
  gap: 2px;
}

.check {
  display: flex;
  align-items: center;
  gap: 6px;
}
</style>
