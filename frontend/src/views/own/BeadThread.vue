<script lang="ts">
/** A hint on the thread: opened, to be opened with one click, or kept shut. */
export interface Bead {
  label: string;
  state: "opened" | "open" | "shut";
  says: string;
  button: string;
}
</script>

<script setup lang="ts">
/** Hints as beads on a thread, the weakest first; the next one that is open has its button. */
const props = defineProps<{ beads: Bead[]; isBusy: boolean }>();
const emit = defineEmits<{ next: [] }>();

function isNext(at: number): boolean {
  return props.beads.findIndex((one) => one.state !== "opened") === at && props.beads[at]?.state === "open";
}
</script>

<template>
  <ol>
    <li v-for="(bead, at) in beads" :key="at" :class="bead.state">
      <p class="head"><i aria-hidden="true" /><b>{{ bead.label }}</b>
        <ElButton v-if="isNext(at)" :disabled="isBusy" @click="emit('next')">{{ bead.button }}</ElButton>
        <small v-else-if="bead.state === 'shut'">not yet</small></p>
      <p class="says">{{ bead.says }}</p>
    </li>
  </ol>
</template>

<style scoped>
ol {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  gap: 6px 14px;
  margin-top: 4px;
}

.head {
  position: relative;
  display: flex;
  align-items: center;
  gap: 6px;
}

li:not(:last-child) .head::after {
  content: "";
  flex: 1;
  border-top: 2px solid var(--due);
}

i {
  flex: none;
  width: 13px;
  height: 13px;
  border: 2px solid var(--due);
  border-radius: 50%;
}

.opened i {
  background: var(--due);
}

.shut i {
  border: 2px dashed var(--ink-3);
  border-radius: 0;
}

.shut .head::after {
  border-top-color: var(--line) !important;
}

.shut {
  color: var(--ink-3);
}
.says {
  white-space: pre-line;
}
</style>
