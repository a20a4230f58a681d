/** How a page of the console and its worker are built. */
import { fileURLToPath } from "node:url";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { earlyLinks } from "./early-links.ts";
import { precompress } from "./precompress.ts";
import { shellFiles } from "./shell-files.ts";

/** The service that `npm run dev` talks to. */
const service = process.env.BOLD_RELAY_URL ?? "http://127.0.0.1:4180";

export interface ConsolePage {
  /** Name of its HTML file. */
  readonly page: "index" | "panel";
  /** Of its service worker, in `src/` and where it is served. */
  readonly worker: "service-worker" | "panel-worker";
  /** Whether the folder is emptied before. */
  readonly first: boolean;
}

export function consoleBuild({ page, worker, first }: ConsolePage) {
  return defineConfig({
    plugins: [react(), tailwindcss(), earlyLinks(), shellFiles(page, worker), precompress(page)],
    resolve: {
      conditions: ["module", "browser", "development|production"],
      alias: [
        {
          find: /^use-sync-external-store\/shim.*$/,
          replacement: fileURLToPath(new URL("own-react.ts", import.meta.url)),
        },
      ],
    },
    build: {
      target: "es2023",
      emptyOutDir: first,
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
        input: { [page]: `${page}.html`, [worker]: `src/${worker}.ts` },
        output: {
          entryFileNames: ({ name }) => (name === worker ? "[name].js" : "assets/[name]-[hash].js"),
        },
      },
    },
    server: { proxy: { "/api": service, "/in": service, "/health": service } },
  });
}
