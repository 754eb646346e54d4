<script setup lang="ts">
import Sortable from "sortablejs";
import { nextTick, onScopeDispose, ref, useTemplateRef, watch } from "vue";

import type { Schemas } from "../../api/client";
import ListColumn from "../../components/lists/ListColumn.vue";
import ListTable from "../../components/lists/ListTable.vue";

type Entry = Schemas["SheetContent"]["exercises"][number];

/** The exercises of a sheet in their order: moved, weighed, removed, added. */
const props = defineProps<{
  bySlug: Map<string, Schemas["ExerciseLine"]>;
  rest: Schemas["ExerciseLine"][];
}>();
const body = defineModel<Schemas["SheetContent"]>("body", { required: true });
const emit = defineEmits<{ add: [slug: string]; shift: [at: number, by: number] }>();
const chosen = ref("");
const list = useTemplateRef<{ $el: HTMLElement }>("list");

let sortable: Sortable | undefined;
watch(list, (table) => {
  const element = table?.$el.querySelector<HTMLElement>("tbody");
  sortable?.destroy();
  sortable = element
    ? Sortable.create(element, {
      handle: ".handle", animation: 120, forceFallback: true, ghostClass: "taken",
      onEnd({ item, oldIndex = 0, newIndex = 0 }) {
        if (oldIndex === newIndex) return;
        // The list is drawn from its data: what was dragged goes back, and the data moves.
        item.remove();
        element.insertBefore(item, element.children[oldIndex] ?? null);
        emit("shift", oldIndex, newIndex - oldIndex);
      },
    })
    : undefined;
});
onScopeDispose(() => sortable?.destroy());

/** With Alt and an arrow a row moves, and what had the focus in it keeps it. */
async function shiftByKey(event: KeyboardEvent): Promise<void> {
  const by = { ArrowUp: -1, ArrowDown: 1 }[event.key];
  if (!event.altKey || !by) return;
  event.preventDefault();
  const line = event.target instanceof HTMLElement ? event.target.closest("tr") : null;
  const at = line?.parentElement ? [...line.parentElement.children].indexOf(line) : -1;
  const to = at + by;
  if (at < 0 || to < 0 || to >= body.value.exercises.length) return;
  emit("shift", at, by);
  await nextTick();
  (event.target as HTMLElement | null)?.focus();
}

function titleOf(one: Entry): string {
  return props.bySlug.get(one.exercise)?.title ?? one.exercise;
}

function add(): void {
  if (chosen.value) emit("add", chosen.value);
  chosen.value = "";
}

function entryWords(one: Schemas["ExerciseLine"]): string {
  return `${one.title} (${one.sample}${one.sheets.length ? `, on ${one.sheets.join(", ")}` : ""})`;
}

function weigh(at: number, points: number | undefined): void {
  const entry = body.value.exercises[at];
  if (entry) entry.points = points ?? null;
}
</script>

<template>
  <ListTable v-if="body.exercises.length" ref="list" whole :rows="body.exercises" by="exercise" @keydown="shiftByKey">
    <ListColumn label="place" unseen class-name="place">
      <template #default="{ $index }"><span class="handle" aria-hidden="true" /> {{ $index + 1 }}</template>
    </ListColumn>
    <ListColumn label="exercise">
      <template #default="{ row }: { row: Entry }"><RouterLink :to="{ name: 'exercise', params: { slug: row.exercise } }">{{ titleOf(row) }}</RouterLink></template>
    </ListColumn>
    <ListColumn label="sample">
      <template #default="{ row }: { row: Entry }">{{ bySlug.get(row.exercise)?.sample }}</template>
    </ListColumn>
    <ListColumn label="tags" class-name="tags">
      <template #default="{ row }: { row: Entry }"><span class="quiet">{{ bySlug.get(row.exercise)?.tags.join(", ") }}</span></template>
    </ListColumn>
    <ListColumn label="points here">
      <template #default="{ row, $index }: { row: Entry; $index: number }"><ElInputNumber :controls="false" class="few" :min="0" :model-value="row.points ?? undefined" :placeholder="String(bySlug.get(row.exercise)?.points ?? '')" :aria-label="`points of ${titleOf(row)}`" @change="weigh($index, $event)" /></template>
    </ListColumn>
    <ListColumn label="move or remove" unseen class-name="moves">
      <template #default="{ row, $index }: { row: Entry; $index: number }">
        <ElButton link :disabled="$index === 0" :aria-label="`Move ${titleOf(row)} up`" @click="emit('shift', $index, -1)">up</ElButton>
        <ElButton link :disabled="$index === body.exercises.length - 1" :aria-label="`Move ${titleOf(row)} down`" @click="emit('shift', $index, 1)">down</ElButton>
        <ElButton link @click="body.exercises.splice($index, 1)">remove</ElButton>
      </template>
    </ListColumn>
  </ListTable>
  <p v-else class="quiet">No exercises on this sheet yet.</p>
  <p v-if="rest.length" class="add">
    <ElSelect v-model="chosen" placeholder="an exercise …" aria-label="exercise to add">
      <ElOption v-for="one in rest" :key="one.slug" :value="one.slug" :label="entryWords(one)" />
    </ElSelect>
    <ElButton :disabled="!chosen" @click="add">Add exercise</ElButton>
  </p>
</template>

<style scoped>
td a {
  color: var(--ink);
  font-weight: 650;
}

:deep(.place) {
  width: 48px;
  color: var(--ink-3);
  white-space: nowrap;
}

@media (max-width: 1150px) {
  :deep(.tags) {
    display: none;
  }
}

/* The two threads, to take hold of. */
.handle {
  display: inline-block;
  width: 10px;
  height: 18px;
  margin-right: 6px;
  border-right: 2px solid var(--given);
  border-left: 2px solid var(--due);
  vertical-align: middle;
  cursor: grab;
}

.taken {
  background: var(--given-wash);
}

.few {
  width: 64px;
}

:deep(.moves) {
  white-space: nowrap;
}

.moves button + button {
  margin-left: 10px;
}

.moves button:disabled {
  color: var(--ink-3);
  text-decoration: none;
  cursor: default;
}

.add {
  display: flex;
  gap: 8px;
  margin-top: 12px;
}

.add select {
  max-width: 420px;
}
</style>
