<script setup lang="ts">
import { computed, reactive, ref } from "vue";

import type { Schemas } from "../../api/client";
import { useSheets } from "../../api/exercises";
import { linkAddress, usePeopleChanges } from "../../api/people";
import ConfirmButton from "../../components/fields/ConfirmButton.vue";
import CourseTimeField from "../../components/fields/CourseTimeField.vue";
import ShownOnce from "../../components/fields/ShownOnce.vue";
import { useAttempt } from "../../composables/use-attempt";
import { counted } from "../../composables/words";

/** One learner: name, link, extensions; removed where that is wanted. */
const props = defineProps<{ learner: Schemas["LearnerLine"]; title: string }>();
const emit = defineEmits<{ gone: [] }>();
const changes = usePeopleChanges();
const { data: sheets } = useSheets();
const { problem, isBusy, attempt } = useAttempt();
const body = reactive({ code: props.learner.code, name: props.learner.name, email: props.learner.email });
const link = ref("");
const leaving = computed(
  () => `Remove ${props.learner.name} from the course? ${props.learner.submissions
    ? `${counted(props.learner.submissions, "answer")} go too.` : "Nothing was handed in."}`,
);
const sheet = ref("");
const closes = ref("");

const isChanged = computed(
  () => body.code !== props.learner.code || body.name !== props.learner.name || body.email !== props.learner.email,
);
const closing = computed(() => (sheets.value ?? []).filter((one) => one.closes));

function titleOf(slug: string): string {
  return sheets.value?.find((one) => one.slug === slug)?.title ?? slug;
}

function begin(slug: string): void {
  sheet.value = slug;
  closes.value = (closing.value.find((one) => one.slug === slug)?.closes ?? "").slice(0, 16);
}

function makeLink(): Promise<boolean> {
  return attempt(async () => {
    link.value = linkAddress((await changes.makeLink.mutateAsync(props.learner.id)).token);
  });
}

async function extend(slug: string, until: string | null): Promise<void> {
  const went = await attempt(() =>
    changes.extend.mutateAsync({ id: props.learner.id, sheet: slug, closes: until }),
  );
  if (went) sheet.value = closes.value = "";
}

async function remove(): Promise<void> {
  const went = await attempt(() =>
    changes.removeLearner.mutateAsync({ id: props.learner.id, withAnswers: props.learner.submissions > 0 }),
  );
  if (went) emit("gone");
}
</script>

<template>
  <h2>{{ learner.name }}</h2>
  <form class="form" @submit.prevent="attempt(() => changes.changeLearner.mutateAsync({ id: learner.id, body }))">
    <label>name <ElInput v-model="body.name" required /></label>
    <label>learner id <ElInput v-model="body.code" required /></label>
    <label>e-mail <ElInput v-model="body.email" type="email" /></label>
    <ElButton v-if="isChanged" native-type="submit" type="primary" :disabled="isBusy">Save</ElButton>
  </form>
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  <h3>Signing in</h3>
  <p>{{ learner.signed_up ? "Signs in already." : "Has not signed in yet." }}
    <ElButton link :disabled="isBusy" @click="makeLink">{{ learner.signed_up
      ? "a link for another password" : "a personal link" }}</ElButton></p>
  <template v-if="link">
    <ShownOnce :address="link" :label="`Link for ${learner.name}`" />
    <p class="quiet">Works once, for 30 days. It is not shown again.</p>
  </template>
  <h3>Extensions</h3>
  <ul>
    <li v-for="one in learner.extensions" :key="one.sheet">
      <span>{{ titleOf(one.sheet) }} <small>until {{ one.closes.slice(0, 16).replace("T", " ") }}</small></span>
      <ElButton link :disabled="isBusy" @click="extend(one.sheet, null)">withdraw</ElButton>
    </li>
  </ul>
  <p v-if="!closing.length" class="quiet">No sheet closes.</p>
  <p v-else class="line"><label class="only-read-aloud" for="extended-sheet">sheet</label>
    <ElSelect id="extended-sheet" :model-value="sheet" placeholder="extend a sheet …" @change="begin($event)">
      <ElOption v-for="one in closing" :key="one.slug" :value="one.slug" :label="one.title" />
    </ElSelect></p>
  <form v-if="sheet" class="line" @submit.prevent="extend(sheet, closes)">
    <label class="only-read-aloud" for="extended-until">until</label>
    <CourseTimeField id="extended-until" v-model="closes" required />
    <ElButton native-type="submit" :disabled="isBusy">Extend</ElButton>
  </form>
  <p class="last">
    <ConfirmButton :question="leaving" yes="Remove" :is-busy="isBusy" @confirm="remove">Remove from the course</ConfirmButton>
  </p>
</template>

<style scoped>
h3 {
  margin: 18px 0 4px;
}

.form {
  margin-top: 8px;
}

.line {
  display: flex;
  gap: 6px;
  margin-top: 6px;
}

li {
  display: flex;
  justify-content: space-between;
  padding: 4px 0;
  border-top: 1px solid var(--line);
}

.last {
  margin-top: 24px;
}
</style>
