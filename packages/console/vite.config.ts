import { fileURLToPath } from "node:url";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { earlyLinks } from "./vite/early-links.ts";
import { precompress } from "./vite/precompress.ts";
import { shellFiles } from "./vite/shell-files.ts";

/** The service that `npm run dev` talks to. */
const service = process.env.BOLD_RELAY_URL ?? "http://127.0.0.1:4180";

export default defineConfig({
  plugins: [react(), tailwindcss(), earlyLinks(), shellFiles(), precompress()],
  resolve: {
    conditions: ["@bold-relay/source", "module", "browser", "development|production"],
    alias: [
      {
        find: /^use-sync-external-store\/shim.*$/,
        replacement: fileURLToPath(new URL("vite/own-react.ts", import.meta.url)),
      },
    ],
  },
  build: {
    target: "es2023",
    assetsInlineLimit: 0,
    // For looking into the size of a chunk; never served.
    sourcemap: process.env.SOURCE_MAPS === "1",
    modulePreload: {
      polyfill: false,
      // What each page needs is left out of the first script, where it would weigh a kilobyte.
      resolveDependencies: (_file, needed, { hostType }) =>
        hostType === "html" ? needed : needed.filter((file) => file.endsWith(".css")),
    },
    rolldownOptions: {
      input: { index: "index.html", panel: "panel.html", "service-worker": "src/service-worker.ts" },
      output: {
        entryFileNames: ({ name }) => (name === "service-worker" ? "[name].js" : "assets/[name]-[hash].js"),
      },
    },
  },
  server: { proxy: { "/api": service, "/in": service, "/health": service } },
});
