import "@fontsource-variable/atkinson-hyperlegible-next";
import "@fontsource-variable/atkinson-hyperlegible-mono";
import "element-plus/es/components/segmented/style/css";
import "element-plus/es/components/dialog/style/css";
import "./styles/tokens.css";
import "./styles/base.css";
import "./styles/element.css";

import { VueQueryPlugin } from "@tanstack/vue-query";
import { createPinia } from "pinia";
import { createApp } from "vue";

import App from "./App.vue";
import { router } from "./router";

createApp(App)
  .use(createPinia())
  .use(router)
  .use(VueQueryPlugin, {
    queryClientConfig: { defaultOptions: { queries: { retry: 1, staleTime: 30_000 } } },
  })
  .mount("#app");
