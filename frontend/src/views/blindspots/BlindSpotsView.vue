<script setup lang="ts">
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import StateNotice from "../../components/StateNotice.vue";
import { useKeys } from "../../composables/use-keys";
import { useSights } from "./use-sights";

/** What the data of each exercise cannot tell from its reference: all of the course, worst first. */
const router = useRouter();
const { lines, isPending, error, refetch, isLooking, isStopped, done, total, look, stop } = useSights();
const sheet = ref("");
const sheets = computed(() => [...new Set(lines.value.flatMap((one) => one.sheets))]);
const shown = computed(() => lines.value.filter((one) => !sheet.value || one.sheets.includes(sheet.value)));
const at = ref(0);

function open(slug: string | undefined, spot = ""): void {
  if (slug) void router.push({ name: "exercise", params: { slug }, query: spot ? { shown: "spot", spot } : {} });
}

useKeys([
  { key: "ArrowDown", cap: "↓", says: "next exercise", act: () => { at.value = Math.min(at.value + 1, shown.value.length - 1); } },
  { key: "ArrowUp", cap: "↑", says: "exercise before", act: () => { at.value = Math.max(at.value - 1, 0); } },
  { key: "Enter", cap: "⏎", says: "open it", act: () => open(shown.value[at.value]?.slug) },
  { key: "Escape", cap: "Esc", says: "all exercises", act: () => void router.push({ name: "exercises" }) },
]);
</script>

<template>
  <StateNotice :waiting="isPending" :problem="error" @again="refetch()" />
  <main class="task blind">
    <section class="sheet">
      <div class="head">
        <h1>Blind spots</h1>
        <span role="status" class="quiet">{{ isLooking ? `looking at exercise ${done + 1} of ${total}` : isStopped && done < total
          ? `stopped after ${done} of ${total}` : "" }}</span>
        <ElButton v-if="isLooking" @click="stop">Stop</ElButton>
        <ElButton v-else-if="done < total" @click="look">Continue</ElButton>
        <ElSelect v-if="sheets.length" v-model="sheet" clearable placeholder="all sheets" aria-label="Sheet" class="which">
          <ElOption v-for="one in sheets" :key="one" :value="one" :label="one" />
        </ElSelect>
      </div>
      <p class="quiet">Plausible wrong queries that get full marks, as no dataset tells them from the reference answer. Rows
        close them.</p>
      <table class="listing">
        <thead>
          <tr><th scope="col">exercise</th><th scope="col" class="number">blind spots</th><th scope="col">told apart</th><th scope="col">the likeliest</th></tr>
        </thead>
        <tbody>
          <tr v-for="(one, place) in shown" :key="one.slug" :class="{ chosen: place === at }" @click="at = place">
            <td><RouterLink :to="{ name: 'exercise', params: { slug: one.slug } }">{{ one.title }}</RouterLink></td>
            <td class="number"><b v-if="one.sight">{{ one.sight.blind_spots.length || "–" }}</b></td>
            <td class="share"><template v-if="one.sight?.edits"><i aria-hidden="true"><b :style="{ width: `${(100 * (one.sight.edits - one.sight.blind_spots.length)) / one.sight.edits}%` }" /></i>
              <small>{{ one.sight.edits - one.sight.blind_spots.length }} of {{ one.sight.edits }}</small></template></td>
            <td>
              <span v-if="one.trouble" class="quiet">{{ one.trouble }}</span>
              <span v-else-if="!one.sight" class="quiet">not looked at yet</span>
              <template v-else>
                <p v-for="spot in one.sight.blind_spots.slice(0, 2)" :key="spot.sql"><ElButton link @click="open(one.slug, spot.sql)">{{ spot.label }},
                  line {{ spot.line }}</ElButton> <code>{{ spot.old.trim() || "+" }} → {{ spot.new.trim() || "left out" }}</code></p>
                <small v-if="one.sight.blind_spots.length > 2">and {{ one.sight.blind_spots.length - 2 }} more</small>
              </template>
            </td>
          </tr>
        </tbody>
      </table>
    </section>
  </main>
</template>

<style scoped>
.blind {
  grid-template-columns: 1fr;
}

.head {
  display: flex;
  align-items: center;
  gap: 12px;
}

.which {
  width: 220px;
  margin-left: auto;
}

.listing {
  margin-top: 10px;
}

.share {
  min-width: 170px;
}

.share i {
  display: inline-block;
  width: 90px;
  height: 7px;
  margin-right: 6px;
  border: 1px solid var(--due);
}

.share b {
  display: block;
  height: 100%;
  background: var(--due);
}

code {
  overflow-wrap: anywhere;
}
</style>
