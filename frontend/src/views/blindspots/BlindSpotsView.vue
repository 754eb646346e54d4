<script setup lang="ts">
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import ListColumn from "../../components/lists/ListColumn.vue";
import ListTable from "../../components/lists/ListTable.vue";
import StateNotice from "../../components/notices/StateNotice.vue";
import { useKeys } from "../../composables/use-keys";
import { useSights } from "./use-sights";

/** What the data of each exercise cannot tell from its reference: all of the course, worst first. */
const router = useRouter();
const { lines, isPending, error, refetch, isLooking, isStopped, done, total, look, stop } = useSights();
type Line = (typeof lines.value)[number];
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
      <ListTable :rows="shown" by="slug" :chosen="at" @choose="at = $event">
        <ListColumn label="exercise">
          <template #default="{ row }: { row: Line }"><RouterLink :to="{ name: 'exercise', params: { slug: row.slug } }">{{ row.title }}</RouterLink></template>
        </ListColumn>
        <ListColumn label="blind spots" class-name="number">
          <template #default="{ row }: { row: Line }"><b v-if="row.sight">{{ row.sight.blind_spots.length || "–" }}</b></template>
        </ListColumn>
        <ListColumn label="told apart" class-name="share">
          <template #default="{ row }: { row: Line }"><template v-if="row.sight?.edits"><i aria-hidden="true"><b :style="{ width: `${(100 * (row.sight.edits - row.sight.blind_spots.length)) / row.sight.edits}%` }" /></i>
            <small>{{ row.sight.edits - row.sight.blind_spots.length }} of {{ row.sight.edits }}</small></template></template>
        </ListColumn>
        <ListColumn label="the likeliest">
          <template #default="{ row }: { row: Line }">
            <span v-if="row.trouble" class="quiet">{{ row.trouble }}</span>
            <span v-else-if="!row.sight" class="quiet">not looked at yet</span>
            <template v-else>
              <p v-for="spot in row.sight.blind_spots.slice(0, 2)" :key="spot.sql"><ElButton link @click="open(row.slug, spot.sql)">{{ spot.label }},
                line {{ spot.line }}</ElButton> <code>{{ spot.old.trim() || "+" }} → {{ spot.new.trim() || "left out" }}</code></p>
              <small v-if="row.sight.blind_spots.length > 2">and {{ row.sight.blind_spots.length - 2 }} more</small>
            </template>
          </template>
        </ListColumn>
      </ListTable>
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

:deep(.listing) {
  margin-top: 10px;
}

:deep(.share) {
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
