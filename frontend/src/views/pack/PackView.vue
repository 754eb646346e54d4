<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from "vue";
import { useRouter } from "vue-router";

import type { Schemas } from "../../api/client";
import FileDrop from "../../components/fields/FileDrop.vue";
import ListColumn from "../../components/lists/ListColumn.vue";
import ListTable from "../../components/lists/ListTable.vue";
import TextDifference from "../../components/text/TextDifference.vue";
import { useKeys } from "../../composables/use-keys";
import { type Choice, usePackImport, type What } from "./use-pack-import";

/** Taking a pack in: what is new, changed, in conflict, before anything is done. */
const router = useRouter();
const pack = usePackImport();
const { current, choices, problem, sending, phase, isWorking } = pack;

const isBeginning = computed(() => phase.value === "files");
const drop = useTemplateRef<InstanceType<typeof FileDrop>>("drop");
const preview = computed(() => current.value?.preview);
interface Row {
  what: What;
  item: Schemas["PackItem"];
}
const rows = computed<Row[]>(() =>
  (["samples", "exercises", "sheets"] as const).flatMap((what) =>
    (preview.value?.[what] ?? []).map((item) => ({ what, item })),
  ),
);
const shown = computed(() => rows.value.filter((row) => row.item.state !== "same"));
const same = computed(() => rows.value.length - shown.value.length);
const at = ref(0);
const chosen = computed(() => shown.value[at.value]);
watch(preview, () => {
  const conflict = shown.value.findIndex((row) => row.item.state === "conflict");
  at.value = Math.max(conflict, 0);
});

const STATE: Record<Schemas["PackItem"]["state"], string> = {
  new: "new", same: "the same", changed: "changed in the pack", conflict: "conflict",
};
const KIND: Record<What, string> = { samples: "sample", exercises: "exercise", sheets: "sheet" };
const CHOICES: Record<Choice, string> = {
  theirs: "take the pack's", ours: "keep ours", both: "import beside ours",
};

function options({ what, item }: Row): Choice[] {
  if (item.state === "new") return what === "samples" ? ["theirs"] : ["theirs", "ours"];
  if (what === "samples") return ["ours", "both"];
  return what === "sheets" ? ["ours", "theirs"] : ["ours", "theirs", "both"];
}

function words(row: Row, choice: Choice): string {
  if (row.item.state === "new") return choice === "theirs" ? "import it" : "leave it out";
  return CHOICES[choice];
}

function choiceOf({ what, item }: Row): Choice {
  return choices.value[what][item.id] ?? item.usual;
}

function turn({ what, item }: Row, choice: Choice): void {
  choices.value[what] = { ...choices.value[what], [item.id]: choice };
}

const counts = computed(() =>
  (["new", "changed", "conflict"] as const)
    .map((state) => [state, shown.value.filter((row) => row.item.state === state).length] as const)
    .filter(([, count]) => count)
    .map(([state, count]) => `${count} ${state === "conflict" ? "in conflict" : state}`)
    .join(", "),
);
const canTake = computed(() => phase.value === "proposed" && shown.value.length > 0);
const share = computed(() => {
  const { done, total } = current.value?.state ?? { done: 0, total: 0 };
  return total ? Math.min(1, done / total) : 0;
});

function move(by: number): void {
  at.value = Math.min(Math.max(at.value + by, 0), Math.max(shown.value.length - 1, 0));
}

useKeys([
  { key: "o", cap: "O", says: "choose a pack", act: () => drop.value?.choose() },
  { key: "ArrowDown", cap: "↓", says: "next difference", act: () => move(1) },
  { key: "ArrowUp", cap: "↑", says: "the one before", act: () => move(-1) },
  { key: "c", cap: "C", says: "another choice", act: () => {
    const row = chosen.value;
    if (!row) return;
    const all = options(row);
    turn(row, all[(all.indexOf(choiceOf(row)) + 1) % all.length] ?? row.item.usual);
  } },
  { key: "Enter", ctrl: true, cap: "Ctrl ⏎", says: "import it", act: () => { if (canTake.value) void pack.take(); } },
  { key: "Escape", cap: "Esc", says: "all exercises", act: () => void router.push({ name: "exercises" }) },
]);
</script>

<template>
  <main class="task pack" :class="{ beginning: isBeginning }">
    <section v-if="isBeginning" class="sheet">
      <h1>Import a pack</h1>
      <p class="quiet">You see what would change before anything does. Nothing is imported before you say so.</p>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <p v-else-if="sending" class="quiet" aria-live="polite">Sending {{ sending }} …</p>
      <div class="beginnings">
        <section aria-labelledby="way-pack">
          <h2 id="way-pack">A pack</h2>
          <FileDrop ref="drop" words="Drop the ZIP of a pack here" accept=".zip"
            @files="([file]) => file && pack.handIn(file)">
            <dl>
              <dt>pack.yaml</dt>
              <dd>what the pack is called, and its licence</dd>
              <dt>samples/</dt>
              <dd>a folder a sample: its schema, and CSV files of each dataset</dd>
              <dt>exercises/</dt>
              <dd>a folder an exercise: prompt, reference answer, alternatives and trials</dd>
              <dt>sheets/</dt>
              <dd>a file a sheet</dd>
            </dl>
          </FileDrop>
        </section>
        <section aria-labelledby="way-becomes">
          <h2 id="way-becomes">What becomes of what is here</h2>
          <dl class="becomes">
            <dt>new</dt>
            <dd>It is imported; an exercise or a sheet may be left out.</dd>
            <dt>the same</dt>
            <dd>Nothing is done.</dd>
            <dt>changed in the pack</dt>
            <dd>Yours is as it came from a pack: the pack's takes its place, unless you keep yours.</dd>
            <dt>conflict</dt>
            <dd>Yours was changed here and stays, unless you take the pack's, or of an exercise both.</dd>
          </dl>
          <p class="quiet">A sample that is here is never replaced: the pack's is left out, or goes beside it.</p>
        </section>
      </div>
    </section>
    <section v-if="!isBeginning">
      <h1>Import a pack</h1>
      <FileDrop ref="drop" words="Drop the ZIP of a pack here" accept=".zip"
        @files="([file]) => file && pack.handIn(file)" />
      <p v-if="sending" class="quiet" aria-live="polite">Sending {{ sending }} …</p>
      <p v-else-if="isWorking" aria-live="polite">
        {{ preview ? "Importing it" : "Looking at it" }} …
        <ElProgress :percentage="Math.round(share * 100)" :indeterminate="!share" :show-text="false" aria-label="progress" />
        <ElButton link @click="pack.stop()">Stop</ElButton>
      </p>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <ul v-if="phase === 'failed'" class="problem" role="alert">
        <li v-for="(one, place) in current?.state.problems" :key="place">{{ one.message }}</li>
      </ul>
      <p v-if="phase === 'stopped'" class="quiet">Stopped: nothing was changed.</p>
      <template v-if="preview">
        <h2>{{ preview.title }}</h2>
        <p class="quiet">{{ preview.licence }}</p>
        <p>{{ counts || "Everything in it is here already." }}{{ same ? `${counts ? ", " : " "}${same} the same` : "" }}</p>
        <p v-if="phase === 'kept'" class="done"><strong>Imported.</strong>
          <RouterLink :to="{ name: 'exercises' }">To the exercises</RouterLink></p>
        <p v-else class="done">
          <ElButton type="primary" :disabled="!canTake" @click="pack.take()">Import the pack</ElButton>
          <span class="quiet">all of it or nothing</span>
        </p>
      </template>
    </section>
    <section v-if="!isBeginning" class="sheet" aria-label="What would change">
      <ListTable v-if="shown.length" :rows="shown" :by="(row) => `${row.what}/${row.item.id}`" :chosen="at" :class-of="(row) => row.item.state" @choose="at = $event">
        <ListColumn label="in the pack">
          <template #default="{ row }: { row: Row }"><b>{{ row.item.title }}</b><small>{{ KIND[row.what] }} {{ row.item.id }}</small></template>
        </ListColumn>
        <ListColumn label="what it is" class-name="state">
          <template #default="{ row }: { row: Row }">{{ STATE[row.item.state] }}</template>
        </ListColumn>
        <ListColumn label="differs in">
          <template #default="{ row }: { row: Row }">{{ row.item.differing.join(", ") }}</template>
        </ListColumn>
        <ListColumn label="what becomes of it">
          <template #default="{ row, $index }: { row: Row; $index: number }">
            <ElSelect :model-value="choiceOf(row)" :disabled="phase !== 'proposed'" :aria-label="`what becomes of ${row.item.title}`" @focus="at = $index" @change="turn(row, $event as Choice)">
              <ElOption v-for="one in options(row)" :key="one" :value="one" :label="words(row, one)" />
            </ElSelect>
          </template>
        </ListColumn>
      </ListTable>
      <p v-else class="quiet">{{ preview ? "Nothing would change." : "The differences appear here." }}</p>
    </section>
    <aside v-if="!isBeginning" aria-label="How they differ">
      <template v-if="chosen">
        <h2>{{ chosen.item.title }}</h2>
        <p class="quiet under">{{ chosen.item.state === "conflict"
          ? "Ours was changed since it last came from a pack, or never came from one."
          : chosen.item.state === "changed" ? "Ours is as it came from a pack; the pack has changed."
            : "Nothing here has this name." }}</p>
        <TextDifference v-if="chosen.item.differences.length" :parts="chosen.item.differences" before="ours"
          after="pack" />
      </template>
    </aside>
  </main>
</template>

<style scoped>
.pack {
  grid-template-columns: clamp(240px, 23vw, 300px) 1fr clamp(300px, 31vw, 400px);
}

.pack > section > h2 {
  margin-top: 14px;
}

aside h2 {
  margin-top: 0;
}

.becomes {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 4px 16px;
  margin: 12px 0;
}

.becomes dt {
  font-weight: 600;
}

.becomes dd {
  color: var(--ink-2);
}

.under {
  margin: 2px 0 10px;
}

.done {
  display: flex;
  align-items: center;
  gap: 12px;
  margin-top: 12px;
}

td small {
  display: block;
}

:deep(.conflict .state) {
  color: var(--stop);
  font-weight: 700;
}
</style>
