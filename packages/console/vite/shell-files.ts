/** Tells a service worker which files its page needs to open without a connection. */
import { createHash } from "node:crypto";
import type { Plugin } from "vite";

/** What stands in the worker's source where the list goes. */
const PLACE = "__SHELL_FILES__";
/** Large, and of no use without the service: the editor, charts, letters that few names need. */
const LEFT_OUT = /code-editor|description-editor|reading-chart|-latin-/;

/** Puts the list into the worker once all names are known. @param page, worker names of their files, without ending */
export function shellFiles(page: string, worker: string): Plugin {
  return {
    name: "shell-files",
    apply: "build",
    enforce: "post",
    generateBundle: {
      order: "post",
      handler(_options, bundle) {
        const script = bundle[`${worker}.js`];
        const html = bundle[`${page}.html`];
        if (script?.type !== "chunk" || html?.type !== "asset") this.error("The build made no worker, or no page.");
        const assets = Object.keys(bundle).filter((file) => file.startsWith("assets/") && !LEFT_OUT.test(file));
        const revision = createHash("sha256").update(html.source).digest("hex").slice(0, 16);
        const files = [
          // A hash in the name says enough; the page's name stays.
          ...assets.sort().map((file) => ({ url: `/${file}`, revision: null })),
          { url: `/${page}.html`, revision },
        ];
        script.code = script.code.replace(PLACE, JSON.stringify(files));
      },
    },
  };
}
