<script setup lang="ts">
import AccountLink from "./AccountLink.vue";
</script>

<template>
  <header class="bar">
    <RouterLink class="word" :to="{ name: 'courses' }">Jentrow</RouterLink>
    <AccountLink />
  </header>
</template>
