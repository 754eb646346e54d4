<script setup lang="ts">
import Sortable from "sortablejs";
import { nextTick, onScopeDispose, ref, useTemplateRef, watch } from "vue";

import type { Schemas } from "../../api/client";

/** The exercises of a sheet in their order: moved, weighed, removed, added. */
defineProps<{
  bySlug: Map<string, Schemas["ExerciseLine"]>;
  rest: Schemas["ExerciseLine"][];
}>();
const body = defineModel<Schemas["SheetContent"]>("body", { required: true });
const emit = defineEmits<{ add: [slug: string]; shift: [at: number, by: number] }>();
const chosen = ref("");
const rows = useTemplateRef<HTMLElement>("rows");

let sortable: Sortable | undefined;
watch(rows, (element) => {
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
async function shiftByKey(event: KeyboardEvent, at: number): Promise<void> {
  const by = { ArrowUp: -1, ArrowDown: 1 }[event.key];
  if (!event.altKey || !by) return;
  event.preventDefault();
  const to = at + by;
  if (to < 0 || to >= body.value.exercises.length) return;
  emit("shift", at, by);
  await nextTick();
  (event.target as HTMLElement | null)?.focus();
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
  <table v-if="body.exercises.length" class="listing">
    <thead>
      <tr>
        <th scope="col"><span class="only-read-aloud">place</span></th>
        <th scope="col">exercise</th>
        <th scope="col">sample</th>
        <th scope="col" class="tags">tags</th>
        <th scope="col">points here</th>
        <th scope="col"><span class="only-read-aloud">move or remove</span></th>
      </tr>
    </thead>
    <tbody ref="rows">
      <tr v-for="(entry, at) in body.exercises" :key="entry.exercise" @keydown="shiftByKey($event, at)">
        <td class="place"><span class="handle" aria-hidden="true" /> {{ at + 1 }}</td>
        <td>
          <RouterLink :to="{ name: 'exercise', params: { slug: entry.exercise } }">{{
            bySlug.get(entry.exercise)?.title ?? entry.exercise }}</RouterLink>
        </td>
        <td>{{ bySlug.get(entry.exercise)?.sample }}</td>
        <td class="quiet tags">{{ bySlug.get(entry.exercise)?.tags.join(", ") }}</td>
        <td><ElInputNumber :controls="false" class="few" :min="0" :model-value="entry.points ?? undefined" :placeholder="String(bySlug.get(entry.exercise)?.points ?? '')" :aria-label="`points of ${bySlug.get(entry.exercise)?.title}`" @change="weigh(at, $event)" /></td>
        <td class="moves">
          <ElButton link :disabled="at === 0" :aria-label="`Move ${bySlug.get(entry.exercise)?.title} up`" @click="emit('shift', at, -1)">up</ElButton>
          <ElButton link :disabled="at === body.exercises.length - 1" :aria-label="`Move ${bySlug.get(entry.exercise)?.title} down`" @click="emit('shift', at, 1)">down</ElButton>
          <ElButton link @click="body.exercises.splice(at, 1)">remove</ElButton>
        </td>
      </tr>
    </tbody>
  </table>
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

.place {
  width: 48px;
  color: var(--ink-3);
  white-space: nowrap;
}

@media (max-width: 1150px) {
  .tags {
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

.moves {
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
