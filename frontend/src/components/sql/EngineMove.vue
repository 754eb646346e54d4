<script setup lang="ts">
import type { MovedExercise } from "../../api/engines";
import SqlText from "./SqlText.vue";
import VerdictWord from "../verdict/VerdictWord.vue";
import WovenTable from "../rows/WovenTable.vue";

/** An exercise as it would be on another engine: its texts in both dialects, and what they give. */
const props = defineProps<{ moved: MovedExercise; from: string }>();

const PARTS = { reference: "Reference answer", alternative: "Also right", trial: "Trial" };

/** Texts that the other dialect writes otherwise, or could not take over whole. */
function changed(): MovedExercise["texts"] {
  return props.moved.texts.filter((one) => one.before.trim() !== one.after.trim() || one.notes.length);
}
</script>

<template>
  <div class="move">
    <p v-if="moved.problem" class="problem" role="alert">On {{ moved.engine }} it cannot be used like this: {{ moved.problem }}</p>
    <template v-else>
      <p v-for="one in moved.datasets" :key="one.dataset">
        <b>{{ one.dataset }}</b> {{ one.same ? "gives the same rows on both" : `does not give the same: ${one.message}` }}
      </p>
      <div v-for="one in moved.datasets.filter((it) => it.woven)" :key="`${one.dataset}-woven`" class="rows">
        <WovenTable :woven="one.woven!" only-differences :due="from" :given="moved.engine" />
      </div>
      <template v-if="!moved.holds && moved.why.length">
        <p class="quiet">What the reference answer holds that the two do differently:</p>
        <ul><li v-for="one in moved.why" :key="one">{{ one }}</li></ul>
      </template>
      <table v-if="moved.trials.length">
        <thead><tr><th scope="col">trial</th><th scope="col">{{ from }}</th><th scope="col">{{ moved.engine }}</th></tr></thead>
        <tbody>
          <tr v-for="one in moved.trials" :key="one.name" :class="{ parted: one.before !== one.after }">
            <td>{{ one.name }}</td><td><VerdictWord :verdict="one.before" /></td><td><VerdictWord :verdict="one.after" /></td>
          </tr>
        </tbody>
      </table>
    </template>
    <section v-for="one in changed()" :key="`${one.part}-${one.name}`">
      <h3>{{ PARTS[one.part] }} {{ one.name }}</h3>
      <p v-for="note in one.notes" :key="note" class="problem">{{ note }}</p>
      <div class="pair">
        <figure><figcaption class="quiet">{{ from }}</figcaption><SqlText :sql="one.before" /></figure>
        <figure><figcaption class="quiet">{{ moved.engine }}</figcaption><SqlText :sql="one.after" /></figure>
      </div>
    </section>
    <p v-if="!changed().length" class="quiet">Every text is written the same in both dialects.</p>
  </div>
</template>

<style scoped>
.move {
  max-height: 62vh;
  overflow: auto;
}

.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}

figure {
  min-width: 0;
  margin: 0;
  overflow: auto;
}

table {
  margin: 8px 0;
  border-collapse: collapse;
}

th,
td {
  padding: 3px 14px 3px 0;
  border-bottom: 1px solid var(--line);
  text-align: left;
}

.parted td:first-child {
  border-left: 3px solid var(--given);
  padding-left: 6px;
}

.rows {
  max-height: 30vh;
  overflow: auto;
}

ul {
  padding-left: 18px;
}
</style>
