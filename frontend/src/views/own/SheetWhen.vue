<script setup lang="ts">
import { computed } from "vue";

import type { Schemas } from "../../api/client";
import { deadline } from "../../composables/words";

/** When answers to a sheet are taken, in words. */
const props = defineProps<{ times: Schemas["SheetTimes"]; zone: string }>();

const says = computed(() => {
  const { standing, opens, closes, ends } = props.times;
  const until = (instant: string) => deadline(instant, props.zone);
  switch (standing) {
    case "not_yet":
      return opens ? `opens ${until(opens)}` : "";
    case "open":
      return closes ? `open until ${until(closes)}` : "open";
    case "late":
      return `closed ${closes ? until(closes) : ""}; late answers until ${ends ? until(ends) : "any time"}`;
    default:
      return ends ? `closed ${until(ends)}` : "closed";
  }
});
</script>

<template>
  <span class="when" :class="times.standing">{{ says }}<template v-if="times.extended"> (extended for
    you)</template><small v-if="times.late && times.standing !== 'closed'"> {{ times.late }}</small></span>
</template>

<style scoped>
.when {
  color: var(--ink-2);
}

.late {
  color: var(--due);
  font-weight: 650;
}

small {
  margin-left: 6px;
}
</style>
