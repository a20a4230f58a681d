/** A channel over a longer time: what is told of a reading, and how long everything else was on. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { onTimes, type ReadingFacts, readingAnswer } from "../src/index.ts";

const NOW = Date.parse("2026-11-26T18:00:00Z");
const facts: ReadingFacts = {
  name: "Air temperature, Propagation bay",
  points: [
    { at: NOW - 12 * 3_600_000, low: 14.1, high: 14.4, last: 14.4 },
    { at: NOW - 3 * 3_600_000, low: 25.9, high: 26.5, last: 26 },
    { at: NOW - 15_000, low: 24, high: 24.3, last: 24 },
  ],
  online: true,
  now: NOW,
  words: (value) => `${value} °C`,
  clock: (at) => new Date(at).toISOString().slice(11, 16),
};

describe("a reading", () => {
  it("is told with its age, its lowest and its highest", () => {
    expect(readingAnswer(facts)).toBe(
      "Air temperature, Propagation bay: 24 °C, read 15 s ago. In 24 h: lowest 14.1 °C about 06:00, highest 26.5 °C about 15:00.",
    );
  });

  it.each<[Partial<ReadingFacts>, string]>([
    [{ points: [] }, "Air temperature, Propagation bay: nothing was read in these 24 hours."],
    [{ points: [], online: false }, "nothing was read in these 24 hours. Its device is offline."],
    [{ online: false }, "read 15 s ago. Its device is offline. In 24 h:"],
    [{ points: [{ at: NOW - 60_000, low: 7, high: 7, last: 7 }] }, "7 °C, read 1 min ago. In 24 h: always that."],
  ])("%j", (more, text) => {
    expect(readingAnswer({ ...facts, ...more })).toContain(text);
  });
});

describe("the time that a channel was on", () => {
  it("counts what it was before, and not what is to come", () => {
    const hours = [0, 10, 20, 30].map((from) => ({ from, to: from + 10 }));
    const changes = [
      { at: 5, to: "off" },
      { at: 12, to: 40 },
      { at: 14, to: 80 },
      { at: 18, to: 0 },
      { at: 25, to: "#ff0000" },
    ] as const;
    expect(onTimes("on", changes, hours, 33)).toEqual([5, 6, 5, 3]);
    expect(onTimes(null, [], hours, 33)).toEqual([0, 0, 0, 0]);
    expect(onTimes("on", [], hours, 33)).toEqual([10, 10, 10, 3]);
  });

  it("is, for any changes, what looking at each moment tells", () => {
    const changes = fc
      .array(
        fc.record({ at: fc.integer({ min: 1, max: 50 }), to: fc.constantFrom("on" as const, "off" as const, 0, 35) }),
        { maxLength: 12 },
      )
      .map((all) => all.sort((one, other) => one.at - other.at));
    fc.assert(
      fc.property(
        fc.constantFrom("on" as const, "off" as const, null),
        changes,
        fc.integer({ min: 50, max: 60 }),
        (before, all, now) => {
          const periods = [0, 15, 30, 45].map((from) => ({ from, to: from + 15 }));
          const isOnAt = (moment: number) => {
            const is = all.findLast(({ at }) => at <= moment)?.to ?? before;
            return moment < now && (is === "on" || is === 35);
          };
          const honest = periods.map(({ from, to }) => {
            let on = 0;
            for (let moment = from; moment < to; moment += 1) if (isOnAt(moment)) on += 1;
            return on;
          });
          expect(onTimes(before, all, periods, now)).toEqual(honest);
        },
      ),
    );
  });
});
