<template>
  <main class="nowhere">
    <h1>There is no such page</h1>
    <p>Go to the <RouterLink :to="{ name: 'exercises' }">exercises</RouterLink>.</p>
  </main>
</template>

<style scoped>
.nowhere {
  flex: 1;
  padding: 24px var(--edge);
}
</style>
