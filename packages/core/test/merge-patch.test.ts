/** JSON Merge Patch as RFC 7396 has it. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { mergePatch } from "../src/index.ts";

/** Appendix A of the RFC: original, patch, result. */
const EXAMPLES: readonly (readonly [unknown, unknown, unknown])[] = [
  [{ a: "b" }, { a: "c" }, { a: "c" }],
  [{ a: "b" }, { b: "c" }, { a: "b", b: "c" }],
  [{ a: "b" }, { a: null }, {}],
  [{ a: "b", b: "c" }, { a: null }, { b: "c" }],
  [{ a: ["b"] }, { a: "c" }, { a: "c" }],
  [{ a: "c" }, { a: ["b"] }, { a: ["b"] }],
  [{ a: { b: "c" } }, { a: { b: "d", c: null } }, { a: { b: "d" } }],
  [{ a: [{ b: "c" }] }, { a: [1] }, { a: [1] }],
  [
    ["a", "b"],
    ["c", "d"],
    ["c", "d"],
  ],
  [{ a: "b" }, ["c"], ["c"]],
  [{ a: "foo" }, null, null],
  [{ a: "foo" }, "bar", "bar"],
  [{ e: null }, { a: 1 }, { e: null, a: 1 }],
  [[1, 2], { a: "b", c: null }, { a: "b" }],
  [{}, { a: { bb: { ccc: null } } }, { a: { bb: {} } }],
];

describe("a merge patch", () => {
  it.each(EXAMPLES)("of %j by %j is %j", (original, patch, result) => {
    expect(mergePatch(original, patch)).toEqual(result);
  });

  it("made twice is the same as once, and takes nothing from the original", () => {
    fc.assert(
      fc.property(fc.jsonValue(), fc.jsonValue(), (original, patch) => {
        const kept = structuredClone(original);
        const once = mergePatch(original, patch);
        expect(mergePatch(once, patch)).toEqual(once);
        expect(original).toEqual(kept);
      }),
    );
  });

  it("with a field called __proto__ changes no other object", () => {
    const merged = mergePatch({}, JSON.parse('{"__proto__":{"admin":true}}')) as object;
    expect(({} as { admin?: boolean }).admin).toBeUndefined();
    expect((merged as { admin?: boolean }).admin).toBeUndefined();
    expect(Object.keys(merged)).toEqual(["__proto__"]);
  });
});
