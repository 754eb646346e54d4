<script setup lang="ts">
/** Who somebody is and wants to sign in as. */
defineProps<{ askName: boolean; askLogin: boolean; problem: string; isBusy: boolean; says: string }>();
const emit = defineEmits<{ send: [] }>();
const name = defineModel<string>("name", { required: true });
const login = defineModel<string>("login", { required: true });
const password = defineModel<string>("password", { required: true });
</script>

<template>
  <form class="form" @submit.prevent="emit('send')">
    <label v-if="askName">your name
      <ElInput v-model="name" name="name" autocomplete="name" required /></label>
    <label>sign-in name
      <ElInput v-model="login" name="username" autocomplete="username" autocapitalize="none" :readonly="!askLogin" required /></label>
    <label>a password, of 10 characters at least
      <ElInput v-model="password" name="password" type="password" minlength="10" autocomplete="new-password" required /></label>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <ElButton native-type="submit" type="primary" :disabled="isBusy">{{ says }}</ElButton>
  </form>
</template>
