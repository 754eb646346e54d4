<script setup lang="ts">
import { computed } from "vue";

import type { Schemas } from "../../api/client";

/** The margin of one woven row: two threads whose course tells how the sides meet. */
const props = defineProps<{ line: Schemas["WovenLine"] }>();

const MAX_BEADS = 4;
const STRAIGHT = { due: "M11 0V40", given: "M27 0V40" };
const TWIST = {
  due: "M11 0C11 10 27 10 27 20C27 30 11 30 11 40",
  given: "M27 0C27 10 11 10 11 20C11 30 27 30 27 40",
};
const BROKEN = { due: "M11 0V6M11 34V40", given: "M27 0V6M27 34V40" };

const paths = computed(() => {
  switch (props.line.kind) {
    case "absent":
      return { due: STRAIGHT.due, given: BROKEN.given };
    case "extra":
      return { due: BROKEN.due, given: STRAIGHT.given };
    case "moved":
    case "tie":
      return TWIST;
    default:
      return STRAIGHT;
  }
});

interface Bead {
  side: "due" | "given";
  shape: "full" | "ring" | "small";
  top: string;
}

/** A bead for each copy of the row on a side, spread over its height. */
function copies(side: Bead["side"], count: number | null): Bead[] {
  const shown = Math.min(count ?? 0, MAX_BEADS);
  return Array.from({ length: shown }, (_, at) => ({
    side,
    shape: "small",
    top: `calc(50% + ${(at - (shown - 1) / 2) * 8}px)`,
  }));
}

const beads = computed<Bead[]>(() => {
  const { kind, times_due, times_given } = props.line;
  switch (kind) {
    case "absent":
      return [{ side: "due", shape: "full", top: "50%" }];
    case "extra":
      return [{ side: "given", shape: "full", top: "50%" }];
    case "differs":
      return [
        { side: "due", shape: "ring", top: "50%" },
        { side: "given", shape: "ring", top: "50%" },
      ];
    case "times":
      return [...copies("due", times_due), ...copies("given", times_given)];
    default:
      return [];
  }
});
</script>

<template>
  <svg viewBox="0 0 38 40" preserveAspectRatio="none" aria-hidden="true">
    <path :d="paths.due" class="due" />
    <path :d="paths.given" class="given" />
    <path v-if="line.kind === 'differs'" d="M11 20H27" class="knot" />
  </svg>
  <span v-for="(bead, at) in beads" :key="at" class="bead" :class="[bead.side, bead.shape]"
    :style="{ top: bead.top }" aria-hidden="true" />
</template>

<style scoped>
svg {
  position: absolute;
  left: 0;
  top: 0;
  width: 38px;
  height: 100%;
}

path {
  fill: none;
  stroke-width: 2;
  vector-effect: non-scaling-stroke;
}

path.due {
  stroke: var(--due);
}

path.given {
  stroke: var(--given);
}

.knot {
  stroke: var(--ink);
  stroke-width: 1.5;
  stroke-dasharray: 2 2;
}

.bead {
  position: absolute;
  width: 10px;
  height: 10px;
  border: 2px solid;
  border-radius: 50%;
  background: currentcolor;
  transform: translate(-50%, -50%);
}

.bead.ring {
  background: var(--sheet);
}

.bead.small {
  width: 7px;
  height: 7px;
}

.bead.due {
  left: 11px;
  color: var(--due);
}

.bead.given {
  left: 27px;
  color: var(--given);
}
</style>
