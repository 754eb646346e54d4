<script setup lang="ts">
import { computed, defineAsyncComponent, ref, watch } from "vue";
import { useEventListener } from "@vueuse/core";
import { useRoute } from "vue-router";

import { isTyping, useKeyStore } from "../../composables/use-keys";

/** The line at the bottom: what keys do here, and the way to what is found, explained and listed. */
const GuideDrawer = defineAsyncComponent(() => import("../../guide/GuideDrawer.vue"));
const SearchDialog = defineAsyncComponent(() => import("../../search/SearchDialog.vue"));

const keys = useKeyStore();
const route = useRoute();
const areKeysOpen = ref(false);
const isGuideOpen = ref(false);
const isSearchOpen = ref(false);
const shown = computed(() => keys.actions.filter((action) => !action.rare));
const isInCourse = computed(() => Boolean(route.meta.part));

/** What is open above the page is all that there is, for keys and for whoever has pages read out. */
watch(
  () => areKeysOpen.value || isGuideOpen.value || isSearchOpen.value,
  (isCovered) => {
    const page = document.getElementById("app");
    if (page) page.inert = isCovered;
  },
  { flush: "sync" },
);

useEventListener(document, "keydown", (event: KeyboardEvent) => {
  if (event.key === "F1") {
    event.preventDefault();
    isGuideOpen.value = true;
  }
  if (isTyping(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key === "?") areKeysOpen.value = true;
  if (event.key === "/" && isInCourse.value) {
    event.preventDefault();
    isSearchOpen.value = true;
  }
});
</script>

<template>
  <footer class="keys">
    <div class="actions">
      <span v-for="action in shown" :key="action.cap">
        <kbd>{{ action.cap }}</kbd> {{ action.says }}
      </span>
    </div>
    <ElButton v-if="isInCourse" class="bare" @click="isSearchOpen = true"><kbd>/</kbd> search</ElButton>
    <ElButton class="bare" @click="isGuideOpen = true"><kbd>F1</kbd> help</ElButton>
    <ElButton class="bare all-keys" @click="areKeysOpen = true"><kbd>?</kbd> all keys</ElButton>
    <ElDialog v-model="areKeysOpen" title="Keys" append-to-body width="min(420px, 94vw)">
      <dl class="all">
        <template v-for="action in keys.actions" :key="action.cap">
          <dt><kbd>{{ action.cap }}</kbd></dt>
          <dd>{{ action.says }}</dd>
        </template>
        <template v-if="isInCourse">
          <dt><kbd>/</kbd></dt>
          <dd>search by name</dd>
        </template>
        <dt><kbd>F1</kbd></dt>
        <dd>help: the guide to this page</dd>
        <dt><kbd>Tab</kbd></dt>
        <dd>to the next link or control</dd>
        <dt><kbd>Esc</kbd></dt>
        <dd>close this list</dd>
      </dl>
    </ElDialog>
    <GuideDrawer v-if="isGuideOpen" v-model="isGuideOpen" />
    <SearchDialog v-if="isSearchOpen" v-model="isSearchOpen" />
  </footer>
</template>

<style scoped>
.keys {
  display: flex;
  flex: none;
  align-items: stretch;
  gap: 18px;
  height: 30px;
  margin-top: auto; /* at the bottom, also while there is nothing yet above it */
  padding: 0 var(--edge);
  border-top: 1px solid var(--line);
  color: var(--ink-2);
  line-height: 29px;
  white-space: nowrap;
}

/* What does not fit goes whole: it wraps out of sight, and stands in the list of all keys. */
.actions {
  display: flex;
  flex: 1;
  flex-wrap: wrap;
  gap: 0 18px;
  overflow: hidden;
}

button {
  flex: none;
  border: 0;
  padding: 0;
  background: none;
  color: inherit;
  font: inherit;
  cursor: pointer;
}

.all {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 8px 16px;
}

/* Without a keyboard there are no keys to tell. */
@media (hover: none) and (pointer: coarse), (max-width: 600px) {
  .actions > span,
  .all-keys,
  button kbd {
    display: none;
  }

  .keys {
    height: 36px;
    line-height: 35px;
  }

  button {
    padding: 0 6px;
    color: var(--given);
  }
}
</style>
