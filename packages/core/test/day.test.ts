/** The last 24 hours of a channel, in one line. */
import { describe, expect, it } from "vitest";
import { type DayFacts, dayAnswer, HOUR_MS, onTimeMs } from "../src/index.ts";

const facts: DayFacts = {
  name: "Porch lantern, Finch",
  is: "on",
  isOnNow: true,
  present: true,
  from: 0,
  now: 24 * HOUR_MS,
  clock: (at) => `${at / HOUR_MS} h`,
  changes: [
    { at: 2 * HOUR_MS, from: "on", to: "off", cause: "hand" },
    { at: 20 * HOUR_MS, from: "off", to: "on", cause: "command" },
  ],
  commands: [
    { at: 10 * HOUR_MS, by: "Tomas", to: "on", end: "unanswered", headline: "Stopped at the device." },
    { at: 20 * HOUR_MS, by: "Ines", to: "on", end: "complete", headline: "Confirmed." },
  ],
};

describe("the answer", () => {
  it("says what it is, since when, by whom, and what did not get there", () => {
    expect(dayAnswer(facts)).toBe(
      "Porch lantern, Finch has been on since 20 h, asked by Ines. In 24 h: 2 asked, 1 not reached; on for 6 h. " +
        "Last not reached: on, asked by Tomas at 10 h. Stopped at the device.",
    );
  });

  it.each([
    [
      { changes: [], commands: [], is: "off", isOnNow: false },
      "is off, unchanged for 24 h. In 24 h: nothing asked; never on.",
    ],
    [{ is: null }, "nobody knows what it is"],
    [{ present: false }, "Its device is off the broker."],
    [{ changes: facts.changes.slice(0, 1), is: "off", isOnNow: false }, "has been off since 2 h, by hand."],
    [{ commands: [] }, "since 20 h, by nobody known"],
  ] as const)("%j: %s", (more, text) => {
    expect(dayAnswer({ ...facts, ...more })).toContain(text);
  });

  it("counts the time on from what it was before the first change", () => {
    expect(onTimeMs(facts)).toBe(6 * HOUR_MS);
    expect(onTimeMs({ ...facts, changes: [] })).toBe(24 * HOUR_MS);
  });
});
