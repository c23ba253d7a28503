import node from "@astrojs/node";
import react from "@astrojs/react";
import { defineConfig } from "astro/config";

export default defineConfig({
  output: "server",
  adapter: node({ mode: "middleware" }),
  integrations: [react()],
  devToolbar: { enabled: false },
  // The host checks Host and Origin itself, for pages, endpoints and upgrades alike.
  security: { checkOrigin: false },
  build: { inlineStylesheets: "never" },
  vite: {
    build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 1500 },
    worker: { format: "es" },
    ssr: { external: ["pg", "pino", "@giddy-pebble/boards"] },
  },
});
