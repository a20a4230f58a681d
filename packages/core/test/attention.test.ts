/** What needs attention: one matter for each root cause, gone when it is cured. */
import { describe, expect, it } from "vitest";
import { type AttentionSight, type ChannelSight, type InletSight, mattersOf } from "../src/index.ts";
import { phraseSnapshot } from "./support/phrases.ts";

const NOW = 10_000_000;
const DAY = 86_400_000;

function sight(address: string, more: Partial<ChannelSight> = {}): ChannelSight {
  const channel = phraseSnapshot.byAddress.get(`alder-row/${address}`);
  if (!channel) throw new Error(address);
  const well = {
    present: { up: true, since: 0 },
    agreement: "agreed",
    is: "on",
    told: "on",
    observed: "on",
    observedAt: 5,
    lockedOut: false,
    pattern: null,
    age: { stale: null, asOf: 5 },
    claimed: null,
  } as const;
  return { channel, ...well, last: null, concerns: [], ...more };
}

const stopped = (id: string, at: number, reason: "no-acknowledgement" | "device-refused" = "no-acknowledgement") =>
  ({ id, end: "unanswered", reason, at, headline: "Stopped.", text: "At the device." }) as const;

const inlet: InletSight = {
  slug: "chat",
  name: "Chat",
  site: "alder-row",
  paused: false,
  up: null,
  trouble: null,
  unmatched: [],
  lastAt: NOW,
  quietAfterMs: null,
  circledAt: null,
  floodedAt: null,
};

const told = (more: Partial<AttentionSight>) =>
  mattersOf({ now: NOW, channels: [], inlets: [], keys: [], ...more }).map(
    ({ kind, subject, title }) => `${kind} ${subject}: ${title}`,
  );

describe("matters", () => {
  it("are none while all is well", () => {
    expect(told({ channels: [sight("wren/porch"), sight("wren/hall")], inlets: [inlet] })).toEqual([]);
  });

  it("name a device that is gone, and not what follows from it", () => {
    const gone = { present: { up: false, since: NOW - 60_000 } };
    const channels = [
      sight("wren/porch", { ...gone, last: stopped("a", 1) }),
      sight("wren/hall", { ...gone, agreement: "drift" }),
    ];
    expect(told({ channels })).toEqual(["device-gone alder-row/wren: The board in Wren is gone"]);
    const flapping = channels.map((one) => ({ ...one, present: { up: false, since: NOW - 1_000 } }));
    expect(told({ channels: flapping })).toHaveLength(2);
  });

  it("join channels of one device that stop for the same reason", () => {
    const channels = [
      sight("wren/porch", { last: stopped("a", 1) }),
      sight("wren/hall", { last: stopped("b", 2) }),
      sight("wren/towel", { last: stopped("c", 3, "device-refused") }),
      sight("finch/porch", { last: stopped("d", 4) }),
    ];
    expect(told({ channels })).toEqual([
      "failing alder-row/wren: no-acknowledgement: Hall light, Wren and Porch lantern, Wren do not get there",
      "failing alder-row/wren/towel: Towel rail, Wren does not get there",
      "failing alder-row/finch/porch: Porch lantern, Finch does not get there",
    ]);
  });

  it("leave out what somebody has locked out, and what drifts because it fails", () => {
    const channels = [
      sight("wren/porch", { last: stopped("a", 1), lockedOut: true }),
      sight("wren/hall", { last: stopped("b", 2), agreement: "drift" }),
      sight("wren/towel", { agreement: "drift", is: "on", told: "off" }),
    ];
    expect(told({ channels }).map((line) => line.split(" ")[0])).toEqual(["failing", "drifting"]);
  });

  it("are marked anew when it happens anew, so that a closed one comes back", () => {
    const marks = ["a", "b"].map((id) => {
      const channels = [sight("wren/porch", { last: stopped(id, 1) })];
      return mattersOf({ now: NOW, channels, inlets: [], keys: [] })[0]?.mark;
    });
    expect(marks).toEqual(["a", "b"]);
  });

  it("tell of inlets that are down, not understood, or quiet; never of paused ones", () => {
    const bad: InletSight = {
      ...inlet,
      up: false,
      trouble: "Port 1 is taken",
      unmatched: [1, 2, 3],
      lastAt: 0,
      quietAfterMs: 1,
    };
    expect(told({ inlets: [bad] }).map((line) => line.split(" ")[0])).toEqual([
      "inlet-down",
      "inlet-unmatched",
      "inlet-quiet",
    ]);
    expect(told({ inlets: [{ ...bad, paused: true }] })).toEqual([]);
    expect(told({ inlets: [{ ...inlet, unmatched: [1, 2] }] })).toEqual([]);
  });

  it.each([
    [NOW + 1, "expires today"],
    [NOW + DAY + 1, "expires tomorrow"],
    [NOW + 5 * DAY + 1, "expires in 5 days"],
    [NOW + 15 * DAY, null],
    [null, null],
  ])("tell of a key that expires at %s: %s", (expiresAt, words) => {
    const lines = told({ keys: [{ id: 7, name: "tablet", holder: "chat", expiresAt, site: null }] });
    expect(lines).toEqual(words === null ? [] : [`key-expiring 7: The key “tablet” of chat ${words}`]);
  });

  it("tell of command topics that are not ours alone, whatever else there is", () => {
    const concerns = [{ kind: "retained-command", text: "A retained message lies there.", since: 3 }];
    const gone = { up: false, since: 0 };
    expect(
      told({ channels: [sight("wren/porch", { concerns, present: gone })] }).map((line) => line.split(" ")[0]),
    ).toEqual(["device-gone", "command-topic"]);
  });
});
