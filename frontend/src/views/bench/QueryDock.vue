<script setup lang="ts">
import { computed, provide, ref, useTemplateRef } from "vue";
import { useRouter } from "vue-router";

import type { Schemas } from "../../api/client";
import { useEngineRuns, useEngines } from "../../api/engines";
import { useFunctions } from "../../api/queries";
import { columnsByTable, useQueryTrial, useRunNames, useTriedQueries } from "../../api/samples";
import DataTable from "../../components/rows/DataTable.vue";
import EngineRuns from "../../components/sql/EngineRuns.vue";
import RunHistory from "../../components/sql/RunHistory.vue";
import SqlEditor from "../../components/sql/SqlEditor.vue";
import WovenTable from "../../components/rows/WovenTable.vue";
import { counted } from "../../composables/words";
import { INSERT_VALUE } from "../../editor/literals";
import { type Piece, placeInWhole } from "../../editor/statements";
import { usePresented } from "../present/present";
import type { Bench } from "./use-bench";

/** Queries tried on the rows: run, found again, two of them compared as one woven table. */
const props = defineProps<{ bench: Bench }>();
const emit = defineEmits<{ leave: [] }>();

const { run, compare } = useQueryTrial(props.bench.name);
const names = useRunNames(() => props.bench.name.value.sample);
const { data: tried } = useTriedQueries(() => props.bench.name.value.sample);
const first = ref("");
const second = ref("");
const isComparing = ref(false);
const ran = ref<Piece>();
const ranText = ref("");
const listed = ref(false);
const editor = useTemplateRef<InstanceType<typeof SqlEditor>>("editor");
const other = useTemplateRef<InstanceType<typeof SqlEditor>>("other");

const schema = computed(() => columnsByTable(props.bench.tables.value));
const problem = computed(() =>
  run.data.value && run.data.value.verdict !== "ran" ? run.data.value : undefined,
);
const mark = computed(() => {
  const said = problem.value;
  if (!said?.place || !ran.value || ranText.value !== first.value) return null;
  return { ...placeInWhole(ran.value, said.place), length: Math.max(said.near.length, 1) };
});
const functions = useFunctions(() => engine.value);
function insert(literal: string): void {
  (isComparing.value ? other.value : editor.value)?.insert(literal);
}
provide(INSERT_VALUE, insert);
const engines = useEngines();
const engine = ref("sqlite");
const onAll = useEngineRuns(props.bench.name);
const showsEngines = ref(false);
const isBusy = computed(() => run.isPending.value || compare.isPending.value || onAll.isPending.value);
/** At once: a field that is hidden has the focus until the next frame, and the next key would go there. */
function leave(): void {
  (document.activeElement as HTMLElement | null)?.blur();
  emit("leave");
}
/** The same text on every engine, to see where they differ. */
function goOnAll(): void {
  if (!first.value.trim()) return;
  showsEngines.value = true;
  listed.value = false;
  onAll.mutate(editor.value?.piece()?.sql ?? first.value);
}

async function go(): Promise<void> {
  listed.value = false;
  showsEngines.value = false;
  if (!first.value.trim()) return;
  if (isComparing.value && second.value.trim()) {
    await compare.mutateAsync({ first: first.value, second: second.value }).catch(() => undefined);
  } else {
    ran.value = editor.value?.piece();
    ranText.value = first.value;
    await run.mutateAsync({ sql: ran.value?.sql ?? first.value, engine: engine.value }).catch(() => undefined);
  }
}

async function startComparing(): Promise<void> {
  isComparing.value = !isComparing.value;
  if (isComparing.value) {
    second.value ||= first.value;
    setTimeout(() => other.value?.focus());
  }
}

function take(line: Schemas["HistoryLine"]): void {
  if (isComparing.value) second.value = line.sql;
  else first.value = line.sql;
  listed.value = false;
  void go();
}

const router = useRouter();
const presented = usePresented();
/** The query on the projector, step by step. */
function present(): void {
  presented.value = { sql: first.value, ...props.bench.name.value, engine: engine.value, prompt: "", side: "due" };
  void router.push({ name: "present" });
}

const message = computed(
  () => (showsEngines.value ? onAll.error.value?.message : run.error.value?.message) ?? (isComparing.value ? compare.error.value?.message : undefined),
);

defineExpose({ focus: () => editor.value?.focus(), insert });
</script>

<template>
  <section class="dock" aria-label="Try a query">
    <div class="texts" :class="{ two: isComparing }">
      <SqlEditor ref="editor" v-model="first" label="query" :engine="engine" :tables="schema" :functions="functions" :mark="mark"
        @run="go" @leave="leave" />
      <SqlEditor v-if="isComparing" ref="other" v-model="second" label="second query" :engine="engine"
        :tables="schema" :functions="functions" @run="go" @leave="leave" />
    </div>
    <p class="said">
      <ElButton type="primary" :disabled="isBusy" @click="go">
        {{ isComparing ? "Compare" : "Run" }}
      </ElButton>
      <ElSelect v-if="!isComparing" v-model="engine" aria-label="engine" class="engine">
        <ElOption v-for="one in engines" :key="one.name" :value="one.name" :label="one.label" :disabled="Boolean(one.reason)" />
      </ElSelect>
      <span v-if="isBusy" class="quiet">running …</span>
      <strong v-else-if="!isComparing && !showsEngines && run.data.value?.result">{{
        counted(run.data.value.result.row_count, "row") }}</strong>
      <strong v-else-if="isComparing && compare.data.value" :class="{ problem: !compare.data.value.same }">{{
        compare.data.value.same ? "the same result" : "not the same" }}</strong>
      <span v-if="isComparing && compare.data.value">{{ compare.data.value.message }}</span>
      <ElButton link @click="startComparing">
        {{ isComparing ? "only one query" : "compare with another query" }}
      </ElButton>
      <ElButton v-if="!isComparing && first.trim()" link @click="goOnAll">on every engine</ElButton>
      <ElButton v-if="!isComparing && first.trim()" link @click="present">Present</ElButton>
      <ElButton v-if="tried?.length" link :aria-expanded="listed" @click="listed = !listed">Earlier runs {{ tried.length }}</ElButton>
    </p>
    <p v-if="message" class="problem" role="alert">{{ message }}</p>
    <p v-if="problem && !isComparing && !showsEngines" class="problem" role="alert">{{ problem.message }}</p>
    <RunHistory v-if="listed" class="earlier" :lines="tried ?? []" with-dataset @take="take"
      @name="(line, name) => names.mutate({ id: line.id, name })" />
    <div v-else class="result">
      <WovenTable v-if="isComparing && compare.data.value?.woven" :woven="compare.data.value.woven"
        :only-differences="false" due="first" given="second" />
      <EngineRuns v-else-if="showsEngines && onAll.data.value" :runs="onAll.data.value" />
      <DataTable v-else-if="!isComparing && run.data.value?.result" :result="run.data.value.result"
        label="The query's rows" />
    </div>
  </section>
</template>

<style scoped>
.dock {
  display: flex;
  flex-direction: column;
  min-height: 0;
  height: 100%;
}

.texts {
  display: grid;
  flex: none;
  gap: 8px;
  height: 84px;
}

.two {
  grid-template-columns: 1fr 1fr;
}

.said {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 12px;
  padding: 6px 0;
}

.engine {
  width: 124px;
}

.result,
.earlier {
  flex: 1;
  min-height: 0;
  overflow: auto;
}

.result :deep(th) {
  background: var(--sheet);
  z-index: 1;
}

</style>
