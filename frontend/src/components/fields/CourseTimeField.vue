<script setup lang="ts">
import dayjs from "dayjs";
import { computed, ref, watch } from "vue";

/** A day and a time in the course's zone. What is typed and is no time is said, and not lost in silence. */
defineProps<{ id: string; required?: boolean }>();
const time = defineModel<string | null>();

const FORMAT = "D MMM YYYY, HH:mm";
const mistyped = ref("");
const example = computed(() => dayjs(time.value ?? undefined).format(FORMAT));

function look(event: Event): void {
  const typed = (event.target as HTMLInputElement).value.trim();
  mistyped.value = !typed || dayjs(typed, FORMAT, true).isValid() ? "" : typed;
}
watch(time, () => {
  mistyped.value = "";
});
</script>

<template>
  <div class="course-time" @change.capture="look">
    <ElDatePicker :id="id" v-model="time" type="datetime" :format="FORMAT" date-format="D MMM YYYY"
      time-format="HH:mm" value-format="YYYY-MM-DDTHH:mm" :required="required" :aria-describedby="`${id}-problem`" />
    <p v-if="mistyped" :id="`${id}-problem`" class="problem" role="alert">“{{ mistyped }}” is no time: write it like
      {{ example }}.</p>
  </div>
</template>
