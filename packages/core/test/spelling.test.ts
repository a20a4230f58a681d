/** How many edits lie between two names, against the slow and honest way of counting them. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { editDistance } from "../src/index.ts";

/** Optimal string alignment, cell by cell of the whole matrix. */
function slowDistance(one: string, other: string): number {
  const cells: number[][] = [];
  for (let i = 0; i <= one.length; i += 1) {
    cells[i] = [];
    for (let j = 0; j <= other.length; j += 1) {
      const at = (row: number, column: number) => cells[row]?.[column] ?? Number.POSITIVE_INFINITY;
      const same = one[i - 1] === other[j - 1];
      const swaps = i > 1 && j > 1 && one[i - 1] === other[j - 2] && one[i - 2] === other[j - 1];
      const edits = [at(i - 1, j) + 1, at(i, j - 1) + 1, at(i - 1, j - 1) + (same ? 0 : 1)];
      (cells[i] as number[])[j] = i + j === 0 ? 0 : Math.min(...edits, swaps ? at(i - 2, j - 2) + 1 : i + j);
    }
  }
  return cells[one.length]?.[other.length] ?? 0;
}

/** Few letters, so that texts have much in common. */
const text = fc.string({ unit: fc.constantFrom("a", "b", "c", " "), maxLength: 14 });

describe("edits between names", () => {
  it.each([
    ["", "abc", 3],
    ["gate", "gaet", 1],
    ["porch", "porsch", 1],
    ["wren", "finch", 5],
  ])("%s and %s: %d", (one, other, distance) => {
    expect(editDistance(one, other, 10)).toBe(distance);
  });

  it("are as many as the slow way counts, and one more than the furthest where there are more", () => {
    fc.assert(
      fc.property(text, text, fc.integer({ min: 0, max: 8 }), (one, other, furthest) => {
        expect(editDistance(one, other, furthest)).toBe(Math.min(slowDistance(one, other), furthest + 1));
      }),
      { numRuns: 2_000 },
    );
  });

  it("take no work for what begins and ends alike, and little for what is quite different", () => {
    const work = (one: string, other: string) => {
      let cells = 0;
      editDistance(one, other, 6, (looked) => {
        cells += looked;
      });
      return cells;
    };
    const long = "hall light on the upper floor ".repeat(6);
    expect(work(`${long}17${long}`, `${long}18${long}`)).toBeLessThanOrEqual(4);
    expect(work("a".repeat(200), "b".repeat(200))).toBeLessThanOrEqual(7 * 13);
  });

  it("are the same both ways, and none only for the same", () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 12 }), fc.string({ maxLength: 12 }), (one, other) => {
        const distance = editDistance(one, other, 20);
        expect(editDistance(other, one, 20)).toBe(distance);
        expect(distance === 0).toBe(one === other);
      }),
    );
  });
});
