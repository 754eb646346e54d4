<template>
  <main class="nowhere">
    <h1>There is no such page</h1>
    <p>Go to <RouterLink :to="{ name: 'courses' }">your courses</RouterLink>.</p>
  </main>
</template>

<style scoped>
.nowhere {
  flex: 1;
  padding: 24px var(--edge);
}
</style>
