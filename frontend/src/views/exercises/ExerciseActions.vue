<script setup lang="ts">
import { ref } from "vue";
import { useRouter } from "vue-router";

import type { Schemas } from "../../api/client";
import { packAddress, useExerciseChanges } from "../../api/exercises";

/** What can be done with one exercise as a whole. */
const props = defineProps<{ exercise: Schemas["ExerciseLine"] }>();

const router = useRouter();
const changes = useExerciseChanges();
const problem = ref("");
const wish = ref<"" | "copy" | "delete">("");
const title = ref("");

function ask(next: "copy" | "delete"): void {
  wish.value = wish.value === next ? "" : next;
  title.value = `${props.exercise.title}, again`;
  problem.value = "";
}

async function doIt(): Promise<void> {
  problem.value = "";
  const { slug } = props.exercise;
  try {
    if (wish.value === "copy") {
      const made = await changes.copy.mutateAsync({ slug, title: title.value });
      await router.push({ name: "exercise", params: { slug: made.slug } });
    } else {
      await changes.remove.mutateAsync({ slug, withAnswers: true });
    }
    wish.value = "";
  } catch (refused) {
    problem.value = (refused as Error).message;
  }
}
</script>

<template>
  <p class="actions">
    <ElButton link @click="ask('copy')">copy</ElButton>
    <a :href="packAddress([exercise.slug])" download>pack</a>
    <ElButton link @click="ask('delete')">delete</ElButton>
  </p>
  <form v-if="wish === 'copy'" @submit.prevent="doIt">
    <label>called <ElInput v-model="title" required /></label>
    <ElButton native-type="submit" type="primary">Copy</ElButton>
  </form>
  <form v-if="wish === 'delete'" @submit.prevent="doIt">
    <p>{{ exercise.title }}{{ exercise.counts.total ? ` and its ${exercise.counts.total} answers` : "" }} will be
      gone.</p>
    <ElButton native-type="submit">Delete</ElButton>
  </form>
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
</template>

<style scoped>
.actions {
  display: flex;
  gap: 14px;
  margin-top: 14px;
  align-items: center;
}

form {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  margin-top: 8px;
}
</style>
