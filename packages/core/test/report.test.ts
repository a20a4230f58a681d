/** What people read: outcomes, tracks, durations, verdicts; and the facts beneath: state and agreement. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  agreement,
  type Clues,
  ENDS,
  formatAgo,
  formatDuration,
  isUuid,
  observe,
  outcomeOf,
  REASONS,
  type Report,
  STAGES,
  trackMarks,
  trackText,
  uuidV7,
  type VerdictFacts,
  verdict,
} from "../src/index.ts";
import { commandId } from "./support/order.ts";

describe("the stage track", () => {
  it.each([
    [{ stage: "accepted", targetStage: "confirmed", end: null }, "●┄┄◌┄┄◌┄┄◌"],
    [{ stage: "acknowledged", targetStage: "confirmed", end: null }, "●──●──●┄┄◌"],
    [{ stage: "confirmed", targetStage: "confirmed", end: "delivered" }, "●──●──●──●"],
    [{ stage: "published", targetStage: "confirmed", end: "unanswered" }, "●──●┄┄✕──○"],
    [{ stage: "accepted", targetStage: "confirmed", end: "replaced" }, "●┄┄✕──○──○"],
    [{ stage: "acknowledged", targetStage: "acknowledged", end: "delivered" }, "●──●──●──○"],
    [{ stage: "published", targetStage: "acknowledged", end: "unanswered" }, "●──●┄┄✕──○"],
  ] as const)("%j: %s", (progress, text) => {
    expect(trackText(progress)).toBe(text);
  });

  it("always has four marks, at most one stop, and nothing proven behind it", () => {
    const progress = fc.record({
      stage: fc.constantFrom(...STAGES),
      targetStage: fc.constantFrom("published" as const, "acknowledged" as const, "confirmed" as const),
      end: fc.constantFrom(null, ...ENDS),
    });
    fc.assert(
      fc.property(progress, (one) => {
        const marks = trackMarks(one);
        expect(marks).toHaveLength(4);
        const stop = marks.indexOf("stopped");
        expect(marks.lastIndexOf("stopped")).toBe(stop);
        if (stop >= 0) expect(marks.lastIndexOf("proven")).toBeLessThan(stop);
      }),
    );
  });
});

describe("outcomes", () => {
  it.each([
    [[], "open"],
    [["delivered", null], "open"],
    [["delivered", "delivered"], "delivered"],
    [["delivered", "failed"], "partly-delivered"],
    [["replaced", "overtaken"], "replaced"],
    [["replaced", "failed"], "not-delivered"],
  ] as const)("%j: %s", (ends, outcome) => {
    expect(outcomeOf(ends)).toBe(outcome);
  });
});

describe("durations", () => {
  it.each([
    [0, "0.0 ms"],
    [1.42, "1.4 ms"],
    [9.96, "10 ms"],
    [999.4, "999 ms"],
    [999.6, "1.0 s"],
    [59_949, "59.9 s"],
    [60_000, "1 min"],
    [7_200_000, "2 h"],
    [200_000_000, "2 d"],
    [-5, "0.0 ms"],
  ])("%d: %s", (ms, text) => {
    expect(formatDuration(ms)).toBe(text);
  });

  it("ago", () => {
    expect([formatAgo(900), formatAgo(41_000), formatAgo(125_000)]).toEqual(["just now", "41 s ago", "2 min ago"]);
  });
});

describe("verdicts", () => {
  const facts: VerdictFacts = {
    to: "on",
    urgent: false,
    note: null,
    said: null,
    stage: "published",
    targetStage: "confirmed",
    end: "unanswered",
    reason: "no-acknowledgement",
    attempts: 3,
    code: null,
    acknowledged: true,
    already: false,
    unchanged: false,
    reported: null,
    reads: false,
    tookMs: 6_500,
    device: "board under the stairs",
    online: true,
    topic: "alder-row/finch/porch/do",
    maySubscribe: [],
    ignored: null,
    measured: false,
  };

  it("a question that stopped never speaks of switching", () => {
    for (const reason of ["no-report", "never-sent-in-time", "no-broker-receipt", "nobody-listens"] as const) {
      const { severity, text } = verdict({ ...facts, to: "what it is", reads: true, reason });
      expect([severity, /switch/.test(text)]).toEqual(["bad", false]);
    }
    const read = verdict({ ...facts, reads: true, end: "delivered", reason: null, stage: "confirmed", tookMs: 12 });
    expect(read).toMatchObject({ severity: "good", headline: "Read." });
  });

  it("every reason has words, and none claims more than is known", () => {
    for (const reason of REASONS) {
      const { headline, text } = verdict({ ...facts, reason });
      expect(headline).toMatch(/^[A-Z].*\.$/);
      expect(text).toMatch(/\.$/);
      expect(text).not.toMatch(/undefined|null|NaN/);
    }
    for (const reason of ["no-acknowledgement", "no-broker-receipt", "sending-uncertain"] as const) {
      expect(verdict({ ...facts, reason }).text).toContain("may or may not have switched");
    }
  });

  it("says what to do about a silent board that is there, and one that is not", () => {
    expect(verdict(facts).text).toContain("It is online");
    expect(verdict({ ...facts, online: false }).text).toContain("offline: check its power");
  });

  it("calls sent sent: never more than the device can prove", () => {
    const done = { ...facts, end: "delivered", reason: null } as const;
    expect(verdict({ ...done, targetStage: "confirmed" })).toMatchObject({ severity: "good", headline: "Confirmed." });
    expect(verdict({ ...done, targetStage: "acknowledged" })).toMatchObject({
      severity: "weak",
      headline: "Acknowledged.",
    });
    expect(verdict({ ...done, targetStage: "published" })).toMatchObject({
      severity: "weak",
      headline: "Sent, unproven.",
    });
  });
});

describe("state", () => {
  const report = (more: Partial<Report>): Report => ({ value: "on", by: null, id: null, live: true, ...more });

  const clues = (more: Partial<Clues> = {}): Clues => ({
    provenBy: null,
    unproven: null,
    issued: true,
    foreign: false,
    ...more,
  });
  const unproven = { id: commandId(5), to: "on", accepted: null } as const;

  it.each([
    ["the device's own word comes first", report({ by: "hand" }), clues({ unproven, foreign: true }), "hand"],
    ["what an unproven command wanted, a while later", report({}), clues({ unproven }), "late"],
    ["another value than the unproven command wanted", report({ value: "off" }), clues({ unproven }), "unknown"],
    [
      "a command that was never given out",
      report({ by: "command", id: commandId(9) }),
      clues({ issued: false }),
      "foreign",
    ],
    ["somebody else wrote to the command topic", report({}), clues({ foreign: true }), "foreign"],
    [
      "an old report with an unknown id",
      report({ id: commandId(9), live: false }),
      clues({ issued: false }),
      "command",
    ],
    ["nothing explains it", report({}), clues(), "unknown"],
  ] as const)("%s: %s", (_title, one, known, cause) => {
    expect(observe(null, one, known, 1).next.cause).toBe(cause);
  });

  it("keeps each change with its cause, and nothing for the same again", () => {
    const first = observe(null, report({ by: "hand" }), clues(), 1);
    expect(first.change).toEqual({ from: null, to: { value: "on", cause: "hand", commandId: null, at: 1 } });
    expect(observe(first.next, report({ by: "timer" }), clues(), 2)).toEqual({ next: first.next, change: null });
    const proven = observe(first.next, report({ value: "off" }), clues({ provenBy: commandId(3) }), 3);
    expect(proven.next).toEqual({ value: "off", cause: "command", commandId: commandId(3), at: 3 });
    expect(observe(null, report({}), clues(), 4).next.cause).toBe("unknown");
  });

  it.each([
    [null, null, "", "unknown"],
    ["on", null, "", "unknown"],
    ["on", "off", "open", "pending"],
    ["on", "off", "", "drift"],
    ["on", "on", "", "agreed"],
    [null, "on", "", "agreed"],
    [80, 79, "", "agreed"],
    [80, 40, "settling", "pending"],
    [80, 40, "", "drift"],
    ["pulse", "off", "", "agreed"],
  ] as const)("told %s, is %s, %s: %s", (commanded, observed, how, expected) => {
    const accepted = commanded === 80 ? ([79, 81] as const) : null;
    const facts = { commanded, observed, accepted, commandOpen: how === "open", settling: how === "settling" };
    expect(agreement(facts)).toBe(expected);
  });
});

describe("ids", () => {
  it("are UUIDv7: their time first, version and variant where RFC 9562 puts them", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 2 ** 47 }),
        fc.uint8Array({ minLength: 10, maxLength: 10 }),
        (at, random) => {
          const id = uuidV7(at, random);
          expect(isUuid(id)).toBe(true);
          expect(id[14]).toBe("7");
          expect("89ab").toContain(id[19]);
          expect(Number.parseInt(id.slice(0, 8) + id.slice(9, 13), 16)).toBe(at);
        },
      ),
    );
  });
});
