<script setup lang="ts">
import { computed, ref, watch } from "vue";

import { useOwnWords } from "../../api/explanations";
import BeadThread, { type Bead } from "./BeadThread.vue";

/** What the instructor wrote for answers that behave as this one does, opened strength by strength. */
const props = defineProps<{ id: number }>();

const opened = ref(0);
watch(() => props.id, () => (opened.value = 0));
const words = useOwnWords(() => props.id, opened);
const found = computed(() => words.data.value);
const beads = computed(() =>
  Array.from({ length: found.value?.strengths ?? 0 }, (_, at): Bead => {
    const says = found.value?.says[at];
    return { label: `${at + 1}`, state: says === undefined ? "open" : "opened", says: says ?? "", button: at ? "Show more" : "Show the hint" };
  }),
);
</script>

<template>
  <section v-if="beads.length" class="words" aria-label="Your instructor on this mistake" aria-live="polite">
    <h3>Your instructor on this mistake <small>no points lost</small></h3>
    <BeadThread :beads="beads" :is-busy="words.isFetching.value" @next="opened += 1" />
  </section>
</template>

<style scoped>
.words {
  padding-top: 8px;
  border-top: 1px solid var(--line);
}
</style>
