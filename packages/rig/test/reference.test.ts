/** Pages that are made of the code are the ones that are shipped. */
import { readFileSync } from "node:fs";
import { expect, it } from "vitest";

const root = new URL("../../../", import.meta.url);
const { referencePages } = (await import(new URL("scripts/reference/pages.mjs", root).href)) as {
  referencePages(): Record<string, string>;
};

it.each(Object.entries(referencePages()))("%s is up to date (npm run reference)", (file, made) => {
  expect(readFileSync(new URL(file, root), "utf8")).toBe(made);
});
