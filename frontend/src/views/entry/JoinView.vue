<script setup lang="ts">
import { ref } from "vue";
import { useRoute, useRouter } from "vue-router";

import { dataOf, type Schemas, site } from "../../api/client";
import { useAttempt } from "../../composables/use-attempt";
import { useSession } from "../../composables/use-session";
import AccountForm from "./AccountForm.vue";
import EntryPage from "./EntryPage.vue";

/** Joining a course by its code. */
const route = useRoute();
const router = useRouter();
const session = useSession();
const { problem, isBusy, attempt } = useAttempt();
const code = ref(String(route.params.code ?? ""));
const course = ref("");
const name = ref("");
const login = ref("");
const password = ref("");

function look(): Promise<boolean> {
  return attempt(async () => {
    const path = { code: code.value.trim() };
    course.value = (await dataOf(site.GET("/api/joining/{code}", { params: { path } }))).course;
  });
}
if (code.value) void look();

async function go(work: () => Promise<Schemas["Entered"]>): Promise<void> {
  await attempt(async () => {
    const said = session.entered(await work());
    await router.push(`/courses/${said.course}/own`);
  });
}

function join(): Promise<void> {
  const path = { code: code.value.trim() };
  const body = { name: name.value, login: login.value, password: password.value };
  return go(() => dataOf(site.POST("/api/joining/{code}", { params: { path }, body })));
}

function joinAsMe(): Promise<void> {
  const path = { code: code.value.trim() };
  return go(() => dataOf(site.POST("/api/joining/{code}/as-me", { params: { path } })));
}
</script>

<template>
  <EntryPage :title="course ? `Join ${course}` : 'Join a course'">
    <form v-if="!course" class="form" @submit.prevent="look">
      <label>the code of the course
        <ElInput v-model="code" class="code" name="code" autocomplete="off" autofocus required /></label>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <ElButton native-type="submit" type="primary" :disabled="isBusy">Look for it</ElButton>
    </form>
    <template v-else-if="session.me">
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <ElButton type="primary" :disabled="isBusy" @click="joinAsMe">Join as {{
        session.me.name }}</ElButton>
    </template>
    <AccountForm v-else v-model:name="name" v-model:login="login" v-model:password="password" ask-name ask-login
      :problem="problem" :is-busy="isBusy" says="Join" @send="join" />
    <template #beside>
      <p>Whoever teaches the course shows the code.</p>
      <p v-if="!session.me">Have you been here before?
        <RouterLink :to="{ name: 'sign-in', query: { to: code ? `/join/${code}` : '/join' } }">Sign in</RouterLink>
        first.</p>
      <p v-if="!session.me">Did you get a personal link? Use that one instead: it knows who you are in the
        course.</p>
    </template>
  </EntryPage>
</template>

<style scoped>
.code {
  font: 600 var(--size-3) var(--data);
  letter-spacing: 2px;
  text-transform: uppercase;
}

aside p + p {
  margin-top: 8px;
}
</style>
