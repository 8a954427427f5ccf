import { fileURLToPath, URL } from "node:url";

import vue from "@vitejs/plugin-vue";
import { BootstrapVueNextResolver } from "bootstrap-vue-next/resolvers";
import Components from "unplugin-vue-components/vite";
import { defineConfig } from "vite";

const here = (path: string) => fileURLToPath(new URL(path, import.meta.url));

export default defineConfig({
  // The library's components are found by their names; each page takes along those it uses.
  plugins: [vue(), Components({ dirs: [], resolvers: [BootstrapVueNextResolver()], dts: "src/components.d.ts" })],
  resolve: { alias: { "@": here("./src") } },
  css: {
    preprocessorOptions: {
      scss: { loadPaths: [here("./node_modules")], quietDeps: true, silenceDeprecations: ["import", "global-builtin", "color-functions", "if-function"] },
    },
  },
  build: {
    target: "es2022",
    chunkSizeWarningLimit: 900,
    // The pages that contacts see are the server's; they take only a stylesheet from here.
    rollupOptions: { input: { app: "index.html", "contact-pages": "src/contact/pages.css" } },
  },
});
