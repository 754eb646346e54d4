<script setup lang="ts">
import { computed, ref } from "vue";

import { useEngines, useSheetMove } from "../../api/engines";
import EngineMove from "../../components/sql/EngineMove.vue";
import { useAttempt } from "../../composables/use-attempt";
import { counted } from "../../composables/words";

/** All exercises of a sheet moved to another engine at once: those that hold there. */
const props = defineProps<{ slug: string; title: string }>();

const engines = useEngines();
const wanted = ref("");
const isOpen = ref(false);
const { look, move } = useSheetMove(() => props.slug);
const { problem, isBusy, attempt } = useAttempt();
const label = computed(() => engines.value.find((one) => one.name === wanted.value)?.label ?? "");
const holding = computed(() => (look.data.value ?? []).filter((one) => one.holds));
const others = computed(() => (look.data.value ?? []).filter((one) => !one.holds));

function open(name: string): void {
  wanted.value = name;
  isOpen.value = true;
  look.mutate(name);
}

async function apply(): Promise<void> {
  if (await attempt(() => move.mutateAsync(wanted.value))) isOpen.value = false;
}
</script>

<template>
  <h2>Engine</h2>
  <p class="line"><label for="sheet-engine">move to</label>
    <ElSelect id="sheet-engine" :model-value="''" placeholder="an engine" @change="open(String($event))">
      <ElOption v-for="one in engines" :key="one.name" :value="one.name" :label="one.label" :disabled="Boolean(one.reason)">
        {{ one.label }} <small class="quiet">{{ one.reason ? "does not answer" : one.version }}</small>
      </ElOption>
    </ElSelect></p>
  <ElDialog v-model="isOpen" :title="`Move ${title} to ${label}`" append-to-body width="min(920px, 94vw)">
    <p v-if="look.isPending.value" role="status">Translating every exercise, and running it on both …</p>
    <p v-else-if="look.error.value || problem" class="problem" role="alert">{{ problem || look.error.value?.message }}</p>
    <template v-else-if="look.data.value">
      <p v-if="!look.data.value.length">Every exercise of the sheet is on {{ label }} already.</p>
      <p v-else>{{ counted(holding.length, "exercise") }} {{ holding.length === 1 ? "gives" : "give" }} the same there, with every trial as it was<template
        v-if="others.length">; {{ others.length }} {{ others.length === 1 ? "does" : "do" }} not, and {{ others.length === 1 ? "stays" : "stay" }} where {{ others.length === 1 ? "it is" : "they are" }}</template>.</p>
      <p v-if="holding.length" class="quiet">{{ holding.map((one) => one.title).join(", ") }}</p>
      <details v-for="one in others" :key="one.slug">
        <summary>{{ one.title }}</summary>
        <EngineMove :moved="one" from="now" />
      </details>
    </template>
    <template #footer>
      <ElButton @click="isOpen = false">Cancel</ElButton>
      <ElButton type="primary" :disabled="isBusy || look.isPending.value || !holding.length" @click="apply">Move {{ counted(holding.length, "exercise") }}</ElButton>
    </template>
  </ElDialog>
</template>

<style scoped>
.line {
  display: grid;
  grid-template-columns: 72px 1fr;
  align-items: center;
  gap: 8px;
}

.line label {
  color: var(--ink-3);
}

h2 {
  margin: 14px 0 4px;
  font-size: var(--size-1);
}
</style>
