<script setup lang="ts">
import { ref } from "vue";
import { useRouter } from "vue-router";

import { done, type Schemas, site } from "../../api/client";
import { useBrowsers, useLinkEvents } from "../../api/people";
import ListColumn from "../../components/lists/ListColumn.vue";
import ListTable from "../../components/lists/ListTable.vue";
import { useAttempt } from "../../composables/use-attempt";
import { useSession } from "../../composables/use-session";
import { dayAndTime } from "../../composables/words";
import EntryPage from "./EntryPage.vue";
import { browserName } from "./browser-name";

/** Somebody's own account: password, and where they are signed in. */
const router = useRouter();
const session = useSession();
const { data: browsers, refetch } = useBrowsers();
const { data: events } = useLinkEvents();
const LINKS = {
  first: "first instructor's link", instructor: "instructor's link", learner: "personal link",
  password: "password link",
};
type Browser = Schemas["BrowserLine"];
type LinkEvent = Schemas["LinkEventLine"];
const { problem, isBusy, attempt } = useAttempt();
const before = ref("");
const after = ref("");
const isChanged = ref(false);

async function change(): Promise<void> {
  isChanged.value = await attempt(() =>
    done(site.PUT("/api/password", { body: { before: before.value, after: after.value } })),
  );
  if (!isChanged.value) return;
  before.value = after.value = "";
  await refetch();
}

async function leave(everywhere: boolean): Promise<void> {
  if (await attempt(() => session.signOut(everywhere))) await router.push({ name: "sign-in" });
}
</script>

<template>
  <EntryPage :title="session.me?.name ?? ''">
    <p>You sign in as <strong>{{ session.me?.login }}</strong>.</p>
    <p class="line"><ElButton :disabled="isBusy" @click="leave(false)">Sign
      out</ElButton></p>
    <h2>Another password</h2>
    <form class="form" @submit.prevent="change">
      <label>the present one
        <ElInput v-model="before" type="password" autocomplete="current-password" required /></label>
      <label>the new one, of 10 characters at least
        <ElInput v-model="after" type="password" minlength="10" autocomplete="new-password" required /></label>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <p v-if="isChanged" role="status">Changed. Other browsers were signed out.</p>
      <ElButton native-type="submit" :disabled="isBusy">Change it</ElButton>
    </form>
    <template #beside>
      <h2>Where you are signed in</h2>
      <ListTable :rows="browsers ?? []">
        <ListColumn label="browser">
          <template #default="{ row }: { row: Browser }">{{ browserName(row.browser) }} <small v-if="row.here">this one</small></template>
        </ListColumn>
        <ListColumn label="since">
          <template #default="{ row }: { row: Browser }">{{ dayAndTime(row.made_at) }}</template>
        </ListColumn>
        <ListColumn label="last seen">
          <template #default="{ row }: { row: Browser }">{{ dayAndTime(row.seen_at) }}</template>
        </ListColumn>
      </ListTable>
      <p class="line"><ElButton :disabled="isBusy" @click="leave(true)">Sign out
        everywhere</ElButton></p>
      <h2>Links to this account</h2>
      <ListTable v-if="events?.length" :rows="events">
        <ListColumn label="when">
          <template #default="{ row }: { row: LinkEvent }">{{ dayAndTime(row.at) }}</template>
        </ListColumn>
        <ListColumn label="what">
          <template #default="{ row }: { row: LinkEvent }">{{ LINKS[row.kind] }} {{ row.what }}<small v-if="row.course">, {{
            row.course }}</small></template>
        </ListColumn>
        <ListColumn label="by">
          <template #default="{ row }: { row: LinkEvent }">{{ row.by || "whoever runs the server" }}</template>
        </ListColumn>
      </ListTable>
      <p v-else class="quiet">Nobody has made one. A link lets whoever opens it choose a password for this
        account.</p>
    </template>
  </EntryPage>
</template>

<style scoped>
h2 {
  margin: 20px 0 8px;
}

.line {
  margin-top: 12px;
}
</style>
