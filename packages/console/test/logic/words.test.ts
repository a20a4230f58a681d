/** Small wordings that many pages share. */
import { describe, expect, it } from "vitest";
import { readDescription } from "../../src/parts/description-text.ts";
import { ageWords, capital, isKnownNow } from "../../src/parts/words.ts";

const observed = (stale: string | null, asOf: string | null = "2026-11-27T10:00:00Z") =>
  ({ observed: { value: "on", text: "on", stale, asOf } }) as never;

describe("what is known of a channel", () => {
  it("counts only while nothing has made it old", () => {
    expect([isKnownNow(observed(null)), isKnownNow(observed("offline")), isKnownNow({ observed: null })]).toEqual([
      true,
      false,
      false,
    ]);
  });

  it("is told with its age where it is old", () => {
    const now = Date.parse("2026-11-27T10:05:00Z");
    expect(ageWords(observed(null), now)).toBeNull();
    expect(ageWords(observed("offline"), now)).toMatch(/5 min ago/);
    expect(ageWords(observed("retained", null), now)).not.toMatch(/ago/);
  });
});

describe("words", () => {
  it("begin with a capital", () => {
    expect([capital("by hand"), capital("")]).toEqual(["By hand", ""]);
  });
});

describe("a description as text", () => {
  it("is read as YAML or JSON; anything else is said to be wrong, in one line", () => {
    expect(readDescription("slug: wren")).toEqual({ slug: "wren" });
    expect(readDescription('{"slug": "wren"}')).toEqual({ slug: "wren" });
    for (const text of ["", "wren", "- wren", "slug: [", "a: &a [*a, *a]"])
      expect([text, readDescription(text)]).toEqual([text, { wrong: expect.stringMatching(/^.+$/) }]);
  });
});
