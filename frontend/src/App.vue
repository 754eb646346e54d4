<script setup lang="ts">
import { computed } from "vue";
import { useRoute } from "vue-router";

import CoursePath from "./components/frame/CoursePath.vue";
import EndedNotice from "./components/frame/EndedNotice.vue";
import HintLayer from "./components/frame/HintLayer.vue";
import KeyLine from "./components/frame/KeyLine.vue";
import OwnPath from "./components/frame/OwnPath.vue";
import SiteBar from "./components/frame/SiteBar.vue";
import { useTabTitle } from "./composables/use-page-title";

const route = useRoute();
/** Another course is other data: what a page holds of one is not carried over. */
const course = computed(() => String(route.params.course ?? ""));
useTabTitle();
</script>

<template>
  <ElConfigProvider size="small">
    <CoursePath v-if="route.meta.part === 'instructor' && !route.meta.isBare" :key="course" />
    <OwnPath v-else-if="route.meta.part === 'learner'" :key="course" />
    <SiteBar v-else-if="!route.meta.isBare" />
    <EndedNotice />
    <RouterView :key="course" />
    <KeyLine v-if="!route.meta.isBare" />
    <HintLayer />
  </ElConfigProvider>
</template>
