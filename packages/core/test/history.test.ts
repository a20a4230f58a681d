/** The last 24 hours of a channel, in one line. */
import { describe, expect, it } from "vitest";
import {
  type HistoryCommand,
  type HistoryCommandDetail,
  type HistoryFacts,
  HOUR_MS,
  historyAnswer,
  onTimeMs,
} from "../src/index.ts";

type Command = HistoryCommand & HistoryCommandDetail;

const facts: HistoryFacts<Command> = {
  name: "Porch lantern, Finch",
  is: "on",
  isOnNow: true,
  online: true,
  from: 0,
  now: 24 * HOUR_MS,
  clock: (at) => `${at / HOUR_MS} h`,
  changes: [
    { at: 2 * HOUR_MS, from: "on", to: "off", cause: "hand" },
    { at: 20 * HOUR_MS, from: "off", to: "on", cause: "command" },
  ],
  commands: [
    { at: 10 * HOUR_MS, by: "Tomas", to: "on", end: "unanswered", headline: "Stopped at the device." },
    { at: 20 * HOUR_MS, by: "Ines", to: "on", end: "delivered", headline: "Confirmed." },
  ],
};

describe("the answer", () => {
  it("says what it is, since when, by whom, and what did not get there", () => {
    expect(historyAnswer(facts, (command) => command)).toBe(
      "Porch lantern, Finch has been on since 20 h, requested by Ines. In 24 h: 2 commanded, 1 not delivered; on for 6 h. " +
        "Last not delivered: on, requested by Tomas at 10 h. Stopped at the device.",
    );
  });

  it.each([
    [
      { changes: [], commands: [], is: "off", isOnNow: false },
      "is off, unchanged for 24 h. In 24 h: no commands; never on.",
    ],
    [{ is: null }, "state unknown"],
    [{ online: false }, "Its device is offline."],
    [{ changes: facts.changes.slice(0, 1), is: "off", isOnNow: false }, "has been off since 2 h, by hand."],
    [{ commands: [] }, "since 20 h, by a command"],
    [{ commands: facts.commands.map((one) => ({ ...one, to: "off" })) }, "since 20 h, by a command"],
    [{ changes: facts.changes.map((one) => ({ ...one, cause: "unknown" as const })) }, "since 20 h, unknown cause"],
  ] as const)("%j: %s", (more, text) => {
    expect(historyAnswer({ ...facts, ...more }, (command) => command)).toContain(text);
  });

  it("counts the time on from what it was before the first change", () => {
    expect(onTimeMs(facts)).toBe(6 * HOUR_MS);
    expect(onTimeMs({ ...facts, changes: [] })).toBe(24 * HOUR_MS);
  });
});
