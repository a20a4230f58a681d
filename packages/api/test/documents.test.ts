/** Documents name files that are there. */
import { existsSync, readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { expect, it } from "vitest";

const ROOT = fileURLToPath(new URL("../../../", import.meta.url));
const documents = ["ARCHITECTURE.md", "CONTRIBUTING.md", "SECURITY.md", "README.md", ...within("docs")];
const packages = readdirSync(path.join(ROOT, "packages")).map((name) => `packages/${name}`);
const sources = packages.flatMap((name) => ["src", "test", "migrations"].map((folder) => `${name}/${folder}`));
const files = [...sources, "bench/src", "examples", "scripts", "deploy"].flatMap(within);

function within(folder: string): string[] {
  if (!existsSync(path.join(ROOT, folder))) return [];
  const names = readdirSync(path.join(ROOT, folder), { recursive: true, encoding: "utf8" });
  return names.map((name) => `${folder}/${name}`).filter((file) => /\.\w+$/.test(file));
}

it.each(documents.filter((file) => file.endsWith(".md")))("%s", (document) => {
  const text = readFileSync(path.join(ROOT, document), "utf8");
  const named = [...text.matchAll(/`([\w./-]+\.(?:tsx?|mjs|sql))`/g)].map((found) => found[1] ?? "");
  const missing = named.filter((name) => !files.some((file) => file === name || file.endsWith(`/${name}`)));
  expect(missing).toEqual([]);
});
