// Fetches Node.js as an npm package, checked against packaging/node.json. As a program: node packaging/node.mjs FOLDER
// Runs on any Node.js that npm runs on: it is what brings the right one.
import { execFileSync } from "node:child_process";
import { chmodSync, existsSync, mkdirSync, mkdtempSync, readFileSync, renameSync, rmSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";

const PINNED = JSON.parse(readFileSync(new URL("node.json", import.meta.url), "utf8"));

/**
 * Puts `node` and its `LICENSE` into a folder. The folder is there as a whole or not at all.
 *
 * @param folder is made, where it is not there yet
 * @param arch x64 or arm64
 * @throws Error when the architecture is unknown, npm cannot fetch the package, or its checksum is another
 */
export function fetchNode(folder, arch) {
  const pinned = PINNED.packages[arch];
  if (pinned === undefined)
    throw new Error(`There is no Node.js package for ${arch}, only for ${Object.keys(PINNED.packages).join(", ")}.`);
  const wanted = `${pinned.name}@${PINNED.version}`;
  mkdirSync(path.dirname(folder), { recursive: true });
  const work = mkdtempSync(path.join(path.dirname(folder), ".fetch-"));
  try {
    const words = ["pack", wanted, "--json", "--loglevel=error", "--pack-destination", work];
    const options = { encoding: "utf8", stdio: ["ignore", "pipe", "inherit"], maxBuffer: 16e6 };
    const [packed] = JSON.parse(execFileSync("npm", words, options));
    if (packed.integrity !== pinned.integrity)
      throw new Error(`${wanted} is not what packaging/node.json says: ${packed.integrity}.`);
    execFileSync("tar", ["-xzf", packed.filename, "package/bin/node", "package/LICENSE"], { cwd: work });
    const ready = path.join(work, "ready");
    mkdirSync(ready);
    renameSync(path.join(work, "package/bin/node"), path.join(ready, "node"));
    renameSync(path.join(work, "package/LICENSE"), path.join(ready, "LICENSE"));
    chmodSync(path.join(ready, "node"), 0o755);
    chmodSync(path.join(ready, "LICENSE"), 0o644);
    putInPlace(ready, folder);
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
}

/** Another script may have fetched the same meanwhile: that one is as good. */
function putInPlace(ready, folder) {
  try {
    renameSync(ready, folder);
  } catch (error) {
    if (!existsSync(path.join(folder, "node"))) throw error;
  }
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const [folder] = process.argv.slice(2);
  if (folder === undefined) {
    process.stderr.write("Say where to: node packaging/node.mjs FOLDER\n");
    process.exit(2);
  }
  try {
    fetchNode(path.resolve(folder), process.arch);
  } catch (error) {
    process.stderr.write(`Node.js ${PINNED.version} could not be fetched: ${error.message}\n`);
    process.stderr.write("Install Node.js 24 by other means, put it first on the path, then start again.\n");
    process.exit(1);
  }
}
