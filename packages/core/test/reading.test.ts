/** Readings: what is kept of a stream of them. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { isWorthKeeping, type KeptReading } from "../src/index.ts";

describe("a stream of readings", () => {
  it("is kept so that no kept line is further off than the deadband, but for the last ten seconds", () => {
    const steps = fc.array(
      fc.tuple(fc.integer({ min: 100, max: 30_000 }), fc.double({ min: -5, max: 5, noNaN: true })),
      { minLength: 1, maxLength: 200 },
    );
    fc.assert(
      fc.property(steps, fc.double({ min: 0.1, max: 3, noNaN: true }), (moves, deadband) => {
        let [at, value] = [0, 20];
        let last: KeptReading | null = null;
        for (const [ms, by] of moves) {
          at += ms;
          value += by;
          const keeps: boolean = isWorthKeeping(last, value, deadband, at);
          if (last !== null && !keeps) {
            const isNear = Math.abs(value - last.value) < deadband;
            expect(isNear || at - last.at < 10_000).toBe(true);
            expect(at - last.at).toBeLessThan(900_000);
          }
          if (keeps) last = { value, at };
        }
      }),
    );
  });

  it("is kept when the clock was set back", () => {
    expect(isWorthKeeping({ value: 20, at: 1_000_000 }, 20, 1, 5_000)).toBe(true);
  });
});
