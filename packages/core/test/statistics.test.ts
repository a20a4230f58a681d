/** DeliveryStatistics: what is summed up of counts, and what the times in buckets tell. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  bucketMs,
  bucketOf,
  countsOf,
  type EndedCommand,
  percentText,
  type StatisticCount,
  splitAt,
  statisticsOf,
  uncovered,
} from "../src/index.ts";

describe("statistics", () => {
  it("tell what reached its targetStage of what was not replaced, and by which proof", () => {
    const counts: StatisticCount[] = [
      { what: "delivered", grade: 4, count: 7 },
      { what: "delivered", grade: 3, count: 73 },
      { what: "delivered", grade: 2, count: 9 },
      { what: "delivered", grade: 1, count: 1 },
      { what: "unanswered", grade: 1, count: 8 },
      { what: "expired", grade: 0, count: 2 },
      { what: "replaced", grade: 0, count: 50 },
      { what: "overtaken", grade: 1, count: 5 },
      { what: "refused", grade: 0, count: 4 },
      { what: "not-understood", grade: 0, count: 3 },
    ];
    expect(statisticsOf(counts)).toEqual({
      commands: 155,
      delivered: 90,
      replaced: 55,
      missed: { failed: 0, unanswered: 8, expired: 2 },
      proven: { published: 1, acknowledged: 9, confirmed: 73, measured: 7 },
      successRate: 0.9,
      refused: 4,
      notUnderstood: 3,
      times: { published: null, acknowledged: null, confirmed: null, whole: null },
    });
    expect(statisticsOf([]).successRate).toBeNull();
  });

  it.each([
    [null, "–"],
    [1, "100 %"],
    [0.99999, "99.9 %"],
    [0.9967, "99.7 %"],
    [0, "0.0 %"],
  ])("%s is %s", (successRate, text) => {
    expect(percentText(successRate)).toBe(text);
  });
});

describe("times", () => {
  it("keep their bucket, within 5 %", () => {
    fc.assert(
      fc.property(fc.double({ min: 0.125, max: 1e9, noNaN: true }), (ms) => {
        expect(Math.abs(bucketMs(bucketOf(ms)) / ms - 1)).toBeLessThan(0.05);
      }),
    );
  });

  it("tell of half of them, and of nineteen in twenty, what a sorted list does", () => {
    const times = fc.array(fc.double({ min: 0.2, max: 60_000, noNaN: true }), { minLength: 1, maxLength: 200 });
    fc.assert(
      fc.property(times, (all) => {
        const found = statisticsOf(all.map((ms) => ({ what: "whole", grade: bucketOf(ms), count: 1 }))).times.whole;
        const sorted = [...all].sort((one, other) => one - other);
        for (const [successRate, ms] of [
          [0.5, found?.p50],
          [0.95, found?.p95],
        ] as const) {
          const honest = sorted[Math.ceil(all.length * successRate) - 1] ?? Number.NaN;
          expect(Math.abs((ms ?? Number.NaN) / honest - 1)).toBeLessThan(0.05);
        }
      }),
    );
  });
});

describe("what no part covers", () => {
  it("is every moment of the period that lies in none of them", () => {
    const cuts = fc
      .uniqueArray(fc.nat(40), { minLength: 2, maxLength: 12 })
      .map((all) => all.sort((one, other) => one - other));
    fc.assert(
      fc.property(fc.nat(40), fc.nat(40), cuts, (from, to, at) => {
        const parts = at.flatMap((end, index) => (index % 2 === 0 ? [] : { from: at[index - 1] ?? 0, to: end }));
        const isIn = (moment: number, all: readonly { from: number; to: number }[]) =>
          all.some((one) => moment >= one.from && moment < one.to);
        const gaps = uncovered({ from, to }, parts);
        const { before, after } = splitAt(gaps, 20);
        for (let moment = 0; moment <= 40; moment += 1) {
          const wanted = moment >= from && moment < to && !isIn(moment, parts);
          expect([moment, isIn(moment, gaps)]).toEqual([moment, wanted]);
          expect([moment, isIn(moment, moment < 20 ? before : after)]).toEqual([moment, wanted]);
          expect(isIn(moment, moment < 20 ? after : before)).toBe(false);
        }
      }),
    );
  });
});

describe("what is counted of a command", () => {
  const ended = { end: "delivered", stage: "confirmed", askedAt: 1_000 } as const;

  it("is how it ended, each hop since the one before, and the whole way of one that was delivered", () => {
    const hops = [
      { kind: "accepted", at: 1_000 },
      { kind: "published", at: 1_004 },
      { kind: "acknowledged", at: 1_020 },
      { kind: "confirmed", at: 1_084 },
    ] as const;
    expect(countsOf({ ...ended, hops })).toEqual([
      { what: "delivered", grade: 3, count: 1 },
      { what: "published", grade: bucketOf(4), count: 1 },
      { what: "acknowledged", grade: bucketOf(16), count: 1 },
      { what: "confirmed", grade: bucketOf(64), count: 1 },
      { what: "whole", grade: bucketOf(84), count: 1 },
    ]);
    expect(countsOf({ ...ended, end: "failed", hops }).map(({ what }) => what)).not.toContain("whole");
  });

  it("takes the first of several tries, and a hop that was not seen for nothing", () => {
    const hops = [
      { kind: "acknowledged", at: 1_016 },
      { kind: "published", at: 9_000 },
      { kind: "acknowledged", at: 9_500 },
    ] as const;
    const counts = countsOf({ ...ended, stage: "acknowledged", hops: hops.filter(({ kind }) => kind !== "published") });
    expect(counts).toContainEqual({ what: "acknowledged", grade: bucketOf(16), count: 1 });
    expect(counts.map(({ what }) => what)).toEqual(["delivered", "acknowledged", "whole"]);
  });

  it("says where something else than the device has confirmed it", () => {
    const hops = [{ kind: "confirmed", at: 1_100, measured: true }] as const;
    expect(countsOf({ ...ended, hops })[0]).toEqual({ what: "delivered", grade: 4, count: 1 });
  });

  it("is one end whatever came, and no time below the shortest", () => {
    const hop = fc.record({
      kind: fc.constantFrom("accepted", "sent", "published", "acknowledged", "confirmed", "ended"),
      at: fc.integer({ min: 0, max: 100_000 }),
    });
    fc.assert(
      fc.property(fc.array(hop), fc.constantFrom("delivered", "failed", "unanswered"), (hops, end) => {
        const counts = countsOf({ ...ended, end, hops } as EndedCommand);
        expect(counts.filter(({ what }) => what === end)).toHaveLength(1);
        for (const { what, grade } of counts) if (what !== end) expect(grade).toBeGreaterThanOrEqual(bucketOf(0));
        expect(new Set(counts.map(({ what }) => what)).size).toBe(counts.length);
      }),
    );
  });
});
