<script setup lang="ts">
import { computed, ref, watch } from "vue";

import type { Schemas } from "../../api/client";
import { joinAddress, linkAddress, usePeopleChanges } from "../../api/people";
import ConfirmButton from "../../components/fields/ConfirmButton.vue";
import ShownOnce from "../../components/fields/ShownOnce.vue";
import TimeZoneField from "../../components/fields/TimeZoneField.vue";
import { useAttempt } from "../../composables/use-attempt";
import { dayAndTime } from "../../composables/words";

/** The course itself: title, time zone, join code, instructors; put away or brought back. */
const props = defineProps<{ course: Schemas["CourseView"] }>();
const changes = usePeopleChanges();
const { problem, isBusy, attempt } = useAttempt();
const title = ref(props.course.title);
const zone = ref(props.course.zone);
const link = ref("");

watch(
  () => props.course,
  (next) => {
    title.value = next.title;
    zone.value = next.zone;
  },
);
const isChanged = computed(() => title.value !== props.course.title || zone.value !== props.course.zone);

function keep(): Promise<boolean> {
  return attempt(() => changes.changeCourse.mutateAsync({ title: title.value, zone: zone.value }));
}

function invite(): Promise<boolean> {
  return attempt(async () => {
    link.value = linkAddress((await changes.invite.mutateAsync()).token);
  });
}
</script>

<template>
  <section aria-label="The course">
    <h1>The course</h1>
    <p v-if="course.archived_at" class="away">Archived since {{ dayAndTime(course.archived_at) }}: it is only read.</p>
    <form class="form" @submit.prevent="keep">
      <label>title <ElInput v-model="title" maxlength="120" required /></label>
      <TimeZoneField v-model="zone" />
      <ElButton v-if="isChanged" native-type="submit" type="primary" :disabled="isBusy">Save</ElButton>
    </form>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <h2>Join code</h2>
    <template v-if="course.join_code">
      <p class="code">{{ course.join_code }}</p>
      <ShownOnce :address="joinAddress(course.join_code)" label="Where learners join" />
      <p class="quiet">Whoever has it becomes a learner.
        <ElButton link :disabled="isBusy" @click="attempt(() => changes.setJoinCode.mutateAsync(true))">another code</ElButton>,
        <ElButton link :disabled="isBusy" @click="attempt(() => changes.setJoinCode.mutateAsync(false))">none</ElButton></p>
    </template>
    <p v-else>Nobody joins by a code.
      <ElButton link :disabled="isBusy" @click="attempt(() => changes.setJoinCode.mutateAsync(true))">make one</ElButton></p>
    <h2>Instructors</h2>
    <ul>
      <li v-for="one in course.instructors" :key="one.id">
        <span>{{ one.name }} <small>{{ one.is_you ? "you" : one.login }}</small></span>
        <ConfirmButton v-if="course.instructors.length > 1" :question="`Remove ${one.name} from the course?`" yes="Remove"
          :is-busy="isBusy" @confirm="attempt(() => changes.removeInstructor.mutateAsync(one.id))">Remove</ConfirmButton>
      </li>
    </ul>
    <p><ElButton link :disabled="isBusy" @click="invite">invite another</ElButton></p>
    <template v-if="link">
      <ShownOnce :address="link" label="Link for another instructor" />
      <p class="quiet">Works once, for 30 days. It is not shown again.</p>
    </template>
    <p class="last">
      <ElButton v-if="course.archived_at" :disabled="isBusy" @click="attempt(() => changes.archive.mutateAsync(false))">Bring the course back</ElButton>
      <ConfirmButton v-else question="Archive the course? Nothing can be handed in or changed then." yes="Archive"
        :is-busy="isBusy" @confirm="attempt(() => changes.archive.mutateAsync(true))">Archive the course</ConfirmButton>
    </p>
  </section>
</template>

<style scoped>
h2 {
  margin: 18px 0 4px;
}

.form {
  margin-top: 8px;
}

.code {
  font: 650 22px var(--data);
  letter-spacing: 3px;
}

.away {
  margin-top: 6px;
  padding: 4px 8px;
  background: var(--due-wash);
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
