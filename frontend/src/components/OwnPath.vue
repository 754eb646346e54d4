<script setup lang="ts">
import { useOwnCourse } from "../api/own";
import AccountLink from "./AccountLink.vue";

/** The bar of a learner's pages: the course, and the sheet at hand. */
const { data } = useOwnCourse();
</script>

<template>
  <header class="bar">
    <RouterLink class="word" :to="{ name: 'courses' }">Jentrow</RouterLink>
    <RouterLink class="course" :to="{ name: 'own' }">{{ data?.title }}</RouterLink>
    <AccountLink />
  </header>
</template>
