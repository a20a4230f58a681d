/** The shipped JSON Schemas: they are what the code makes, accept what people load, and refuse what the service refuses. */
import { readdirSync, readFileSync } from "node:fs";
import { exampleInlet, INLET_KINDS, shippedProfiles } from "@bold-relay/core";
import { Ajv2020 } from "ajv/dist/2020.js";
import { describe, expect, it } from "vitest";
import { fieldDescriptions } from "../src/schema/field-descriptions.ts";
import { descriptionKey } from "../src/schema/files.ts";
import { fileSchemas, inletSchema, profileSchema, siteSchema, wholeFileSchemas } from "../src/schema/index.ts";

const read = (path: string) => JSON.parse(readFileSync(new URL(path, import.meta.url), "utf8"));
const schemas = fileSchemas() as Record<"site" | "profile" | "inlet" | "notification", object>;
const ajv = new Ajv2020({ strict: false, validateFormats: false });
const DATA = "../../rig/demo-data/";
const demo = (part: string) => readdirSync(new URL(DATA, import.meta.url)).filter((name) => name.startsWith(part));

/** The path of every field of a file. */
function pathsIn(node: unknown, path: readonly string[] = []): (readonly string[])[] {
  if (Array.isArray(node)) return node.flatMap((one) => pathsIn(one, path));
  if (typeof node !== "object" || node === null) return [];
  return Object.entries(node).flatMap(([key, value]) =>
    key === "properties"
      ? Object.entries(value as object).flatMap(([name, property]) => [
          [...path, name],
          ...pathsIn(property, [...path, name]),
        ])
      : pathsIn(value, path),
  );
}

describe("the JSON Schemas", () => {
  it("say of every field what it means, and every sentence is of a field", () => {
    const paths = pathsIn(wholeFileSchemas());
    expect(paths.filter((path) => descriptionKey(path) === undefined)).toEqual([]);
    const used = new Set(paths.map(descriptionKey));
    expect(Object.keys(fieldDescriptions).filter((key) => !used.has(key))).toEqual([]);
  });

  it.each(Object.keys(schemas))("of a %s is the one that is shipped (npm run reference)", (name) => {
    expect(read(`../../../docs/schemas/${name}.schema.json`)).toEqual(schemas[name as keyof typeof schemas]);
  });

  it.each([
    ["site", siteSchema, demo("site-").map((name) => read(DATA + name))],
    ["profile", profileSchema, [...shippedProfiles, ...demo("profile-").map((name) => read(DATA + name))]],
    [
      "inlet",
      inletSchema,
      [
        ...INLET_KINDS.map((kind) => exampleInlet(kind, "some", "Some", null)),
        // These have their address or port from the demo that runs.
        ...readdirSync(new URL(`${DATA}inlets`, import.meta.url))
          .map((name) => read(`${DATA}inlets/${name}`))
          .filter(({ kind }) => kind !== "sheet" && kind !== "line"),
      ],
    ],
  ] as const)("of a %s accepts what the service accepts", (name, joi, samples) => {
    const validate = ajv.compile(schemas[name]);
    for (const sample of samples) {
      expect(joi.validate(sample).error).toBeUndefined();
      expect([validate(sample), validate.errors]).toEqual([true, null]);
    }
  });

  it.each([
    ["site", { slug: "Alder Row", name: "x", rooms: [] }],
    ["site", { slug: "alder-row", name: "x", rooms: [], roms: [] }],
    ["profile", { ...shippedProfiles[0], codec: { form: "text", range: [1] } }],
    ["profile", { ...shippedProfiles[0], delivery: { targetStage: "lit" } }],
    ["inlet", { slug: "a", name: "A", kind: "fax", site: null }],
    ["inlet", { ...exampleInlet("topic", "a", "A", null), routes: [{ when: { topc: "a" }, do: { ignore: true } }] }],
    [
      "inlet",
      { ...exampleInlet("keypad", "a", "A", null), settings: { menu: { say: "x", keys: { "1": { menu: 1 } } } } },
    ],
    ["notification", { slug: "a", name: "A", site: null, on: { outcomes: ["well"] }, to: { topic: "a" } }],
  ] as const)("of a %s refuses what the service refuses: %j", (name, wrong) => {
    expect(ajv.compile(schemas[name])(wrong)).toBe(false);
  });
});
