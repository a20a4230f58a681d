/** What goes past the schema is what the schema lets through as it is. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { inletAskSchema, usualAsk } from "../src/schema/index.ts";

const text = fc.oneof(
  fc.string({ maxLength: 60 }),
  fc.string({ unit: "binary", maxLength: 60 }),
  fc.constantFrom("", "on", "x".repeat(41), "x".repeat(201)),
);
const value = fc.oneof(
  text,
  fc.double(),
  fc.integer(),
  fc.constantFrom(null, true, undefined, 2 ** 60, Number.NaN, [], {}, "confirmed", "accepted", "acknowledged"),
);
const body = fc.oneof(
  fc.record(
    { target: value, action: value, sender: value, value, until: value, forMs: value, more: value },
    { requiredKeys: [] },
  ),
  fc.record({ target: text, action: text }),
  fc.record(
    { target: text, action: text, sender: text, value: fc.integer(), until: fc.constantFrom("published", "confirmed") },
    { requiredKeys: ["target", "action"] },
  ),
  fc.anything(),
);

describe("a usual body", () => {
  it("is one that the schema lets through unchanged", () => {
    let usual = 0;
    fc.assert(
      fc.property(body, (given) => {
        const known = usualAsk(given);
        if (known === null) return;
        usual += 1;
        const checked = inletAskSchema.validate(given);
        expect(checked.error).toBeUndefined();
        expect(checked.value).toEqual(known);
      }),
      { numRuns: 2_000 },
    );
    expect(usual).toBeGreaterThan(100);
  });

  it.each([
    { target: "porch lantern, finch", action: "on" },
    { target: "alder-row/wren/dining", action: "level", value: 35, sender: "Wren guest book", until: "acknowledged" },
  ])("is the body that programs send: %j", (given) => {
    expect(usualAsk(given)).toBe(given);
  });

  it.each([
    null,
    [],
    { target: "x" },
    { target: "x", action: "on", forMs: 500 },
    { target: "dämmerlicht", action: "on" },
    { target: "x", action: "on", value: 1.5 },
  ])("is none that may need a second look: %j", (given) => {
    expect(usualAsk(given)).toBeNull();
  });
});
