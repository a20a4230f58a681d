/** What is listened to: everything that was wanted, and nothing twice. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { covers, disjointFilters, overlap } from "../src/index.ts";

const level = fc.constantFrom("a", "b", "c");
const topic = fc.array(level, { minLength: 1, maxLength: 3 }).map((levels) => levels.join("/"));
const wide = fc
  .tuple(fc.array(fc.oneof(level, fc.constant("+")), { minLength: 1, maxLength: 3 }), fc.boolean())
  .map(([levels, more]) => [...levels, ...(more ? ["#"] : [])].join("/"));

describe("filters that do not overlap", () => {
  it("cover every topic that was wanted, once, and no more filters than before", () => {
    fc.assert(
      fc.property(
        fc.array(fc.oneof(topic, wide), { maxLength: 8 }),
        fc.array(topic, { maxLength: 12 }),
        (wanted, all) => {
          const topics = [...new Set(all)];
          const kept = disjointFilters(wanted, () => topics);
          for (const one of topics) {
            const isWanted = wanted.some((filter) => covers(filter, one));
            expect([one, kept.filter((filter) => covers(filter, one)).length]).toEqual([one, isWanted ? 1 : 0]);
          }
          for (const [index, one] of kept.entries())
            for (const other of kept.slice(index + 1))
              expect([one, other, overlap(one, other)]).toEqual([one, other, false]);
        },
      ),
      { numRuns: 2_000 },
    );
  });

  it.each([
    [
      ["+/b", "a/+"],
      ["a/b", "a/c", "d/b"],
      ["+/b", "a/c"],
    ],
    [["alder-row/+/+/is", "alder-row/+/here"], ["alder-row/wren/here"], ["alder-row/+/+/is", "alder-row/+/here"]],
    [["own/wren/is", "own/wren/is"], ["own/wren/is"], ["own/wren/is"]],
  ])("%j with the topics %j → %j", (wanted, topics, kept) => {
    expect(disjointFilters(wanted, () => topics)).toEqual(kept);
  });
});
