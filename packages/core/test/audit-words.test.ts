/** The audit log in sentences. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { auditChanges, auditWords } from "../src/index.ts";

describe("what somebody did", () => {
  it("is a sentence with the actor before it and the object after it", () => {
    expect(`Ines ${auditWords("inlet changed")} Booking`).toBe("Ines changed the inlet Booking");
    expect(auditWords("something of long ago")).toBe("something of long ago:");
    expect(auditWords("constructor")).toBe("constructor:");
  });
});

describe("what a change changed", () => {
  it("is told place by place, lists from 1", () => {
    const before = { name: "Booking", routes: [{ do: { phrase: "porch on" } }], paused: true };
    const after = { name: "Booking", routes: [{ do: { phrase: "porch off" } }, { do: { phrase: "x" } }] };
    expect(auditChanges(before, after)).toEqual([
      { place: "routes.1.do.phrase", from: "porch on", to: "porch off" },
      { place: "paused", from: "true", to: null },
      { place: "routes.2.do.phrase", from: null, to: "x" },
    ]);
  });

  it("is everything where there was nothing, and nothing where nothing differs", () => {
    expect(auditChanges(null, { role: "user" })).toEqual([{ place: "role", from: null, to: "user" }]);
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        expect(auditChanges(value, structuredClone(value))).toEqual([]);
      }),
    );
  });

  it("is bounded, and never throws", () => {
    fc.assert(
      fc.property(fc.jsonValue(), fc.jsonValue(), (before, after) => {
        expect(auditChanges(before, after).length).toBeLessThanOrEqual(50);
      }),
    );
  });
});
