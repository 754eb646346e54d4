<script setup lang="ts">
import { ref } from "vue";
import { useRoute, useRouter } from "vue-router";

import { useAttempt } from "../../composables/use-attempt";
import { useSession } from "../../composables/use-session";
import EntryPage from "./EntryPage.vue";

const route = useRoute();
const router = useRouter();
const session = useSession();
const { problem, isBusy, attempt } = useAttempt();
const login = ref("");
const password = ref("");

/** Only to a page of our own: an address from elsewhere is not followed. */
function next(): string {
  const to = String(route.query.to ?? "/");
  return to.startsWith("/") && !to.startsWith("//") ? to : "/";
}

async function enter(): Promise<void> {
  if (await attempt(() => session.signIn(login.value, password.value))) await router.push(next());
}
</script>

<template>
  <EntryPage title="Sign in">
    <form class="form" @submit.prevent="enter">
      <label>sign-in name
        <ElInput v-model="login" name="username" autocomplete="username" autocapitalize="none" autofocus required /></label>
      <label>password
        <ElInput v-model="password" name="password" type="password" autocomplete="current-password" required /></label>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <ElButton native-type="submit" type="primary" :disabled="isBusy">Sign in</ElButton>
    </form>
    <template #beside>
      <h2>Not here yet?</h2>
      <p>Open the personal link that your instructor gave you, or
        <RouterLink :to="{ name: 'join' }">join a course by its code</RouterLink>.</p>
      <h2>Forgotten?</h2>
      <p>Your sign-in name is often your e-mail address. For another password, your instructor makes you a new
        link.</p>
    </template>
  </EntryPage>
</template>

<style scoped>
h2 {
  margin: 14px 0 4px;
}
</style>
