/** Starts the web application: fonts and styles that ship with it, the router, the query cache. */
import "@fontsource/source-sans-3/latin-400.css";
import "@fontsource/source-sans-3/latin-600.css";
import "@fontsource/source-serif-4/latin-400.css";
import "@fontsource/source-serif-4/latin-400-italic.css";
import "@fontsource/source-serif-4/latin-600.css";
import "@fontsource/source-serif-4/latin-600-italic.css";
import "./styles/app.scss";

import { VueQueryPlugin } from "@tanstack/vue-query";
import { createApp } from "vue";

import App from "./App.vue";
import { router } from "./router";
import { tellWhatNobodyTold } from "@/ui/told";

tellWhatNobodyTold();
createApp(App)
  .use(router)
  .use(VueQueryPlugin, {
    queryClientConfig: { defaultOptions: { queries: { retry: false, staleTime: 1_000, refetchOnWindowFocus: true } } },
  })
  .mount("#app");
