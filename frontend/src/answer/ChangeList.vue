<script setup lang="ts">
import type { Schemas } from "../api/client";
import VerdictWord from "../components/VerdictWord.vue";

/** Answers that come out otherwise: from what to what, and why. */
defineProps<{ title: string; changes: Schemas["RegradeChange"][]; kept?: boolean; hidesNames?: boolean }>();
</script>

<template>
  <section v-if="changes.length">
    <h3>{{ title }} <small>{{ changes.length }}</small></h3>
    <table class="listing">
      <thead class="only-read-aloud">
        <tr>
          <th scope="col">learner</th>
          <th scope="col">verdict</th>
          <th scope="col">mark</th>
          <th scope="col">why</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in changes" :key="one.submission">
          <td><RouterLink :to="{ name: 'submission', params: { id: one.submission } }">{{ hidesNames ? `answer ${one.submission}` : one.learner }}</RouterLink></td>
          <td><VerdictWord :verdict="one.before" /> → <VerdictWord :verdict="one.after" /></td>
          <td class="marks">{{ one.mark_before ?? "–" }} → {{ one.mark_after }}<template v-if="kept"><br><b>stays {{ one.decided }}</b></template></td>
          <td>{{ one.why }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
section {
  margin-top: 12px;
}

td {
  padding: 4px 8px 4px 0;
  vertical-align: top;
}

.marks {
  white-space: nowrap;
}
</style>
