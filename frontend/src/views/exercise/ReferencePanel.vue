<script setup lang="ts">
import { computed, provide, ref, useTemplateRef } from "vue";

import type { ExerciseContent } from "../../api/exercises";
import { useFunctions } from "../../api/queries";
import DataTable from "../../components/rows/DataTable.vue";
import LayoutPair from "../../components/sql/LayoutPair.vue";
import SqlEditor from "../../components/sql/SqlEditor.vue";
import { INSERT_VALUE } from "../../editor/literals";
import { counted } from "../../composables/words";
import type { ExerciseBench } from "./use-exercise-bench";

/** The reference answer in an editor, and what it gives on the open data. */
const props = defineProps<{ bench: ExerciseBench }>();
const content = defineModel<ExerciseContent>("content", { required: true });

const editor = useTemplateRef<InstanceType<typeof SqlEditor>>("editor");
const proof = computed(() => props.bench.proof.data.value);
const ran = computed(() => proof.value?.reference);
const mark = computed(() =>
  ran.value?.place ? { ...ran.value.place, length: Math.max(ran.value.near.length, 1) } : null,
);
const layout = computed(() => proof.value?.layout);
const seesLayout = ref(false);
const functions = useFunctions(() => content.value.engine);
provide(INSERT_VALUE, (literal) => editor.value?.insert(literal));

defineExpose({ focus: () => editor.value?.focus() });
</script>

<template>
  <SqlEditor ref="editor" v-model="content.reference" class="writing" label="reference answer"
    :tables="bench.schema.value" :functions="functions" :mark="mark" @run="bench.proof.refetch()" />
  <p v-if="ran?.message" class="problem said" role="alert">{{ ran.message }}</p>
  <p v-else-if="proof?.trouble" class="problem said" role="alert">{{ proof.trouble }}</p>
  <p v-if="layout?.changes.length" class="said">
    <ElButton link :aria-expanded="seesLayout" @click="seesLayout = !seesLayout">
      layout: {{ counted(layout.changes.length, "place") }}</ElButton>
  </p>
  <LayoutPair v-if="seesLayout && layout?.changes.length" :sql="content.reference" :layout="layout"
    @take="content.reference = layout.text" />
  <div class="rows" tabindex="0">
    <template v-if="ran?.result">
      <p class="quiet">{{ counted(ran.result.row_count, "row") }}, {{ counted(ran.result.columns.length, "column")
      }} due</p>
      <DataTable :result="ran.result" label="What is due" />
    </template>
    <p v-else-if="!content.reference.trim()" class="quiet">
      Write the query that gives what is due: its rows appear here.
    </p>
  </div>
</template>

<style scoped>
.writing {
  flex: none;
  min-height: 118px;
  max-height: 44%;
}

.said {
  padding: 6px 0 0;
}

.rows {
  flex: 1;
  min-height: 0;
  margin-top: 8px;
  overflow: auto;
}

.rows :deep(th) {
  z-index: 1;
  background: var(--sheet);
}
</style>
