import "@fontsource-variable/atkinson-hyperlegible-next";
import "@fontsource-variable/atkinson-hyperlegible-mono";
import { VueQueryPlugin } from "@tanstack/vue-query";
import { createPinia } from "pinia";
import { createApp } from "vue";

import { controls } from "./controls";
import "./styles/tokens.css";
import "./styles/base.css";
import "./styles/element.css";
import "./styles/editors.css";
import App from "./App.vue";
import { router } from "./router";

createApp(App)
  .use(createPinia())
  .use(router)
  .use(controls)
  .use(VueQueryPlugin, {
    // What the server said is never changed here: nothing watches the inside of it.
    queryClientConfig: { defaultOptions: { queries: { retry: 1, staleTime: 30_000, shallow: true } } },
  })
  .mount("#app");
