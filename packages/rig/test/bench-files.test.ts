/** The benchmarks start files by name: each of them is there, and can be loaded by Node.js as it is. */
import { existsSync, readdirSync, readFileSync } from "node:fs";
import { expect, it } from "vitest";

const FOLDER = new URL("../../../bench/src/", import.meta.url);

it("every file that a benchmark starts is there", () => {
  const missing = readdirSync(FOLDER)
    .filter((name) => name.endsWith(".ts"))
    .flatMap((name) => {
      const text = readFileSync(new URL(name, FOLDER), "utf8");
      const started = [...text.matchAll(/new URL\("(\.\/[\w-]+\.\w+)", import\.meta\.url\)/g)].map(([, path]) => path);
      return started.filter((path) => !existsSync(new URL(path ?? "", FOLDER))).map((path) => `${name} starts ${path}`);
    });
  expect(missing).toEqual([]);
});

it("every benchmark of the package scripts is there", () => {
  const { scripts } = JSON.parse(readFileSync(new URL("../../../package.json", import.meta.url), "utf8"));
  const named = Object.values<string>(scripts).flatMap((line) => /bench\.sh ([\w-]+)/.exec(line)?.[1] ?? []);
  expect(named.filter((name) => !existsSync(new URL(`${name}.ts`, FOLDER)))).toEqual([]);
  expect(named.length).toBeGreaterThan(10);
});
