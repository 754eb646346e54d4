<script setup lang="ts">
import { useSession } from "../../composables/use-session";

/** Who is signed in: the way to their account. */
const session = useSession();
</script>

<template>
  <RouterLink v-if="session.me" class="account" :to="{ name: 'account' }">{{ session.me.name }}</RouterLink>
  <RouterLink v-else class="account" :to="{ name: 'sign-in' }">Sign in</RouterLink>
</template>

<style scoped>
.account {
  flex: none;
  align-self: center;
  margin-left: auto;
  color: var(--bar-ink-2);
  text-decoration: none;
  max-width: 180px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.account:hover,
.router-link-active {
  color: var(--bar-ink);
  text-decoration: underline;
}

.account:focus-visible {
  outline-color: var(--bar-ink);
}
</style>
