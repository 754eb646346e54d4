<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef, watch } from "vue";
import { useRoute } from "vue-router";

import ProseText from "../components/text/ProseText.vue";
import { excerpt, foundSections, guidesFor, guideSections, type Reader, type Section } from "./sections";

/** The guide beside the work: the page that belongs to the view, and all others, searched. */
const open = defineModel<boolean>({ required: true });
const route = useRoute();

const reader = computed<Reader>(() => (route.meta.part === "instructor" ? "instructor" : "learner"));
const guide = ref("");
const wanted = ref("");
const body = useTemplateRef<HTMLElement>("body");
const field = useTemplateRef<{ focus(): void }>("field");

const guides = computed(() => guidesFor(reader.value));
const sections = computed(() => guideSections(guide.value));
const found = computed(() => foundSections(reader.value, wanted.value));

async function show(place: string): Promise<void> {
  const [name = "", id] = place.split("#");
  guide.value = name || guide.value;
  wanted.value = "";
  await nextTick();
  const heading = id ? body.value?.querySelector<HTMLElement>(`#guide-${CSS.escape(id)}`) : body.value;
  heading?.scrollIntoView({ block: "start" });
}

function titleOf(section: Section): string {
  return guides.value.find((one) => one.guide === section.guide)?.title ?? "";
}

/** Links from page to page of the guide stay in here. */
function follow(event: MouseEvent): void {
  const link = event.target instanceof Element ? event.target.closest("a") : null;
  const to = link?.getAttribute("href") ?? "";
  const place = /^(?:(\w+)\.md)?(#[\w-]+)?$/.exec(to);
  if (!link || !place) return;
  event.preventDefault();
  const [, name] = place;
  if (!name || guides.value.some((one) => one.guide === name)) void show(to.replace(".md", ""));
}

watch(
  open,
  async (now) => {
    if (!now) return;
    await show(String(route.meta.guide ?? guides.value[0]?.guide));
  },
  { flush: "post", immediate: true },
);
</script>

<template>
  <ElDrawer v-model="open" title="Help" append-to-body size="min(540px, 100vw)" body-class="guide"
    @opened="field?.focus()">
    <div class="find">
      <ElInput ref="field" v-model="wanted" placeholder="Search the guide" aria-label="Search the guide" clearable />
      <ElSelect v-if="guides.length > 1" :model-value="guide" aria-label="Guide" @change="show(String($event))">
        <ElOption v-for="one in guides" :key="one.guide" :value="one.guide" :label="one.title" />
      </ElSelect>
    </div>
    <ul v-if="wanted.trim()" class="found" aria-label="Found">
      <li v-for="one in found" :key="`${one.guide}#${one.id}`">
        <a :href="`${one.guide}.md#${one.id}`" @click.prevent="show(`${one.guide}#${one.id}`)">{{ one.heading }}</a>
        <small>{{ titleOf(one) }}</small>
        <p>{{ excerpt(one, wanted) }}</p>
      </li>
      <li v-if="!found.length" class="quiet">Nothing in the guide has all of these words.</li>
    </ul>
    <div v-else ref="body" class="body" @click="follow">
      <section v-for="one in sections" :key="one.id">
        <component :is="`h${Math.min(one.level + 1, 4)}`" :id="`guide-${one.id}`">{{ one.heading }}</component>
        <ProseText :text="one.text" class="guide-text" />
      </section>
    </div>
  </ElDrawer>
</template>

<style scoped>
.find {
  display: flex;
  gap: 10px;
  padding-bottom: 10px;
}

.find .el-select {
  flex: none;
  width: 190px;
}

.body,
.found {
  flex: 1;
  min-height: 0;
  overflow: auto;
}

.found li {
  padding: 7px 0;
  border-top: 1px solid var(--line);
}

.found small {
  margin-left: 8px;
}

h2 {
  margin: 0 0 6px;
}

h3,
h4 {
  margin: 14px 0 4px;
}

.guide-text {
  padding-left: 0;
  border-left: 0;
  font-size: var(--size-1);
}
</style>

<!-- Not scoped: the drawer's own body, and what Markdown became. -->
<style>
.guide {
  display: flex;
  flex-direction: column;
}

.guide-text ul,
.guide-text ol {
  padding-left: 18px;
  list-style: disc;
}

.guide-text li {
  padding: 1px 0;
}

.guide-text table {
  border-collapse: collapse;
}

.guide-text th,
.guide-text td {
  padding: 3px 8px 3px 0;
  border-bottom: 1px solid var(--line-soft);
  text-align: left;
  vertical-align: top;
}

.guide-text pre {
  overflow: auto;
  margin: 6px 0;
  padding: 6px 8px;
  background: var(--paper);
}
</style>
