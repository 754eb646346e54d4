<script setup lang="ts">
import { until } from "@vueuse/core";
import { computed, nextTick, ref, useId, useTemplateRef, watch } from "vue";
import { useRouter } from "vue-router";

import { foundPlaces, type Place, useOwnPlaces, useTaughtPlaces } from "./places";

/** A field, and under it what its words find: the first is chosen, the arrows choose others, Enter opens. */
const props = defineProps<{ part: "instructor" | "learner" }>();
const emit = defineEmits<{ found: [] }>();

const router = useRouter();
const { places, isComing } = props.part === "instructor" ? useTaughtPlaces() : useOwnPlaces();
const wanted = ref("");
const chosen = ref(0);
const listId = useId();
const field = useTemplateRef<{ focus(): void }>("field");
const list = useTemplateRef<HTMLElement>("list");
const found = computed(() => foundPlaces(places, wanted.value));

watch(found, () => { chosen.value = 0; });

async function move(by: number): Promise<void> {
  const count = found.value.length;
  if (!count) return;
  chosen.value = (chosen.value + by + count) % count;
  await nextTick();
  list.value?.children[chosen.value]?.scrollIntoView({ block: "nearest" });
}

/** Enter: what is typed quickly may be there before the names are. */
async function goToChosen(): Promise<void> {
  if (isComing.value) await until(isComing).toBe(false);
  const place = found.value[chosen.value];
  if (place) await go(place);
}

async function go(place: Place): Promise<void> {
  emit("found");
  await router.push(place.to);
}

defineExpose({ focus: () => field.value?.focus() });
</script>

<template>
  <div class="search">
    <ElInput ref="field" v-model="wanted" container-role="combobox" aria-label="Search by name" aria-autocomplete="list"
      aria-expanded="true" :aria-controls="listId"
      :aria-activedescendant="found.length ? `${listId}-${chosen}` : undefined"
      :placeholder="part === 'instructor' ? 'A sample, table, exercise, sheet, learner or page' : 'An exercise or a page'"
      @keydown.down.prevent="move(1)" @keydown.up.prevent="move(-1)" @keydown.enter.prevent="goToChosen" />
    <ul :id="listId" ref="list" class="found-places" role="listbox" aria-label="Found" tabindex="0">
      <li v-for="(place, at) in found" :id="`${listId}-${at}`" :key="`${place.kind} ${place.name} ${place.under}`"
        role="option" :aria-selected="at === chosen" :class="{ highlighted: at === chosen }"
        @mousemove="chosen = at" @mousedown.prevent @click="go(place)">
        <span class="kind">{{ place.kind }}</span> {{ place.name }} <small>{{ place.under }}</small>
      </li>
    </ul>
    <p v-if="isComing" class="quiet" role="status">Names are on their way …</p>
    <p v-else-if="!found.length" class="quiet" role="status">Nothing here is called so.</p>
  </div>
</template>

<style scoped>
.found-places {
  max-height: 46vh;
  margin-top: 8px;
  overflow: auto;
}

.found-places li {
  padding: 4px 8px;
  line-height: 20px;
  cursor: pointer;
}

.highlighted {
  background: var(--paper);
  box-shadow: inset 3px 0 var(--ink);
}

.kind {
  display: inline-block;
  width: 66px;
  color: var(--ink-3);
  font-size: var(--size-0);
}

small {
  margin-left: 8px;
  color: var(--ink-2);
}
</style>
