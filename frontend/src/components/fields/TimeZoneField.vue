<script setup lang="ts">
/** The time zone that a course's times are in. */
const zone = defineModel<string>({ required: true });
const zones = ["UTC", ...Intl.supportedValuesOf("timeZone")].map((value) => ({ value, label: value }));
</script>

<template>
  <span class="labelled">time zone of its times
    <ElSelectV2 v-model="zone" :options="zones" filterable aria-label="time zone of its times" />
  </span>
</template>
