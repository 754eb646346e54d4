<script setup lang="ts">
import { computed, ref, watch } from "vue";

import { useVersionDifference, useVersions } from "../../api/samples";
import WovenTable from "../../components/WovenTable.vue";
import { counted, dayAndTime } from "../../composables/words";
import type { Bench } from "./use-bench";

/** Every version of a dataset's rows: compared with another, brought back. */
const props = defineProps<{ bench: Bench }>();

const { data: versions, error } = useVersions(props.bench.name, props.bench.version);
const chosen = ref(0);
const against = ref(0);
watch(
  versions,
  (found) => {
    if (!found?.length) return;
    if (!chosen.value || chosen.value > (found[0]?.number ?? 0)) chosen.value = found[0]?.number ?? 1;
    against.value = Math.min(against.value || 1, found[0]?.number ?? 1);
  },
  { immediate: true },
);
watch(chosen, (number) => {
  against.value = number > 1 ? number - 1 : (versions.value?.[0]?.number ?? 1);
});

const between = computed(() => ({
  older: Math.min(chosen.value, against.value),
  newer: Math.max(chosen.value, against.value),
}));
const { data: difference, isFetching } = useVersionDifference(props.bench.name, between);
const current = computed(() => versions.value?.[0]?.number ?? 0);
const problem = ref("");

function step(by: number): void {
  const last = versions.value?.length ?? 1;
  chosen.value = Math.min(Math.max(chosen.value - by, 1), last);
}

async function restore(): Promise<void> {
  problem.value = "";
  try {
    const made = await props.bench.changes.restore.mutateAsync(chosen.value);
    chosen.value = made.number;
  } catch (refused) {
    problem.value = (refused as Error).message;
  }
}

function changesIn(version: { added: number; changed: number; removed: number }): string {
  return [
    version.added && `${version.added} added`,
    version.changed && `${version.changed} changed`,
    version.removed && `${version.removed} removed`,
  ]
    .filter(Boolean)
    .join(", ");
}

defineExpose({ step, restore });
</script>

<template>
  <div class="versions">
    <section class="list" aria-label="Versions">
      <h2>Versions of {{ bench.name.value.dataset }}</h2>
      <p v-if="error" class="problem">{{ error.message }}</p>
      <ol>
        <li v-for="version in versions" :key="version.number"
          :class="{ chosen: version.number === chosen, before: version.number === against }">
          <button type="button" :aria-current="version.number === chosen"
            @click="chosen = version.number">
            <b>{{ version.number }}</b>
            <span>{{ version.summary }}<small>{{ dayAndTime(version.made_at) }}{{
              changesIn(version) ? ` · ${changesIn(version)}` : "" }}</small></span>
          </button>
        </li>
      </ol>
    </section>
    <section class="difference" aria-label="What differs">
      <p class="tools">
        <strong>From</strong>
        <ElSelect v-model="against" aria-label="compared with version">
          <ElOption v-for="version in versions" :key="version.number" :value="version.number" :disabled="version.number === chosen" :label="`version ${version.number}`" />
        </ElSelect>
        <strong>to version {{ chosen }}</strong>
        <ElButton :disabled="chosen === current" @click="restore">
          Bring version {{ chosen }} back
        </ElButton>
      </p>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <p v-if="isFetching" class="quiet">Comparing …</p>
      <p v-else-if="difference && !difference.length" class="quiet">
        The rows of both versions are the same.
      </p>
      <template v-for="one in difference" :key="one.table">
        <h3>{{ one.table }} <small>{{ changesIn(one) }}</small></h3>
        <WovenTable :woven="one.woven" :only-differences="false"
          :due="chosen < against ? 'later' : 'before'" :given="chosen < against ? 'then' : 'after'" />
        <p v-if="one.woven.left_out" class="quiet">
          and {{ counted(one.woven.left_out, "row") }} more
        </p>
      </template>
    </section>
  </div>
</template>

<style scoped>
.versions {
  display: grid;
  grid-template-columns: 300px 1fr;
  gap: 16px;
  height: 100%;
  min-height: 0;
}

.versions > * {
  min-height: 0;
  min-width: 0;
  overflow: auto;
}

.list button {
  display: grid;
  grid-template-columns: 26px 1fr;
  gap: 6px;
  width: 100%;
  padding: 5px 6px 5px 0;
  border: 0;
  border-top: 1px solid var(--line-soft);
  background: none;
  color: var(--ink);
  font: inherit;
  text-align: left;
  overflow-wrap: anywhere;
  cursor: pointer;
}

.list b {
  text-align: right;
}

.list small {
  display: block;
}

.chosen button {
  background: var(--paper);
  box-shadow: inset 3px 0 var(--given);
}

.before button {
  box-shadow: inset 3px 0 var(--due);
}

.tools {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  margin-bottom: 8px;
}

.tools .el-button {
  margin-left: auto;
}

.difference :deep(thead th) {
  position: static;
}

h3 {
  margin: 10px 0 4px;
}
</style>
