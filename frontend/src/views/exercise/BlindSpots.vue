<script setup lang="ts">
import { computed } from "vue";

import { counted } from "../../composables/words";
import type { ExerciseBench } from "./use-exercise-bench";

/** Which likely mistakes the exercise's data cannot tell from the reference, and how much it sees. */
const props = defineProps<{ bench: ExerciseBench }>();

const SHOWN = 12;
const found = computed(() => props.bench.sight.data.value);
const sight = computed(() => found.value?.sight);
const spots = computed(() => sight.value?.blind_spots ?? []);
const isBusy = computed(() => props.bench.sight.isFetching.value);

function share(seen: number, asked: number): string {
  return asked ? `${Math.round((100 * seen) / asked)}%` : "0%";
}
</script>

<template>
  <h3>Blind spots <small v-if="sight">{{ spots.length || "none" }}</small><small v-else-if="isBusy" aria-live="polite">looking …</small>
    <ElButton v-if="spots.length" link @click="bench.openMeasure()">make datasets</ElButton></h3>
  <p v-if="sight?.edits" class="quiet">{{ sight.edits - spots.length }} of {{ counted(sight.edits, "likely mistake") }} told apart</p>
  <p v-if="found?.trouble" class="quiet">{{ found.trouble }}</p>
  <template v-if="sight">
    <ul class="seen" aria-label="What each dataset tells apart">
      <li v-for="one in sight.told_apart" :key="one.dataset">
        <span>{{ one.dataset }}</span>
        <i aria-hidden="true"><b :style="{ width: share(one.seen, one.asked) }" /></i>
        <small>{{ one.seen }} of {{ one.asked }}</small>
      </li>
    </ul>
    <ul class="spots choices">
      <li v-for="(one, at) in spots.slice(0, SHOWN)" :key="one.sql" :class="{ here: bench.shown.value === 'spot' && bench.spotAt.value === at }">
        <ElButton class="bare" @click="bench.openSpot(at)">
          <span class="what"><small>{{ one.label }}, line {{ one.line }}</small>
            <code><template v-if="one.old.trim()">{{ one.old.trim() }}</template><template v-if="one.old.trim() && one.new.trim()"> → </template><template
              v-if="one.new.trim()">{{ one.old.trim() ? "" : "+ " }}{{ one.new.trim() }}</template><template v-else> left out</template></code></span>
          <small v-if="!one.usual">on unusual rows only</small>
        </ElButton>
      </li>
    </ul>
    <p v-if="spots.length > SHOWN" class="quiet">and {{ spots.length - SHOWN }} less likely ones</p>
    <p v-if="!sight.complete" class="quiet">Time ran out: there may be more.</p>
  </template>
</template>

<style scoped>
.seen li {
  display: grid;
  grid-template-columns: minmax(60px, 40%) 1fr max-content;
  align-items: center;
  gap: 8px;
  overflow-wrap: anywhere;
}

.seen i {
  height: 7px;
  border: 1px solid var(--due);
}

.seen b {
  display: block;
  height: 100%;
  background: var(--due);
}

.spots {
  margin-top: 6px;
}

.here button {
  box-shadow: inset 3px 0 var(--due);
}

.what {
  display: grid;
  min-width: 0;
}

code {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
