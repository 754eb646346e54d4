<script setup lang="ts">
import CoursePath from "./components/CoursePath.vue";
import KeyLine from "./components/KeyLine.vue";
</script>

<template>
  <CoursePath />
  <RouterView />
  <KeyLine />
</template>
