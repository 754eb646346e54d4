<script setup lang="ts">
import { computed, ref } from "vue";
import { useRoute, useRouter } from "vue-router";

import { dataOf, type Schemas, site } from "../../api/client";
import { useAttempt } from "../../composables/use-attempt";
import { useSession } from "../../composables/use-session";
import AccountForm from "./AccountForm.vue";
import EntryPage from "./EntryPage.vue";

/** A link that works once: a password is chosen, or who is signed in takes it. */
const route = useRoute();
const router = useRouter();
const session = useSession();
const { problem, isBusy, attempt } = useAttempt();
const link = ref<Schemas["LinkView"]>();
const name = ref("");
const login = ref("");
const password = ref("");
const path = { token: String(route.params.token) };

void attempt(async () => {
  link.value = await dataOf(site.GET("/api/links/{token}", { params: { path } }));
  name.value = link.value.name;
  login.value = link.value.login;
});

const title = computed(() => {
  switch (link.value?.kind) {
    case "first":
      return "The first instructor";
    case "instructor":
      return `Teach ${link.value.course}`;
    case "learner":
      return `Welcome, ${link.value.name}`;
    case "password":
      return "A new password";
    default:
      return "A link";
  }
});

async function go(work: () => Promise<Schemas["Entered"]>): Promise<void> {
  await attempt(async () => {
    const said = session.entered(await work());
    await router.push(said.course ? `/courses/${said.course}` : "/");
  });
}

function open(): Promise<void> {
  const body = { name: name.value, login: login.value, password: password.value };
  return go(() => dataOf(site.POST("/api/links/{token}", { params: { path }, body })));
}

function openAsMe(): Promise<void> {
  return go(() => dataOf(site.POST("/api/links/{token}/as-me", { params: { path } })));
}
</script>

<template>
  <EntryPage :title="title">
    <p v-if="!link && problem" class="problem" role="alert">{{ problem }}</p>
    <template v-if="link">
      <p v-if="session.me && link.kind !== 'password'" class="as-me">
        <ElButton type="primary" :disabled="isBusy" @click="openAsMe">Continue as {{
          session.me.name }}</ElButton>
        <span class="quiet">or as somebody else:</span>
      </p>
      <AccountForm v-model:name="name" v-model:login="login" v-model:password="password"
        :ask-name="link.kind === 'first' || link.kind === 'instructor'" :ask-login="!link.has_account"
        :problem="problem" :is-busy="isBusy" says="Continue" @send="open" />
    </template>
    <template v-if="link" #beside>
      <p v-if="link.kind === 'learner'">This is your own link to <strong>{{ link.course }}</strong>. It works
        once: choose what you sign in with from now on.</p>
      <p v-else-if="link.kind === 'first'">Nobody teaches here yet. Choose what you sign in with; then you begin
        your first course.</p>
      <p v-else-if="link.kind === 'instructor'">You were invited to teach <strong>{{ link.course }}</strong>.</p>
      <p v-if="!session.me && !link.has_account">Have you been here before?
        <RouterLink :to="{ name: 'sign-in', query: { to: route.fullPath } }">Sign in</RouterLink> first.</p>
    </template>
  </EntryPage>
</template>

<style scoped>
.as-me {
  display: grid;
  justify-items: start;
  gap: 10px;
  margin-bottom: 14px;
}
</style>
