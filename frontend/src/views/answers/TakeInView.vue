<script setup lang="ts">
import { computed, useTemplateRef } from "vue";
import { useRouter } from "vue-router";

import FileDrop from "../../components/FileDrop.vue";
import { useKeys } from "../../composables/use-keys";
import { counted } from "../../composables/words";
import { useTakingIn } from "./use-taking-in";

/** Answers from a file: what fits and what does not is seen before any is taken in. */
const router = useRouter();
const taking = useTakingIn();
const { look, file, problem, isBusy, leaveOut, taken } = taking;

const drop = useTemplateRef<InstanceType<typeof FileDrop>>("drop");
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
  <main class="task taking">
    <section>
      <h1>Import answers</h1>
      <FileDrop ref="drop" words="Drop a file here" accept=".csv,.zip,.ipynb"
        @files="([chosen]) => chosen && taking.handIn(chosen)">
        <dl>
          <dt>.csv</dt>
          <dd>learner, exercise, sql, and submitted_at if wanted</dd>
          <dt>.zip</dt>
          <dd>a folder a learner, in it a .sql file an exercise, or a notebook</dd>
          <dt>.ipynb</dt>
          <dd>the answers of one learner: the first line of each cell is a comment that names the exercise</dd>
        </dl>
      </FileDrop>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <p v-else-if="isBusy" class="quiet" aria-live="polite">Looking …</p>
      <template v-if="look">
        <h2>{{ file }}</h2>
        <p>{{ counted(look.answers, "answer") }} to import{{ look.known
          ? `, ${look.known} are here already` : "" }}{{ look.unmatched.length
            ? `, ${look.unmatched.length} do not fit` : "" }}.</p>
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
    <section class="sheet" aria-label="What fits">
      <h2>What fits</h2>
      <table v-if="look?.exercises.length" class="listing">
        <thead>
          <tr>
            <th scope="col">exercise</th>
            <th scope="col" class="number">answers</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in look.exercises" :key="one.slug">
            <td><RouterLink :to="{ name: 'exercise', params: { slug: one.slug } }">{{ one.title }}</RouterLink>
              <small>{{ one.slug }}</small></td>
            <td class="number">{{ one.answers }}</td>
          </tr>
        </tbody>
      </table>
      <p v-else class="quiet">{{ look ? "No answer to an exercise here." : "What the file holds appears here." }}</p>
      <template v-if="look?.new_learners.length">
        <h2>New learners <small>{{ look.new_learners.length }}</small></h2>
        <p>{{ look.new_learners.slice(0, 60).join(", ") }}{{ look.new_learners.length > 60 ? " …" : "" }}</p>
      </template>
    </section>
    <aside aria-label="What does not fit">
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
  grid-template-columns: 340px 1fr 360px;
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
