<script setup lang="ts">
import { useSession } from "../../composables/use-session";

/** Told where somebody was signed out meanwhile: what is typed stays where it is. */
const session = useSession();
</script>

<template>
  <p v-if="session.hasEnded" class="ended" role="alert">
    You have been signed out. What you typed is still here:
    <RouterLink :to="{ name: 'sign-in', query: { to: $route.fullPath } }">sign in</RouterLink> to continue.
  </p>
</template>

<style scoped>
.ended {
  flex: none;
  padding: 6px var(--edge);
  background: var(--due-wash);
}
</style>
