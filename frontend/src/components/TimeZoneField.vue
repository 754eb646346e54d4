<script setup lang="ts">
/** The time zone that a course's times are in. */
const zone = defineModel<string>({ required: true });
const zones = ["UTC", ...Intl.supportedValuesOf("timeZone")];
</script>

<template>
  <label>time zone of its times
    <input v-model="zone" class="field" list="time-zones" name="zone" autocomplete="off" required>
    <datalist id="time-zones"><option v-for="one in zones" :key="one" :value="one" /></datalist>
  </label>
</template>
