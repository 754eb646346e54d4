<script setup lang="ts">
import { ref } from "vue";

import { useVersionDifference, useVersions } from "../../api/samples";
import VersionList from "../../components/lists/VersionList.vue";
import WovenTable from "../../components/rows/WovenTable.vue";
import { useVersionChoice } from "../../composables/use-version-choice";
import { counted, dayAndTime } from "../../composables/words";
import type { Bench } from "./use-bench";

/** Every version of a dataset's rows: compared with another, brought back. */
const props = defineProps<{ bench: Bench }>();

const { data: versions, error } = useVersions(props.bench.name, props.bench.version);
const { chosen, against, last, between, step } = useVersionChoice(versions);
const { data: difference, isFetching } = useVersionDifference(props.bench.name, between);
const problem = ref("");

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
      <VersionList v-slot="{ version }" v-model="chosen" :versions="versions" :against="against">{{
        dayAndTime(version.made_at) }}{{ changesIn(version) ? ` · ${changesIn(version)}` : "" }}</VersionList>
    </section>
    <section class="difference" aria-label="What differs">
      <p class="tools">
        <strong>From</strong>
        <ElSelect v-model="against" aria-label="compared with version">
          <ElOption v-for="version in versions" :key="version.number" :value="version.number" :disabled="version.number === chosen" :label="`version ${version.number}`" />
        </ElSelect>
        <strong>to version {{ chosen }}</strong>
        <ElButton :disabled="chosen === last" @click="restore">
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
