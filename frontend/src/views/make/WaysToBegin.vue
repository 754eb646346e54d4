<script setup lang="ts">
import { ref, useTemplateRef } from "vue";

import { useSamples } from "../../api/samples";
import FileDrop from "../../components/fields/FileDrop.vue";
import PastedText from "../../components/text/PastedText.vue";

/** What a sample can be made of. */
const emit = defineEmits<{ files: [files: File[]]; hand: []; copy: [sample: string] }>();
defineProps<{ accept: string }>();

const READY = Object.entries(
  import.meta.glob<string>("./ready/*.sql", { query: "?raw", import: "default", eager: true }),
).map(([path, text]) => ({
  name: path.replace(/^.*\/([\w-]+)\.sql$/, "$1"),
  text,
  says: text.split("\n")[0]?.replace(/^-- /, "") ?? "",
  tables: [...text.matchAll(/CREATE TABLE (\w+)/g)].map((found) => found[1]).join(", "),
}));

const { data: samples } = useSamples();
const copied = ref("");
const drop = useTemplateRef<InstanceType<typeof FileDrop>>("drop");

/** A script if it says so, rows under headings otherwise. */
function nameOf(text: string): string {
  return /\b(create|insert)\b/i.test(text) ? "pasted.sql" : "pasted.csv";
}

function begin({ name, text }: (typeof READY)[number]): void {
  emit("files", [new File([text], `${name}.sql`)]);
}

defineExpose({ choose: () => drop.value?.choose() });
</script>

<template>
  <div class="beginnings">
    <section aria-labelledby="way-files">
      <h2 id="way-files">Files</h2>
      <FileDrop ref="drop" words="Drop files here" multiple :accept="accept" @files="emit('files', $event)">
        <dl>
          <dt>.csv .tsv .txt</dt>
          <dd>one or more: a table each</dd>
          <dt>.sql</dt>
          <dd>a script of tables and rows, in SQLite's or another dialect</dd>
          <dt>.db .sqlite</dt>
          <dd>an SQLite file</dd>
          <dt>.zip</dt>
          <dd>a pack, a CSV folder with its schema, or CSV files</dd>
        </dl>
      </FileDrop>
    </section>
    <section aria-labelledby="way-paste">
      <h2 id="way-paste">Pasted text</h2>
      <p class="quiet">A script with CREATE TABLE and INSERT, or rows with their headings from a spreadsheet.</p>
      <PastedText label="SQL or CSV" :name-of="nameOf"
        hint="CREATE TABLE boats (name VARCHAR(20), length_m INTEGER);&#10;INSERT INTO boats VALUES ('Möwe', 9);"
        @file="emit('files', [$event])" />
    </section>
    <section aria-labelledby="way-ready">
      <h2 id="way-ready">A small sample to start from</h2>
      <p class="quiet">Three tables with repeats, NULLs, ties and rows without a partner; yours to change.</p>
      <ul class="ready">
        <li v-for="one in READY" :key="one.name">
          <ElButton @click="begin(one)">Start from {{ one.name }}</ElButton>
          <span>{{ one.says }} <code>{{ one.tables }}</code></span>
        </li>
      </ul>
    </section>
    <section aria-labelledby="way-hand">
      <h2 id="way-hand">By hand</h2>
      <p class="quiet">Name the tables and their columns here; rows are typed on the sample's bench.</p>
      <p><ElButton @click="emit('hand')">Make tables by hand</ElButton></p>
      <template v-if="samples?.length">
        <p class="quiet">Or take the tables and rows of a sample that is here, and change its columns.</p>
        <p class="copy">
          <ElSelect v-model="copied" aria-label="Sample to start from" placeholder="a sample">
            <ElOption v-for="one in samples" :key="one.name" :value="one.name" :label="one.name" />
          </ElSelect>
          <ElButton :disabled="!copied" @click="emit('copy', copied)">Start from its tables</ElButton>
        </p>
      </template>
    </section>
  </div>
</template>

<style scoped>
.ready li {
  display: grid;
  grid-template-columns: 176px 1fr;
  gap: 10px;
  align-items: start;
  padding: 5px 0;
}

.ready code {
  color: var(--ink-3);
}

.copy {
  display: flex;
  gap: 8px;
}
</style>
