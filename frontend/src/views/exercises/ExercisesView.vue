<script setup lang="ts">
import { computed } from "vue";
import { useRouter } from "vue-router";

import ProseText from "../../components/ProseText.vue";
import StateNotice from "../../components/StateNotice.vue";
import VerdictBar from "../../components/VerdictBar.vue";
import { useKeys } from "../../composables/use-keys";
import { counted, FINDING_WORDS } from "../../composables/words";
import { useExerciseList } from "./use-exercise-list";

const router = useRouter();
const { exercises, chosen, chosenAt, isPending, error, refetch, move } = useExerciseList();

const most = computed(() => Math.max(1, ...(chosen.value?.kinds ?? []).map((one) => one.count)));

function open(slug: string | undefined): void {
  if (slug) void router.push({ name: "exercise", params: { slug } });
}

useKeys([
  { key: "ArrowDown", cap: "↓", says: "next exercise", act: () => move(1) },
  { key: "ArrowUp", cap: "↑", says: "exercise before", act: () => move(-1) },
  { key: "Enter", cap: "⏎", says: "open it", act: () => open(chosen.value?.slug) },
]);
</script>

<template>
  <main class="task list">
    <section class="sheet">
      <h1>Exercises</h1>
      <StateNotice :waiting="isPending" :problem="error" @again="refetch()" />
      <p v-if="exercises && !exercises.length" class="quiet">
        No exercises yet. Load a pack: <code>jentrow demo --pack FOLDER</code>
      </p>
      <table v-if="exercises?.length">
        <thead>
          <tr>
            <th scope="col"><span class="only-read-aloud">number</span></th>
            <th scope="col">exercise</th>
            <th scope="col">sample</th>
            <th scope="col" class="number">points</th>
            <th scope="col" class="number">answers</th>
            <th scope="col" class="outcome">how they came out</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(exercise, at) in exercises" :key="exercise.slug"
            :class="{ chosen: at === chosenAt }" @click="chosenAt = at" @dblclick="open(exercise.slug)">
            <td class="place">{{ at + 1 }}</td>
            <td>
              <RouterLink :to="{ name: 'exercise', params: { slug: exercise.slug } }"
                @focus="chosenAt = at">{{ exercise.title }}</RouterLink>
            </td>
            <td>{{ exercise.sample }}</td>
            <td class="number">{{ exercise.points }}</td>
            <td class="number">{{ exercise.counts.total }}</td>
            <td>
              <VerdictBar :counts="exercise.counts" />
            </td>
          </tr>
        </tbody>
      </table>
    </section>
    <aside v-if="chosen" aria-label="The exercise chosen">
      <h2>{{ chosen.title }}</h2>
      <p class="quiet under">
        {{ counted(chosen.points, "point") }} · sample {{ chosen.sample }}
      </p>
      <ProseText :text="chosen.prompt" />
      <template v-if="chosen.kinds.length">
        <h3>What went wrong</h3>
        <ul>
          <li v-for="kind in chosen.kinds" :key="kind.code">
            <span>{{ FINDING_WORDS[kind.code] ?? kind.code }}</span>
            <i aria-hidden="true" :style="{ width: `${(kind.count / most) * 90}px` }" />
            <b>{{ kind.count }}</b>
          </li>
        </ul>
      </template>
      <p class="next">
        <RouterLink :to="{ name: 'exercise', params: { slug: chosen.slug } }">
          Open it with its answers
        </RouterLink>
      </p>
    </aside>
  </main>
</template>

<style scoped>
.list {
  grid-template-columns: 1fr 360px;
}

h1 {
  margin-bottom: 10px;
}

table {
  width: 100%;
  border-collapse: collapse;
}

th {
  padding: 4px 10px;
  border-bottom: 1.5px solid var(--ink);
  color: var(--ink-2);
  font-weight: 600;
  text-align: left;
}

td {
  padding: 10px;
  border-bottom: 1px solid var(--line-soft);
  vertical-align: top;
}

tbody tr {
  cursor: default;
}

.chosen td {
  background: var(--paper);
}

.chosen td:first-child {
  box-shadow: inset 3px 0 var(--given);
}

.place {
  width: 34px;
  color: var(--ink-3);
}

td a {
  color: var(--ink);
  font-size: var(--size-2);
  font-weight: 650;
  text-decoration: none;
}

td a:hover {
  text-decoration: underline;
}

.number {
  text-align: right;
}

.outcome {
  width: 44%;
}

.under {
  margin: 2px 0 8px;
}

h3 {
  margin: 18px 0 4px;
}

li {
  display: grid;
  grid-template-columns: 1fr 90px 24px;
  align-items: center;
  gap: 10px;
  padding: 4px 0;
  border-top: 1px solid var(--line-soft);
}

li i {
  height: 7px;
  background: var(--given);
}

li b {
  text-align: right;
}

.next {
  margin-top: 14px;
}
</style>
