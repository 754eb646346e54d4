<script setup lang="ts">
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import { dataOf, site } from "../../api/client";
import TimeZoneField from "../../components/fields/TimeZoneField.vue";
import { useAttempt } from "../../composables/use-attempt";
import { useKeys } from "../../composables/use-keys";
import { type Me, useSession } from "../../composables/use-session";
import EntryPage from "./EntryPage.vue";

/** The courses of whoever is signed in. */
const router = useRouter();
const session = useSession();
const { problem, isBusy, attempt } = useAttempt();
const title = ref("");
const zone = ref(Intl.DateTimeFormat().resolvedOptions().timeZone || "UTC");
void session.look().catch(() => undefined);

const groups = computed(() => [
  { says: "You teach", courses: session.taught },
  { says: "You learn", courses: session.learnt },
]);

type Line = Me["courses"][number];

function place(course: Line): string {
  return `/courses/${course.slug}${course.part === "learner" ? "/own" : ""}`;
}

async function begin(): Promise<void> {
  await attempt(async () => {
    const body = { title: title.value, zone: zone.value };
    const said = session.entered(await dataOf(site.POST("/api/courses", { body })));
    await router.push(`/courses/${said.course}/people`);
  });
}

useKeys([
  {
    key: "Enter", cap: "⏎", says: "the first course",
    act: () => {
      const [first] = session.me?.courses ?? [];
      if (first) void router.push(place(first));
    },
  },
]);
</script>

<template>
  <EntryPage title="Your courses">
    <p v-if="!session.me?.courses.length">None yet. {{ session.me?.teaches ? "Begin one, or join one by its code."
      : "Join one by its code, or open the link that your instructor gave you." }}</p>
    <template v-for="group in groups" :key="group.says">
      <section v-if="group.courses.length" :aria-label="group.says">
        <h2>{{ group.says }}</h2>
        <ul>
          <li v-for="course in group.courses" :key="course.slug">
            <RouterLink :to="place(course)">{{ course.title }}</RouterLink>
            <small v-if="course.archived"> archived</small>
          </li>
        </ul>
      </section>
    </template>
    <p class="join"><RouterLink :to="{ name: 'join' }">Join a course by its code</RouterLink></p>
    <template v-if="session.me?.teaches" #beside>
      <h2>Begin a course</h2>
      <form class="form" @submit.prevent="begin">
        <label>title
          <ElInput v-model="title" name="title" maxlength="120" required /></label>
        <TimeZoneField v-model="zone" />
        <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
        <ElButton native-type="submit" :disabled="isBusy || !title.trim()">Begin</ElButton>
      </form>
    </template>
  </EntryPage>
</template>

<style scoped>
section {
  padding: 0;
}

h2 {
  margin: 14px 0 4px;
}

li {
  padding: 8px 0;
  border-top: 1px solid var(--line);
  font-size: var(--size-2);
}

.join {
  margin-top: 20px;
}
</style>
