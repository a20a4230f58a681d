/** Compresses the built files once, so that the service only has to send them. */
import { readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import { promisify } from "node:util";
import { brotliCompress, constants, gzip } from "node:zlib";
import zopfli from "@gfx/zopfli";
import type { Plugin } from "vite";

const COMPRESSIBLE = /\.(js|css|html|svg|webmanifest)$/;
/** A smaller file gains less than its headers cost. */
const LEAST_BYTES = 256;

/** Writes `FILE.br` and `FILE.gz` beside every file of text that the build made or copied. @param page name of its HTML file */
export function precompress(page: string): Plugin {
  let folder = "";
  const made: string[] = [];
  return {
    name: "precompress",
    apply: "build",
    configResolved: ({ root, build }) => {
      folder = path.resolve(root, build.outDir);
    },
    writeBundle: {
      order: "post",
      handler: (_options, bundle) => void made.push(...Object.keys(bundle), "console.webmanifest", "sign.svg"),
    },
    closeBundle: async () => {
      // A build that failed says so itself. In a clone, nobody waits for the bytes of the loopback.
      if (made.length === 0 || process.env.CONSOLE_FILES === "plain") return;
      const html = readFileSync(path.join(folder, `${page}.html`), "utf8");
      const files = made.filter((file) => COMPRESSIBLE.test(file));
      await Promise.all(files.map((file) => compress(path.join(folder, file), html.includes(`/${file}`))));
    },
  };
}

const brotli = promisify(brotliCompress);
const deflate = promisify(gzip);

/** @param first whether everybody waits for it: the slow way to make it smallest, by 3 %, takes seconds */
async function compress(file: string, first: boolean): Promise<void> {
  const content = readFileSync(file);
  if (content.length < LEAST_BYTES) return;
  const params = { [constants.BROTLI_PARAM_QUALITY]: 11, [constants.BROTLI_PARAM_SIZE_HINT]: content.length };
  writeFileSync(`${file}.br`, await brotli(content, { params }));
  const gzipped = first ? zopfli.gzipAsync(content, { numiterations: 15 }) : deflate(content, { level: 9 });
  writeFileSync(`${file}.gz`, await gzipped);
}
