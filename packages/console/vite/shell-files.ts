/** Tells the service worker which files the console needs to open without a connection. */
import { createHash } from "node:crypto";
import type { Plugin } from "vite";

/** What stands in the worker's source where the list goes. */
const PLACE = "__SHELL_FILES__";
/** Large, and of no use without the service: the editor, charts, letters that few names need. */
const LEFT_OUT = /code-editor|description-editor|reading-chart|-latin-/;

/** Puts the list into `service-worker.js` once all names are known. */
export function shellFiles(): Plugin {
  return {
    name: "shell-files",
    apply: "build",
    enforce: "post",
    generateBundle: {
      order: "post",
      handler(_options, bundle) {
        const worker = bundle["service-worker.js"];
        const pages = ["index.html", "panel.html"].map((file) => ({ file, page: bundle[file] }));
        if (worker?.type !== "chunk") this.error("The build made no worker.");
        const assets = Object.keys(bundle).filter((file) => file.startsWith("assets/") && !LEFT_OUT.test(file));
        const files = [
          // A hash in the name says enough; the page's name stays.
          ...assets.sort().map((file) => ({ url: `/${file}`, revision: null })),
          ...pages.map(({ file, page }) => {
            if (page?.type !== "asset") this.error(`The build made no ${file}.`);
            return { url: `/${file}`, revision: createHash("sha256").update(page.source).digest("hex").slice(0, 16) };
          }),
        ];
        worker.code = worker.code.replace(PLACE, JSON.stringify(files));
      },
    },
  };
}
