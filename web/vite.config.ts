import { fileURLToPath, URL } from "node:url";

import vue from "@vitejs/plugin-vue";
import { BootstrapVueNextResolver } from "bootstrap-vue-next/resolvers";
import Components from "unplugin-vue-components/vite";
import { defineConfig } from "vitest/config";

const here = (path: string) => fileURLToPath(new URL(path, import.meta.url));

export default defineConfig({
  // The library's components are found by their names; each page takes along those it uses.
  // A line break between two elements is a space, as Prettier takes it and as the browser does.
  plugins: [
    vue({ template: { compilerOptions: { whitespace: "preserve" } } }),
    Components({ dirs: [], resolvers: [BootstrapVueNextResolver()], dts: "src/components.d.ts" }),
  ],
  resolve: { alias: { "@": here("./src") } },
  css: {
    preprocessorOptions: {
      scss: {
        loadPaths: [here("./node_modules")],
        quietDeps: true,
        silenceDeprecations: ["import", "global-builtin", "color-functions", "if-function"],
      },
    },
  },
  // What is pure is tried without a browser (web/tests); pages are, in Chromium, by pytest (tests/story).
  test: { include: ["tests/**/*.test.ts"], environment: "node" },
  build: {
    target: "es2022",
    modulePreload: { polyfill: false }, // browsers that read es2022 know it themselves
    chunkSizeWarningLimit: 900,
    // The pages that contacts see are the server's; they take a stylesheet from here, and the script that finds a visitor's zone.
    rollupOptions: { input: { app: "index.html", "contact-pages": "src/contact/pages.css", "contact-zone": "src/contact/zone.ts" } },
  },
});
