/** What the built console makes everybody fetch before anything can be pressed. */
import { existsSync, readFileSync, statSync } from "node:fs";
import { fileURLToPath } from "node:url";

const CONSOLE = fileURLToPath(new URL("../../packages/console/dist/", import.meta.url));

/** Bytes of the scripts that the page itself names, as they are sent. */
export function firstScripts(): { gzip: number; brotli: number } {
  const page = readFileSync(`${CONSOLE}index.html`, "utf8");
  const files = [...page.matchAll(/"\/(assets\/[^"]+\.js)"/g)].map(([, file]) => `${CONSOLE}${file}`);
  const bytes = (ending: string) =>
    files.reduce((sum, file) => sum + statSync(existsSync(`${file}${ending}`) ? `${file}${ending}` : file).size, 0);
  return { gzip: bytes(".gz"), brotli: bytes(".br") };
}
