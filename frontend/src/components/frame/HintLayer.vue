<script setup lang="ts">
/**
 * The hints of the dense grids, which have thousands of cells: one tooltip for all that carries
 * `data-hint`, instead of one each.
 */
import { useEventListener } from "@vueuse/core";
import { computed, shallowRef } from "vue";

const pointed = shallowRef<HTMLElement>();
const words = computed(() => pointed.value?.dataset.hint ?? "");

function look(event: Event): void {
  const target = event.target instanceof Element ? event.target : null;
  pointed.value = target?.closest<HTMLElement>("[data-hint]") ?? undefined;
}

useEventListener(document, ["pointerover", "focusin"], look, { passive: true });
useEventListener(document, ["pointerdown", "scroll"], () => (pointed.value = undefined), {
  passive: true, capture: true,
});
useEventListener(document, "keydown", () => (pointed.value = undefined));
</script>

<template>
  <ElTooltip v-if="pointed" :key="words" visible virtual-triggering :virtual-ref="pointed" :content="words" />
</template>
