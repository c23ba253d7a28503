import node from "@astrojs/node";
import react from "@astrojs/react";
import { defineConfig } from "astro/config";

/** Browsers a school's computer may have. */
const BROWSERS = ["es2020", "edge88", "firefox78", "chrome87", "safari14"];

export default defineConfig({
  output: "server",
  adapter: node({ mode: "middleware" }),
  integrations: [react()],
  devToolbar: { enabled: false },
  // The host checks Host and Origin itself, for pages, endpoints and upgrades alike.
  security: { checkOrigin: false },
  build: { inlineStylesheets: "never" },
  vite: {
    build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 1500, target: BROWSERS },
    environments: {
      client: {
        build: {
          // What three workplaces or more need is one file: fetched once, not in forty pieces for each of them.
          rolldownOptions: { output: { codeSplitting: { groups: [{ name: "shared", minShareCount: 3 }] } } },
        },
      },
    },
    worker: { format: "es" },
    ssr: { external: ["pg", "pino", "@giddy-pebble/boards"] },
  },
});
