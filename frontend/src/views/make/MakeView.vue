<script setup lang="ts">
import { watchDebounced } from "@vueuse/core";
import { computed, nextTick, useTemplateRef, watch } from "vue";
import { useRoute, useRouter } from "vue-router";

import FileDrop from "../../components/fields/FileDrop.vue";
import MakingNotes from "../../components/notices/MakingNotes.vue";
import { useKeys } from "../../composables/use-keys";
import { counted } from "../../composables/words";
import { newTable, targets } from "./plan";
import ExerciseUses from "./ExerciseUses.vue";
import TablePlan from "./TablePlan.vue";
import type { Schemas } from "../../api/client";
import { useMaking } from "./use-making";
import WaysToBegin from "./WaysToBegin.vue";

const route = useRoute();
const router = useRouter();
const making = useMaking();
const { current, name, ofSample, inPlace, realDecimals, uses, tables, problem, sending, byHand, isWorking } = making;

if (route.query.from) void making.startFrom(String(route.query.from), route.query.where === "in-place");

const drop = useTemplateRef<InstanceType<typeof FileDrop>>("drop");
const ways = useTemplateRef<InstanceType<typeof WaysToBegin>>("ways");
const nameField = useTemplateRef<{ focus(): void }>("nameField");
const DIALECTS = {
  sqlite: "SQLite", postgres: "PostgreSQL", mysql: "MySQL and MariaDB", tsql: "T-SQL",
  oracle: "Oracle SQL", db2: "Db2 SQL", duckdb: "DuckDB",
} as const satisfies Record<Exclude<Schemas["Look"]["dialect"], "">, string>;

const ACCEPT = ".csv,.tsv,.txt,.tab,.sql,.ddl,.db,.sqlite,.sqlite3,.zip";

const phase = computed(() => current.value?.phase ?? "files");
const isBeginning = computed(() => phase.value === "files" && !sending.value && !current.value?.files.length);
const share = computed(() => {
  const total = current.value?.total ?? 0;
  return total ? Math.min(1, (current.value?.done ?? 0) / total) : 0;
});
const WHERE = computed(() => [
  { label: "a new sample", value: false },
  { label: `${ofSample.value} itself`, value: true },
]);
/** What is planned, as text: which exercises use what is changed is asked anew when it changes. */
const planned = computed(() => (inPlace.value ? JSON.stringify(tables.value) : ""));
watchDebounced(planned, (now) => { if (now) void making.lookForUses(); }, { debounce: 400 });

const canMake = computed(
  () =>
    (inPlace.value || name.value.trim() !== "") &&
    (phase.value === "made" || (phase.value === "proposed" && tables.value.length > 0)),
);
const madeRows = computed(() =>
  (current.value?.made ?? []).reduce(
    (sum, one) => sum + one.tables.reduce((rows, table) => rows + table.rows, 0),
    0,
  ),
);
const notes = computed(() => {
  const all = (current.value?.made ?? []).flatMap((one) => one.notes);
  return all.filter((note, at) => all.findIndex((one) => one.why === note.why && one.text === note.text) === at);
});

watch(phase, async (now) => {
  await nextTick();
  if (now === "proposed" || now === "made") nameField.value?.focus();
});

function readAgain(): void {
  const formats = Object.fromEntries(tables.value.map((table) => [table.file, table.format]));
  void making.readAgain({ formats });
}

function openSample(): void {
  void router.push({ name: "sample", params: { sample: current.value?.sample ?? "" } });
}

function leave(): void {
  void router.push({ name: "samples" });
}

useKeys([
  { key: "o", cap: "O", says: "choose files", act: () => (ways.value ?? drop.value)?.choose() },
  { key: "h", cap: "H", says: "by hand", act: () => making.startByHand() },
  { key: "Enter", ctrl: true, cap: "Ctrl ⏎", says: "make it",
    act: () => { if (canMake.value) void making.make(); } },
  { key: "Enter", cap: "⏎", says: "open the sample", rare: true,
    act: () => { if (phase.value === "kept") openSample(); } },
  { key: "Escape", cap: "Esc", says: "all samples", act: leave },
]);
</script>

<template>
  <main class="task making" :class="{ beginning: isBeginning }">
    <section v-if="isBeginning" class="sheet">
      <h1>Make a sample</h1>
      <p class="quiet">Whatever you start from, the tables it could become are shown first, for you to correct. Nothing is
        made before you say so.</p>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <WaysToBegin ref="ways" :accept="ACCEPT" @files="making.handIn" @hand="making.startByHand()"
        @copy="making.startFrom" />
    </section>
    <section v-else>
      <h1>{{ ofSample ? "Change tables" : "Make a sample" }}</h1>
      <form v-if="ofSample && phase === 'proposed'" class="keep aside" @submit.prevent="canMake && making.make()">
        <span class="labelled">change
          <ElSegmented v-model="inPlace" :options="WHERE" aria-label="What is changed" /></span>
        <template v-if="inPlace">
          <ExerciseUses :uses="uses" />
          <p class="quiet">The rows of all datasets come along. Earlier versions of them cannot be brought back: copy the
            sample first where they matter. Answers graded before are out of date then, and are regraded when you say so.</p>
        </template>
        <label v-else>name of the sample
          <ElInput ref="nameField" v-model="name" required maxlength="64" spellcheck="false" /></label>
        <ElButton native-type="submit" type="primary" :disabled="!canMake">{{ inPlace ? `Change ${ofSample}` : "Make sample" }}</ElButton>
      </form>
      <FileDrop v-if="!ofSample" ref="drop" words="Drop more files here" multiple :accept="ACCEPT" @files="making.handIn" />
      <template v-if="current?.files.length">
        <h2>Files</h2>
        <ul>
          <li v-for="file in current.files" :key="file">{{ file }}</li>
        </ul>
        <span v-if="current.kind === 'script'" class="labelled dialect">the script's dialect
          <ElSelect aria-label="the script's dialect" :model-value="current.dialect" :disabled="isWorking" @change="making.readAgain({ dialect: $event as keyof typeof DIALECTS })">
            <ElOption v-for="(says, value) in DIALECTS" :key="value" :value="value" :label="says" />
          </ElSelect>
        </span>
      </template>
      <p class="or"><ElButton link @click="making.begin()">Start again</ElButton></p>
    </section>
    <section v-if="!isBeginning" class="sheet">
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <div v-if="isWorking" class="work" aria-live="polite">
        <p>{{ sending ? `Taking ${sending} …` : current?.total ? `Reading the rows … ${Math.round(share * 100)} %` : "Looking at the files …" }}</p>
        <ElProgress class="progress" :percentage="Math.round(share * 100)" :show-text="false" aria-label="progress" />
        <ElButton @click="making.stop()">Stop</ElButton>
      </div>
      <template v-else>
        <div v-if="current?.problems.length" class="problems">
          <h2>{{ counted(current.problem_count, "problem") }}<small v-if="current.problem_count > current.problems.length">
            the first {{ current.problems.length }}</small></h2>
          <table>
            <thead>
              <tr><th scope="col">file</th><th scope="col">line</th><th scope="col">column</th><th scope="col">what is wrong</th></tr>
            </thead>
            <tbody>
              <tr v-for="(one, at) in current.problems" :key="at">
                <td>{{ one.file }}</td>
                <td class="number">{{ one.row || "" }}</td>
                <td>{{ one.column }}</td>
                <td>{{ one.message }}</td>
              </tr>
            </tbody>
          </table>
          <p v-if="phase === 'failed'">Nothing was made.
            <ElButton v-if="tables.length" @click="making.correct()">Back to the tables</ElButton></p>
        </div>
        <p v-if="phase === 'stopped'">Stopped; nothing was made.
          <ElButton v-if="tables.length" @click="making.correct()">Back to the tables</ElButton></p>
        <template v-if="phase === 'proposed'">
          <h2 class="says">{{ byHand ? "Tables by hand"
            : ofSample ? `The tables of ${ofSample}, to be changed with the rows in them`
              : "The tables these files could become" }}</h2>
          <TablePlan v-for="(_, at) in tables" :key="at" v-model="tables[at]!"
            :targets="targets(tables)" :of-sample="ofSample" @remove="tables.splice(at, 1)" @read="readAgain" />
          <p v-if="byHand || ofSample"><ElButton link @click="tables.push(newTable(tables.length + 1))">one more table</ElButton></p>
        </template>
        <template v-if="phase === 'made'">
          <h2 class="says">Read: {{ counted(madeRows, "row") }}</h2>
          <div v-for="one in current?.made" :key="one.name" class="made">
            <h3>{{ one.name === "open" ? "open dataset" : `held back: ${one.name}` }}</h3>
            <ul class="counts">
              <li v-for="table in one.tables" :key="table.name">{{ table.name }}
                <small>{{ counted(table.rows, "row") }}</small></li>
            </ul>
          </div>
        </template>
        <MakingNotes v-if="notes.length && (phase === 'made' || phase === 'kept')" :notes="notes"
          heading="Left out, or to be known" />
        <p v-if="phase === 'made' && current?.decimals.length" class="decimals">
          <ElCheckbox v-model="realDecimals">Save {{ current.decimals.join(", ") }} as real numbers</ElCheckbox>
          <span class="quiet">Declared as DECIMAL, SQLite keeps 25.00 as the whole number 25, and 25 / 2 is 12. As real
            numbers they divide as they do on other engines.</span>
        </p>
        <form v-if="!ofSample && (phase === 'proposed' || phase === 'made')" class="keep"
          @submit.prevent="canMake && making.make()">
          <label>name of the sample
            <ElInput ref="nameField" v-model="name" required maxlength="64" spellcheck="false" /></label>
          <ElButton native-type="submit" type="primary" :disabled="!canMake">{{ phase === "made" ? "Save sample" : "Make sample" }}</ElButton>
        </form>
        <p v-if="phase === 'kept'" class="kept">
          <strong>{{ current?.sample }} is {{ inPlace ? "changed" : "made" }}.</strong>
          <ElButton type="primary" @click="openSample">Open sample</ElButton>
          <ElButton @click="making.begin()">Make another</ElButton>
        </p>
        <template v-if="phase === 'kept' && inPlace && uses?.length">
          <ExerciseUses :uses="uses" />
          <p class="quiet">Look at them next: their answers and trials may have to follow.</p>
        </template>
      </template>
    </section>
  </main>
</template>

<style scoped>
.making {
  grid-template-columns: 264px 1fr;
}

.or {
  margin: 8px 0;
}

.decimals {
  display: grid;
  margin-top: 12px;
}

h2 {
  margin: 16px 0 4px;
}

.says {
  margin: 0 0 10px;
}

.dialect {
  display: grid;
  gap: 3px;
  margin-top: 10px;
}

.work {
  display: grid;
  justify-items: start;
  gap: 8px;
}

.progress {
  width: 320px;
}

.problems {
  margin-bottom: 18px;
}

.problems h2 {
  margin-top: 0;
  color: var(--stop);
}

.problems table {
  width: 100%;
  margin-bottom: 8px;
  border-collapse: collapse;
}

.problems th {
  padding: 2px 10px 2px 0;
  border-bottom: 1.5px solid var(--ink);
  font-weight: 600;
  text-align: left;
}

.problems td {
  padding: 3px 10px 3px 0;
  border-bottom: 1px solid var(--line-soft);
}

.number {
  text-align: right;
}

.counts {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 22px;
  margin-bottom: 10px;
}

.keep {
  display: flex;
  align-items: end;
  gap: 10px;
  margin-top: 14px;
  padding-top: 12px;
  border-top: 1px solid var(--line);
}

.keep.aside {
  flex-direction: column;
  align-items: stretch;
}

.aside .labelled {
  display: grid;
  gap: 3px;
}

.keep label {
  display: grid;
  gap: 2px;
}

.kept {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-top: 10px;
}
</style>
