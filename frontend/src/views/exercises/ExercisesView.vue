<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef, watch } from "vue";
import { useRouter } from "vue-router";

import type { Schemas } from "../../api/client";
import { packAddress, useExerciseChanges } from "../../api/exercises";
import { useSamples } from "../../api/samples";
import { FINDING_WORDS } from "../../api/terms";
import EmptyCourse from "../../components/notices/EmptyCourse.vue";
import ProseText from "../../components/text/ProseText.vue";
import ListColumn from "../../components/lists/ListColumn.vue";
import ListTable from "../../components/lists/ListTable.vue";
import StateNotice from "../../components/notices/StateNotice.vue";
import VerdictBar from "../../components/verdict/VerdictBar.vue";
import { useInAddress } from "../../composables/use-address";
import { useKeys } from "../../composables/use-keys";
import { counted } from "../../composables/words";
import ExerciseActions from "./ExerciseActions.vue";
import { STATES, useExerciseList } from "./use-exercise-list";

type Line = Schemas["ExerciseLine"];

const router = useRouter();
const list = useExerciseList();
const {
  exercises, tag, sample: inSample, sheet, state, sort, tags, sheets, isNarrowed, chosen, chosenAt, isPending, error,
  refetch, move,
} = list;
const { data: samples } = useSamples();
const changes = useExerciseChanges();

const isBeginning = ref(false);
const title = ref("");
const sample = ref("");
const problem = ref("");
const titleField = useTemplateRef<{ focus(): void }>("titleField");

async function ask(): Promise<void> {
  isBeginning.value = !isBeginning.value;
  sample.value ||= samples.value?.[0]?.name ?? "";
  await nextTick();
  titleField.value?.focus();
}

/** The way through an empty course leads here with the wish for a new exercise. */
const isAsked = useInAddress("new", "");
watch(
  [isAsked, samples],
  () => {
    if (!isAsked.value || !samples.value) return;
    isAsked.value = "";
    if (!isBeginning.value) void ask();
  },
  { immediate: true },
);

async function begin(): Promise<void> {
  problem.value = "";
  try {
    const made = await changes.begin.mutateAsync({ title: title.value, sample: sample.value });
    open(made.slug);
  } catch (refused) {
    problem.value = (refused as Error).message;
  }
}

const most = computed(() => Math.max(1, ...(chosen.value?.kinds ?? []).map((one) => one.count)));

function open(slug: string | undefined): void {
  if (slug) void router.push({ name: "exercise", params: { slug } });
}

useKeys([
  { key: "ArrowDown", cap: "↓", says: "next exercise", act: () => move(1) },
  { key: "ArrowUp", cap: "↑", says: "exercise before", act: () => move(-1) },
  { key: "Enter", cap: "⏎", says: "open it", act: () => open(chosen.value?.slug) },
  { key: "n", cap: "N", says: "new exercise", act: () => void ask() },
  { key: "i", cap: "I", says: "import a pack", act: () => void router.push({ name: "pack" }) },
  { key: "t", cap: "T", says: "import answers", act: () => void router.push({ name: "taking" }) },
]);
</script>

<template>
  <main class="task list" :class="{ alone: !chosen }">
    <section class="sheet">
      <div class="head">
        <h1>Exercises</h1>
        <span class="right">
          <RouterLink :to="{ name: 'blind-spots' }">Blind spots</RouterLink>
          <RouterLink :to="{ name: 'taking' }">Import answers</RouterLink>
          <RouterLink :to="{ name: 'pack' }">Import a pack</RouterLink>
          <a :href="packAddress([])" download>Export all as a pack</a>
          <ElButton type="primary" :aria-expanded="isBeginning" @click="ask">New
            exercise</ElButton>
        </span>
      </div>
      <form v-if="isBeginning" class="begin" @submit.prevent="begin" @keydown.esc="isBeginning = false">
        <label>title <ElInput ref="titleField" v-model="title" required /></label>
        <span class="labelled">over <ElSelect v-model="sample" aria-label="over" placeholder="a sample" required>
          <ElOption v-for="one in samples" :key="one.name" :value="one.name" :label="one.name" />
        </ElSelect></span>
        <ElButton native-type="submit" type="primary">Create exercise</ElButton>
        <span v-if="problem" class="problem" role="alert">{{ problem }}</span>
      </form>
      <StateNotice :waiting="isPending" :problem="error" @again="refetch()" />
      <div v-if="isNarrowed || exercises?.length" class="filters" role="group" aria-label="Which exercises">
        <ElSelect v-model="inSample" clearable placeholder="all samples" aria-label="Of the sample" :empty-values="['']" value-on-clear="">
          <ElOption v-for="one in list.samples.value" :key="one" :value="one" :label="one" />
        </ElSelect>
        <ElSelect v-model="sheet" clearable placeholder="all sheets" aria-label="On the sheet" :empty-values="['']" value-on-clear="">
          <ElOption v-for="one in sheets" :key="one" :value="one" :label="one" />
        </ElSelect>
        <ElSelect v-model="tag" clearable filterable placeholder="all tags" aria-label="With the tag" :empty-values="['']" value-on-clear="">
          <ElOption v-for="one in tags" :key="one" :value="one" :label="one" />
        </ElSelect>
        <ElSelect v-model="state" clearable placeholder="in any state" aria-label="In the state" :empty-values="['']" value-on-clear="">
          <ElOption v-for="(one, name) in STATES" :key="name" :value="name" :label="one.says" />
        </ElSelect>
        <ElButton v-if="isNarrowed" link @click="list.showAll()">Show all</ElButton>
        <span class="quiet" aria-live="polite">{{ counted(exercises?.length ?? 0, "exercise") }}</span>
      </div>
      <p v-if="exercises && !exercises.length && isNarrowed" class="quiet">No exercise is like that.</p>
      <EmptyCourse v-else-if="exercises && !exercises.length" />
      <ListTable v-if="exercises?.length" v-model:sort="sort" :rows="exercises" by="slug" :chosen="chosenAt"
        :falling="['points']" @choose="chosenAt = $event" @open="open($event.slug)">
        <ListColumn label="number" unseen class-name="place">
          <template #default="{ $index }">{{ $index + 1 }}</template>
        </ListColumn>
        <ListColumn prop="title" label="exercise" sorts="rising">
          <template #default="{ row, $index }: { row: Line; $index: number }">
            <RouterLink :to="{ name: 'exercise', params: { slug: row.slug } }"
              @focus="chosenAt = $index">{{ row.title }}</RouterLink>
            <small class="tags">{{ row.tags.join(", ") }}{{ row.has_draft
              ? `${row.tags.length ? " · " : ""}draft` : "" }}</small>
          </template>
        </ListColumn>
        <ListColumn prop="sample" label="sample" sorts="rising" />
        <ListColumn prop="sheet" label="sheet" class-name="sheets" sorts="rising">
          <template #default="{ row }: { row: Line }">{{ row.sheets.join(", ") }}</template>
        </ListColumn>
        <ListColumn prop="points" label="points" class-name="number" sorts="falling" />
        <ListColumn prop="trials" label="trials" class-name="number" sorts="rising" />
        <ListColumn prop="right" label="answers, and how they came out" class-name="outcome" sorts="rising">
          <template #default="{ row }: { row: Line }"><VerdictBar :counts="row.counts" /></template>
        </ListColumn>
      </ListTable>
    </section>
    <aside v-if="chosen" aria-label="The exercise chosen">
      <h2>{{ chosen.title }}</h2>
      <p class="quiet under">
        {{ counted(chosen.points, "point") }} · sample {{ chosen.sample }}
      </p>
      <ProseText :text="chosen.prompt" />
      <template v-if="chosen.kinds.length">
        <h3>What went wrong</h3>
        <ul>
          <li v-for="kind in chosen.kinds" :key="kind.code">
            <span>{{ FINDING_WORDS[kind.code as keyof typeof FINDING_WORDS] }}</span>
            <i aria-hidden="true" :style="{ width: `${(kind.count / most) * 90}px` }" />
            <b>{{ kind.count }}</b>
          </li>
        </ul>
      </template>
      <p class="next">
        <RouterLink :to="{ name: 'exercise', params: { slug: chosen.slug } }">
          Open it with its answers
        </RouterLink>
      </p>
      <ExerciseActions :key="chosen.slug" :exercise="chosen" />
    </aside>
  </main>
</template>

<style scoped>
.list {
  grid-template-columns: 1fr clamp(270px, 28vw, 360px);
}

.alone {
  grid-template-columns: 1fr;
}

.head {
  display: flex;
  align-items: center;
  gap: 14px;
  margin-bottom: 10px;
}

.filters {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 10px;
  margin-bottom: 6px;
}

.filters .el-select {
  width: 168px;
}

.right {
  display: flex;
  align-items: center;
  gap: 14px;
  margin-left: auto;
}

.begin {
  display: flex;
  align-items: center;
  gap: 12px;
  margin-bottom: 10px;
}

.tags {
  display: block;
}

:deep(.place) {
  width: 34px;
  color: var(--ink-3);
}

td a {
  color: var(--ink);
  font-size: var(--size-2);
  font-weight: 650;
  text-decoration: none;
}

td a:hover {
  text-decoration: underline;
}

:deep(.sheets) {
  min-width: 170px;
}

:deep(.outcome) {
  width: 32%;
}

.under {
  margin: 2px 0 8px;
}

h3 {
  margin: 18px 0 4px;
}

li {
  display: grid;
  grid-template-columns: 1fr 90px 24px;
  align-items: center;
  gap: 10px;
  padding: 4px 0;
  border-top: 1px solid var(--line-soft);
}

li i {
  height: 7px;
  background: var(--given);
}

li b {
  text-align: right;
}

.next {
  margin-top: 14px;
}
</style>
