<script setup lang="ts">
import type { Schemas } from "../../api/client";
import VerdictWord from "../../components/verdict/VerdictWord.vue";
import { dayAndTime } from "../../composables/words";

/** The attempts, one below the other on the thread of what was given; one that is right is knotted. */
defineProps<{ attempts: Schemas["Attempt"][]; points: number; zone: string }>();
const chosen = defineModel<number | undefined>("chosen");
</script>

<template>
  <ol class="attempts">
    <li v-for="one in [...attempts].reverse()" :key="one.id" :class="[one.verdict, { chosen: one.id === chosen }]">
      <ElButton class="bare" :aria-current="one.id === chosen"
        @click="chosen = one.id === chosen ? undefined : one.id">
        <span class="which">attempt {{ one.number }}</span>
        <VerdictWord class="word" :verdict="one.verdict" />
        <small class="mark">{{ one.mark === null ? "" : `${one.mark} of ${points}` }}</small>
        <small class="when">{{ dayAndTime(one.submitted_at, zone) }}{{ one.late ? ", late" : "" }}</small>
      </ElButton>
    </li>
  </ol>
</template>

<style scoped>
.attempts {
  border-left: 2.5px solid var(--given);
  margin-left: 6px;
}

li {
  position: relative;
}

li::before {
  content: "";
  position: absolute;
  top: 12px;
  left: -6px;
  width: 7px;
  height: 7px;
  border: 1.5px solid var(--given);
  border-radius: 50%;
  background: var(--paper);
}

li.correct::before {
  border-radius: 0;
  background: var(--given);
  transform: rotate(45deg);
}

button {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0 10px;
  width: 100%;
  padding: 6px 8px 6px 14px;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  text-align: left;
  cursor: pointer;
}

.chosen button {
  background: var(--sheet);
}

.word,
.mark {
  grid-column: 2;
  text-align: right;
}

.mark {
  grid-row: 2;
}

.when {
  grid-row: 2;
}
</style>
