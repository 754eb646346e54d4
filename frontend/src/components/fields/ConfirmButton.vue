<script setup lang="ts">
/** A button for what cannot be undone: it asks first, in the same way everywhere. */
withDefaults(defineProps<{ question: string; yes: string; isBusy?: boolean; link?: boolean }>(), {
  isBusy: false, link: true,
});
defineOptions({ inheritAttrs: false });
const emit = defineEmits<{ confirm: [] }>();
</script>

<template>
  <ElPopconfirm :title="question" :confirm-button-text="yes" cancel-button-text="Cancel" :hide-icon="true"
    :width="280" :teleported="false" :popper-options="{ strategy: 'fixed' }" confirm-button-type="danger"
    @confirm="emit('confirm')">
    <template #reference><ElButton v-bind="$attrs" :link="link" :disabled="isBusy"><slot /></ElButton></template>
  </ElPopconfirm>
</template>
