import { fileURLToPath, URL } from "node:url";

import vue from "@vitejs/plugin-vue";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [vue()],
  resolve: { alias: { "@": fileURLToPath(new URL("./src", import.meta.url)) } },
  build: {
    target: "es2022",
    chunkSizeWarningLimit: 900,
    // The pages that contacts see are the server's; they take only a stylesheet from here.
    rollupOptions: { input: { app: "index.html", "contact-pages": "src/contact/pages.css" } },
  },
});
