/** The description of the interface: valid OpenAPI, and no older than what it is made of. */
import { readFileSync } from "node:fs";
import { validate } from "@readme/openapi-parser";
import { expect, it } from "vitest";

const shipped = JSON.parse(readFileSync(new URL("../openapi.json", import.meta.url), "utf8"));

it("is valid OpenAPI 3.1", async () => {
  expect(shipped.openapi).toBe("3.1.0");
  expect(await validate(structuredClone(shipped))).toMatchObject({ valid: true });
});

it("is the one that is shipped (npm run reference)", async () => {
  const { interfaceDescription } = await import(new URL("../../../scripts/interface.mjs", import.meta.url).href);
  expect(interfaceDescription()).toEqual(shipped);
}, 60_000);

it("refers to nothing that is not in it", () => {
  const known = Object.keys(shipped.components.schemas);
  const named = [...JSON.stringify(shipped).matchAll(/#\/components\/schemas\/([\w.-]+)/g)].map(([, name]) => name);
  expect(named.filter((name) => !known.includes(name ?? ""))).toEqual([]);
});
