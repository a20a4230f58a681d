/** What the evidence says of a step: each usual mistake has its name, and what passed only just is told. */
import { kindOf } from "@bold-relay/core";
import { describe, expect, it } from "vitest";
import {
  type ChannelEntry,
  type ChannelEvidence,
  judgeChannel,
  judgeLink,
  judgePresence,
  nearest,
  stepsOf,
  type TrialEvidence,
  withoutRepeating,
} from "../src/index.ts";
import { snapshot } from "./support/site.ts";

const find = (text: string) => snapshot.channels.find(({ name }) => name === text) as ChannelEntry;
const light = find("Hall light");
const dimmer = find("Hall dimmer");

const good: TrialEvidence = {
  to: "on",
  end: "delivered",
  reason: null,
  acknowledgedMs: 10,
  confirmedMs: 14,
  reported: "on",
  ignored: null,
};
const evidence = (more: Partial<TrialEvidence>, rest: Partial<ChannelEvidence> = {}): ChannelEvidence => ({
  trials: [{ ...good, ...more }],
  garbled: [],
  onlyRetained: false,
  unassigned: [],
  pattern: null,
  ...rest,
});

describe("a channel", () => {
  it("that does what it is told and says so has passed, with its time", () => {
    expect(judgeChannel(light, evidence({}))).toEqual({
      state: "passed",
      text: "It executed on and reported it, in 14 ms at most.",
      tryThis: null,
    });
  });

  it("that was nearly too slow has passed, with what to change", () => {
    const slow = judgeChannel(light, evidence({ acknowledgedMs: 1_900, confirmedMs: 1_950 }));
    expect([slow.state, slow.tryThis]).toEqual(["passed", expect.stringContaining("ackWithinMs is 2000")]);
    const settles = judgeChannel(light, evidence({ confirmedMs: 4_900 }));
    expect(settles.tryThis).toContain("settleMs is 5000");
  });

  it.each([
    [
      "nobody listens",
      { end: "failed", reason: "nobody-listens" },
      {},
      "Nobody listens on alder-row/wren/hall-light/do.",
    ],
    ["a refusal", { end: "failed", reason: "device-refused" }, {}, "it refused"],
    [
      "an answer without a report",
      { end: "unanswered", reason: "no-report", reported: null },
      {},
      "did not report it on",
    ],
    [
      "silence",
      { end: "unanswered", reason: "no-acknowledgement", acknowledgedMs: null, reported: null },
      {},
      "It did not acknowledge on (no-acknowledgement).",
    ],
    [
      "garbled words",
      { end: "unanswered", reason: "no-report", reported: null },
      { garbled: [{ topic: "t", payload: "ON", why: "not JSON" }] },
      "On t it says “ON”, which means nothing here: not JSON.",
    ],
    ["the opposite", { end: "failed", reason: "contradicted", reported: "off" }, {}, "Commanded on, it reported off."],
    [
      "another value that its trace holds and the wire has left out",
      {
        end: "failed",
        reason: "contradicted",
        reported: null,
        ignored: { answered: true, text: "The board answered, but it reports another value.", tryThis: "Look." },
      },
      {},
      "reports another value",
    ],
  ] as const)("%s", (_about, trial, rest, text) => {
    const judged = judgeChannel(light, evidence(trial, rest));
    expect([judged.state, judged.text]).toEqual(["failed", expect.stringContaining(text)]);
    expect(judged.tryThis?.length).toBeGreaterThan(20);
  });

  it("whose range is the wrong way round is told so", () => {
    const turned = judgeChannel(dimmer, evidence({ to: 30, end: "failed", reason: "contradicted", reported: 70 }));
    expect(turned.tryThis).toMatch(/other way round than its commands: commanded 30 %/);
    const off = judgeChannel(dimmer, evidence({ to: 30, end: "failed", reason: "contradicted", reported: 12 }));
    expect(off.text).toBe("Commanded 30 %, it reports 12 %.");
  });

  it("that can only answer is left to the person", () => {
    const lock = find("Gate lock");
    expect(judgeChannel(lock, evidence({}))).toMatchObject({
      state: "asks",
      text: expect.stringContaining("Did you see it switch?"),
    });
  });
});

describe("advice that was followed", () => {
  const turned = judgeChannel(light, evidence({ to: "on", end: "failed", reason: "contradicted", reported: "off" }));

  it("is not given once more", () => {
    expect(turned.tryThis).toMatch(
      /the other way round than its commands.*“reversed” turns both directions and does not help/,
    );
    expect(withoutRepeating(turned, null)).toEqual(turned);
    expect(withoutRepeating(turned, "Something else.")).toEqual(turned);
    const again = withoutRepeating(turned, turned.tryThis);
    expect(again).toMatchObject({ state: "failed", text: turned.text });
    expect(again.tryThis).toMatch(/^The same as before\. Open the wire beside this step/);
  });

  it("is the same where the channel is reversed already: that turns both directions", () => {
    const reversed = { ...light, reversed: true };
    const judged = judgeChannel(reversed, evidence({ end: "failed", reason: "contradicted", reported: "off" }));
    expect(judged.tryThis).toBe(turned.tryThis);
  });
});

describe("presence and link", () => {
  const here = { topic: "s/d/here", up: null, pattern: null, silent: null, unassigned: [] } as const;
  it.each([
    [{ ...here, up: true }, "passed", null],
    [{ ...here, topic: null }, "skipped", null],
    [{ ...here, up: false }, "failed", "power"],
    [{ ...here, unassigned: ["x/y", "s/D/here"] }, "failed", "s/D/here"],
    [{ ...here, up: true, pattern: "twin" }, "failed", "client id"],
    [{ ...here, up: true, pattern: "reboot-loop" }, "failed", "power supply"],
    [{ ...here, up: true, silent: { name: "Hall light", everyMs: 60_000 } }, "failed", "report timer"],
  ] as const)("%j", (seen, state, hint) => {
    const judged = judgePresence(seen);
    expect(judged.state).toBe(state);
    if (hint) expect(judged.tryThis).toContain(hint);
  });

  it("says why the broker cannot be reached", () => {
    expect(judgeLink(false, "connect ECONNREFUSED").text).toContain("ECONNREFUSED");
    expect(judgeLink(true, null).state).toBe("passed");
  });
});

describe("the nearest topic", () => {
  it.each([
    ["site/Board/is", "site/board/is"],
    ["site/bord/is", "site/board/is"],
    ["other/thing", null],
  ])("%s", (heard, expected) => {
    expect(nearest("site/board/is", [heard])).toBe(expected === null ? null : heard);
  });
});

describe("the steps", () => {
  it("prove each hop before the next, and every channel by what its kind takes", () => {
    const names = stepsOf(snapshot.byDevice.get(light.device.address) ?? []).map(({ name }) => name);
    expect(names.slice(0, 2)).toEqual(["link", "presence"]);
    expect(names.slice(-3)).toEqual(["hand", "power", "safe"]);
    for (const channel of snapshot.channels) {
      const trials = kindOf(channel.kind).trials;
      expect(trials.length).toBeGreaterThan(0);
    }
  });
});
