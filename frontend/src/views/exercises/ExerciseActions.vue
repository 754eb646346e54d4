<script setup lang="ts">
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import type { Schemas } from "../../api/client";
import { packAddress, useExerciseChanges } from "../../api/exercises";
import ConfirmButton from "../../components/fields/ConfirmButton.vue";
import { counted } from "../../composables/words";

/** What can be done with one exercise as a whole. */
const props = defineProps<{ exercise: Schemas["ExerciseLine"] }>();

const router = useRouter();
const changes = useExerciseChanges();
const problem = ref("");
const isCopying = ref(false);
const title = ref("");
const leaving = computed(() => {
  const { total } = props.exercise.counts;
  return `Delete ${props.exercise.title}${total ? ` and its ${counted(total, "answer")}` : ""}?`;
});

function ask(): void {
  isCopying.value = !isCopying.value;
  title.value = `${props.exercise.title}, again`;
  problem.value = "";
}

async function attempt(work: () => Promise<void>): Promise<void> {
  problem.value = "";
  try {
    await work();
    isCopying.value = false;
  } catch (refused) {
    problem.value = (refused as Error).message;
  }
}

async function copy(): Promise<void> {
  const made = await changes.copy.mutateAsync({ slug: props.exercise.slug, title: title.value });
  await router.push({ name: "exercise", params: { slug: made.slug } });
}

async function remove(): Promise<void> {
  await changes.remove.mutateAsync({ slug: props.exercise.slug, withAnswers: true });
}
</script>

<template>
  <p class="actions">
    <ElButton link :aria-expanded="isCopying" @click="ask">Copy</ElButton>
    <a :href="packAddress([exercise.slug])" download>Export as a pack</a>
    <ConfirmButton :question="leaving" yes="Delete" @confirm="attempt(remove)">Delete</ConfirmButton>
  </p>
  <form v-if="isCopying" @submit.prevent="attempt(copy)">
    <label>called <ElInput v-model="title" required /></label>
    <ElButton native-type="submit" type="primary">Copy exercise</ElButton>
  </form>
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
</template>

<style scoped>
.actions {
  display: flex;
  gap: 14px;
  margin-top: 14px;
  align-items: baseline;
}

form {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  margin-top: 8px;
}
</style>
