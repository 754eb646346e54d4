<script setup lang="ts">
import { computed, useTemplateRef } from "vue";
import { useRouter } from "vue-router";

import type { Schemas } from "../../api/client";
import { useExercises } from "../../api/queries";
import FileDrop from "../../components/fields/FileDrop.vue";
import ListColumn from "../../components/lists/ListColumn.vue";
import ListTable from "../../components/lists/ListTable.vue";
import PastedText from "../../components/text/PastedText.vue";
import { useKeys } from "../../composables/use-keys";
import { counted } from "../../composables/words";
import { useTakingIn } from "./use-taking-in";

/** Answers from a file: what fits and what does not is seen before any is taken in. */
const router = useRouter();
const taking = useTakingIn();
const { look, file, problem, isBusy, leaveOut, taken } = taking;

const drop = useTemplateRef<InstanceType<typeof FileDrop>>("drop");
const ACCEPT = ".csv,.zip,.ipynb";
const { data: exercises } = useExercises();
const isBeginning = computed(() => !look.value);
const canTake = computed(
  () =>
    Boolean(look.value?.answers) &&
    taken.value === undefined &&
    (!look.value?.unmatched.length || leaveOut.value),
);

useKeys([
  { key: "o", cap: "O", says: "choose a file", act: () => drop.value?.choose() },
  { key: "l", cap: "L", says: "leave out what does not fit", act: () => { leaveOut.value = !leaveOut.value; } },
  { key: "Enter", ctrl: true, cap: "Ctrl ⏎", says: "import them", act: () => { if (canTake.value) void taking.take(); } },
  { key: "Escape", cap: "Esc", says: "all exercises", act: () => void router.push({ name: "exercises" }) },
]);
</script>

<template>
  <main class="task taking" :class="{ beginning: isBeginning }">
    <section v-if="isBeginning" class="sheet">
      <h1>Import answers</h1>
      <p class="quiet">What fits and what does not is shown first. Nothing is imported before you say so.</p>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <p v-else-if="isBusy" class="quiet" aria-live="polite">Looking …</p>
      <div class="beginnings">
        <section aria-labelledby="way-files">
          <h2 id="way-files">A file</h2>
          <FileDrop ref="drop" words="Drop a file here" :accept="ACCEPT" @files="([chosen]) => chosen && taking.handIn(chosen)">
            <dl>
              <dt>.csv</dt>
              <dd>learner, exercise, sql, and submitted_at if wanted</dd>
              <dt>.zip</dt>
              <dd>a folder a learner, in it a .sql file an exercise, or a notebook</dd>
              <dt>.ipynb</dt>
              <dd>the answers of one learner: the first line of each cell is a comment that names the exercise</dd>
            </dl>
          </FileDrop>
        </section>
        <section aria-labelledby="way-paste">
          <h2 id="way-paste">Pasted rows</h2>
          <p class="quiet">The headings first, then an answer a line; a query with a comma or a line break stands in quotes.</p>
          <PastedText label="answers as CSV" :name-of="() => 'pasted.csv'"
            hint="learner,exercise,sql&#10;Ada Nkemelu,01-high-huts,&quot;SELECT name, region FROM huts&quot;"
            @file="taking.handIn" />
        </section>
        <section aria-labelledby="way-names" class="wide">
          <h2 id="way-names">How exercises are named</h2>
          <p class="quiet">In a file, an exercise is called by its short name:</p>
          <ul v-if="exercises?.length" class="names">
            <li v-for="one in exercises" :key="one.slug"><code>{{ one.slug }}</code> <small>{{ one.title }}</small></li>
          </ul>
          <p v-else>There is no exercise yet: <RouterLink :to="{ name: 'exercises', query: { new: '1' } }">write one</RouterLink> first.</p>
        </section>
      </div>
    </section>
    <section v-else>
      <h1>Import answers</h1>
      <FileDrop ref="drop" words="Drop another file here" :accept="ACCEPT"
        @files="([chosen]) => chosen && taking.handIn(chosen)" />
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <p v-else-if="isBusy" class="quiet" aria-live="polite">Looking …</p>
      <template v-if="look">
        <h2>{{ file }}</h2>
        <p>{{ counted(look.answers, "answer") }} to import{{ look.known
          ? `, ${look.known} are here already` : "" }}{{ look.unmatched.length
            ? `, ${look.unmatched.length} ${look.unmatched.length === 1 ? "does" : "do"} not fit` : "" }}.</p>
        <p v-if="taken !== undefined" class="done" role="status"><strong>{{ counted(taken, "answer") }} imported.</strong> They are graded in the background.</p>
        <template v-else>
          <p v-if="look.unmatched.length"><ElCheckbox v-model="leaveOut">leave out what does not fit</ElCheckbox></p>
          <p class="done">
            <ElButton type="primary" :disabled="!canTake" @click="taking.take()">Import the answers</ElButton>
            <span class="quiet">all of them or none</span>
          </p>
        </template>
      </template>
    </section>
    <section v-if="!isBeginning" class="sheet" aria-label="What fits">
      <h2>What fits</h2>
      <ListTable v-if="look?.exercises.length" :rows="look.exercises" by="slug">
        <ListColumn label="exercise">
          <template #default="{ row }: { row: Schemas['MatchedExercise'] }"><RouterLink :to="{ name: 'exercise', params: { slug: row.slug } }">{{
            row.title }}</RouterLink> <small>{{ row.slug }}</small></template>
        </ListColumn>
        <ListColumn label="answers" prop="answers" class-name="number" />
      </ListTable>
      <p v-else-if="look" class="quiet">No answer to an exercise here.</p>
      <template v-if="look?.new_learners.length">
        <h2>New learners <small>{{ look.new_learners.length }}</small></h2>
        <p>{{ look.new_learners.slice(0, 60).join(", ") }}{{ look.new_learners.length > 60 ? " …" : "" }}</p>
      </template>
    </section>
    <aside v-if="!isBeginning" aria-label="What does not fit">
      <h2>What does not fit <small v-if="look">{{ look.unmatched.length }}</small></h2>
      <ul v-if="look?.unmatched.length">
        <li v-for="(one, at) in look.unmatched.slice(0, 200)" :key="at"><b>{{ one.place }}</b> {{ one.why }}</li>
      </ul>
      <p v-else class="quiet">{{ look ? "Everything fits." : "" }}</p>
    </aside>
  </main>
</template>

<style scoped>
.taking {
  grid-template-columns: clamp(250px, 23vw, 300px) 1fr clamp(280px, 28vw, 360px);
}

.beginnings h2 {
  margin-top: 0;
}

.names {
  columns: 260px;
}

.names li {
  border: 0;
  padding: 1px 0;
}

h2 {
  margin: 14px 0 4px;
}

.sheet h2:first-child,
aside h2 {
  margin-top: 0;
}

.done {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 12px;
  margin-top: 10px;
}

td small {
  margin-left: 8px;
}

li {
  padding: 5px 0;
  border-top: 1px solid var(--line);
}
</style>
