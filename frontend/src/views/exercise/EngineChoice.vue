<script setup lang="ts">
import { computed, ref } from "vue";

import type { Schemas } from "../../api/client";
import { useEngineMove, useEngines } from "../../api/engines";
import { completed, type ExerciseContent, toPlain } from "../../api/exercises";
import EngineMove from "../../components/sql/EngineMove.vue";

/** The engine of an exercise; before it is another, its texts are looked at in that one's dialect. */
const props = defineProps<{ slug: string }>();
const content = defineModel<ExerciseContent>({ required: true });

const engines = useEngines();
const here = computed(() => engines.value.find((one) => one.name === (content.value.engine ?? "sqlite")));
/** What a stand-in keeps and what not. */
const FACTS = [["same", "The same"], ["undecided", "Left to an instructor"], ["other", "Otherwise"]] as const;
const wanted = ref("");
const isOpen = ref(false);
const move = useEngineMove(() => props.slug);
const to = computed(() => engines.value.find((one) => one.name === wanted.value));

function choose(name: string): void {
  if (name === content.value.engine) return;
  if (!content.value.reference.trim()) {
    content.value.engine = name;
    return;
  }
  wanted.value = name;
  isOpen.value = true;
  move.mutate({ content: toPlain(content.value), engine: name });
}

function takeAll(): void {
  if (move.data.value) content.value = completed(move.data.value.content as unknown as Schemas["Content"]);
  isOpen.value = false;
}

function takeEngine(): void {
  content.value.engine = wanted.value;
  isOpen.value = false;
}
</script>

<template>
  <span class="labelled">engine
    <ElSelect :model-value="content.engine ?? 'sqlite'" aria-label="engine" class="engine" @change="choose(String($event))">
      <ElOption v-for="one in engines" :key="one.name" :value="one.name" :label="one.label"
        :disabled="Boolean(one.reason) && one.name !== content.engine">
        {{ one.label }} <small class="quiet">{{ one.reason ? "does not answer" : one.version }}</small>
      </ElOption>
    </ElSelect>
    <ElPopover v-if="here && !here.reason" trigger="click" placement="bottom-start" :width="here.stand_in ? 880 : 380" :title="here.stand_in || `What ${here.label} has not`">
      <template #reference><ElButton link>{{ here.version.split("-")[0] }}</ElButton></template>
      <dl v-if="here.stand_in" class="facts">
        <div v-for="[sort, heading] in FACTS" :key="sort">
          <dt>{{ heading }}</dt>
          <dd v-for="one in here.facts[sort]" :key="one">{{ one }}</dd>
        </div>
      </dl>
      <ul v-else class="lacks"><li v-for="one in here.lacks" :key="one">{{ one }}</li></ul>
    </ElPopover>
  </span>
  <p v-if="here?.reason" class="problem" role="alert">{{ here.reason }} Answers to this exercise wait until it answers.</p>
  <ElDialog v-model="isOpen" :title="`Move to ${to?.label}`" append-to-body width="min(920px, 94vw)">
    <p v-if="move.isPending.value" role="status">Translating, and running on both …</p>
    <p v-else-if="move.error.value" class="problem" role="alert">{{ move.error.value.message }}</p>
    <EngineMove v-else-if="move.data.value" :moved="move.data.value" :from="here?.label ?? ''" />
    <template #footer>
      <ElButton @click="isOpen = false">Cancel</ElButton>
      <ElButton @click="takeEngine">Change the engine alone</ElButton>
      <ElButton type="primary" :disabled="!move.data.value || move.isPending.value" @click="takeAll">Use these texts on {{ to?.label }}</ElButton>
    </template>
  </ElDialog>
</template>

<style scoped>
.engine {
  width: 128px;
}

.lacks {
  margin: 0;
  padding-left: 16px;
}

.facts {
  display: grid;
  grid-template: auto 1fr / 1fr 1fr;
  gap: 10px 24px;
}

.facts div:first-child {
  grid-row: span 2;
}

.facts dt {
  font-weight: 600;
}

.facts dd {
  padding: 2px 0 2px 12px;
  text-indent: -12px;
  color: var(--ink-2);
}

.facts dd::before {
  content: "·";
  display: inline-block;
  width: 12px;
  text-indent: 0;
}
</style>
