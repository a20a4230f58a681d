/** What needs alerts: one alert for each root cause, gone when it is cured. */
import { describe, expect, it } from "vitest";
import {
  ALERT_KINDS,
  type AlertInput,
  alertsOf,
  type ChannelInput,
  DAY_MS,
  databaseAlert,
  type InletInput,
} from "../src/index.ts";
import { phraseSnapshot } from "./support/phrases.ts";

const NOW = 10_000_000;

function input(address: string, more: Partial<ChannelInput> = {}): ChannelInput {
  const channel = phraseSnapshot.byAddress.get(`alder-row/${address}`);
  if (!channel) throw new Error(address);
  const well = {
    online: { up: true, since: 0 },
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

const inlet: InletInput = {
  slug: "chat",
  name: "Chat",
  site: "alder-row",
  paused: false,
  up: null,
  trouble: null,
  notUnderstood: [],
  lastAt: NOW,
  quietAfterMs: null,
  isOpenToAnyone: false,
  caughtTwice: null,
  circledAt: null,
  floodedAt: null,
};

const told = (more: Partial<AlertInput>) =>
  alertsOf({ now: NOW, channels: [], inlets: [], keys: [], instances: [], guesses: [], ...more }).map(
    ({ kind, subject, title }) => `${kind} ${subject}: ${title}`,
  );

describe("alerts", () => {
  it("are none while all is well", () => {
    expect(told({ channels: [input("wren/porch"), input("wren/hall")], inlets: [inlet] })).toEqual([]);
  });

  it("name a device that is gone, and not what follows from it", () => {
    const gone = { online: { up: false, since: NOW - 60_000 } };
    const channels = [
      input("wren/porch", { ...gone, last: stopped("a", 1) }),
      input("wren/hall", { ...gone, agreement: "drift" }),
    ];
    expect(told({ channels })).toEqual(["device-gone alder-row/wren: The board in Wren is offline"]);
    const flapping = channels.map((one) => ({ ...one, online: { up: false, since: NOW - 1_000 } }));
    expect(told({ channels: flapping })).toHaveLength(2);
  });

  it("say that somebody guesses, at accounts, names, PINs and keys", () => {
    const guess = { addresses: 1, firstAt: NOW - 5, lastAt: NOW, signedIn: false };
    const robin = { ...guess, guessed: "account", of: "Robin" } as const;
    const guesses = [
      robin,
      { ...guess, guessed: "account", of: null },
      { ...guess, guessed: "pin", of: "chat" },
      { ...guess, guessed: "key", of: "chat" },
      { ...guess, guessed: "key", of: "no-inlet" },
    ] as const;
    expect(told({ guesses, inlets: [inlet] })).toEqual([
      "secret-guessed account Robin: Somebody guesses the password of Robin",
      "secret-guessed names: Somebody guesses names of accounts",
      "secret-guessed pin chat: Somebody guesses the PIN of Chat",
      "secret-guessed key chat: Somebody guesses a key of Chat",
    ]);
    const many = ["Robin", "Ines", "Tova"].map((of) => ({ ...robin, of }));
    expect(told({ guesses: many })).toEqual(["secret-guessed accounts: Somebody guesses passwords of 3 accounts"]);
  });

  it("join channels of one device that stop for the same reason", () => {
    const channels = [
      input("wren/porch", { last: stopped("a", 1) }),
      input("wren/hall", { last: stopped("b", 2) }),
      input("wren/towel", { last: stopped("c", 3, "device-refused") }),
      input("finch/porch", { last: stopped("d", 4) }),
    ];
    expect(told({ channels })).toEqual([
      "failing alder-row/wren: no-acknowledgement: Commands to Hall light, Wren and Porch lantern, Wren fail",
      "failing alder-row/wren/towel: Commands to Towel rail, Wren fail",
      "failing alder-row/finch/porch: Commands to Porch lantern, Finch fail",
    ]);
  });

  it("leave out what somebody has locked out, and what drifts because it fails", () => {
    const channels = [
      input("wren/porch", { last: stopped("a", 1), lockedOut: true }),
      input("wren/hall", { last: stopped("b", 2), agreement: "drift" }),
      input("wren/towel", { agreement: "drift", is: "on", told: "off" }),
    ];
    expect(told({ channels }).map((line) => line.split(" ")[0])).toEqual(["failing", "drifting"]);
  });

  it("are marked anew when it happens anew, so that a closed one comes back", () => {
    const marks = ["a", "b"].map((id) => {
      const channels = [input("wren/porch", { last: stopped(id, 1) })];
      return alertsOf({ now: NOW, channels, inlets: [], keys: [], instances: [], guesses: [] })[0]?.mark;
    });
    expect(marks).toEqual(["a", "b"]);
  });

  it("tell of inlets that are down, not understood, or quiet; never of paused ones", () => {
    const bad: InletInput = {
      ...inlet,
      up: false,
      trouble: "Port 1 is taken",
      notUnderstood: [1, 2, 3],
      lastAt: 0,
      quietAfterMs: 1,
    };
    expect(told({ inlets: [bad] }).map((line) => line.split(" ")[0])).toEqual([
      "inlet-down",
      "inlet-not-understood",
      "inlet-quiet",
    ]);
    expect(told({ inlets: [{ ...bad, paused: true }] })).toEqual([]);
    expect(told({ inlets: [{ ...inlet, notUnderstood: [1, 2] }] })).toEqual([]);
  });

  it("tell of inlets that are open to anyone, or act on the messages of another", () => {
    const caughtTwice = "Route 1 of knobs acts on buttons/+.";
    const lines = told({ inlets: [{ ...inlet, isOpenToAnyone: true, caughtTwice }] });
    expect(lines.map((line) => line.split(" ")[0])).toEqual(["inlet-caught-twice", "inlet-open-to-anyone"]);
  });

  it.each([
    [NOW + 1, "expires today"],
    [NOW + DAY_MS + 1, "expires tomorrow"],
    [NOW + 5 * DAY_MS + 1, "expires in 5 days"],
    [NOW + 15 * DAY_MS, null],
    [null, null],
  ])("tell of a key that expires at %s: %s", (expiresAt, words) => {
    const lines = told({ keys: [{ id: 7, name: "tablet", holder: "chat", expiresAt, site: null }] });
    expect(lines).toEqual(words === null ? [] : [`key-expiring 7: The key “tablet” of chat ${words}`]);
  });

  it("no more for a key that a newer one of its name replaces: its overlap was chosen", () => {
    const old = { id: 7, name: "tablet", holder: "chat", expiresAt: NOW + 3_600_000, site: null };
    const newer = { ...old, id: 9, expiresAt: NOW + 90 * 86_400_000 };
    expect(told({ keys: [old, newer] })).toEqual([]);
    expect(told({ keys: [old, { ...newer, name: "other" }] })).toHaveLength(1);
    expect(told({ keys: [old, { ...newer, holder: "phone" }] })).toHaveLength(1);
    // A newer one that ends sooner replaces nothing.
    expect(told({ keys: [old, { ...newer, expiresAt: NOW + 60_000 }] })).toHaveLength(2);
  });

  it("tell of command topics that are not ours alone, whatever else there is", () => {
    const concerns = [{ kind: "retained-command", text: "A retained message lies there.", since: 3 }];
    const gone = { up: false, since: 0 };
    expect(
      told({ channels: [input("wren/porch", { concerns, online: gone })] }).map((line) => line.split(" ")[0]),
    ).toEqual(["device-gone", "command-topic"]);
  });

  it("tell of a device that comes and goes, whether it is there just now or not, and once only", () => {
    const channels = [input("wren/porch", { pattern: "reboot-loop" }), input("wren/hall", { pattern: "reboot-loop" })];
    expect(told({ channels })).toEqual([
      "device-unsteady alder-row/wren: The board in Wren goes offline again and again",
    ]);
    const marks = [NOW - 5_000, NOW].map(
      (since) =>
        alertsOf({
          now: NOW,
          inlets: [],
          keys: [],
          instances: [],
          guesses: [],
          channels: channels.map((one) => ({ ...one, online: { up: since < NOW, since } })),
        })[0]?.mark,
    );
    expect(marks[0]).toBe(marks[1]);
  });

  it("tell that a lamp is measured otherwise than its device says, once neither is still settling", () => {
    const claim = (since: number) => [
      input("wren/porch", { is: "off", claimed: { text: "on", since }, observedAt: NOW - 3_600_000 }),
    ];
    expect(told({ channels: claim(NOW - 100) })).toEqual([]);
    expect(told({ channels: claim(NOW - 60_000) })).toEqual([
      "measured-otherwise alder-row/wren/porch: Porch lantern, Wren: the device says on, and it is measured off",
    ]);
  });

  it("tell of a skylight that stands between its ends for longer than it takes, not of one that is old news", () => {
    const skylight = input("finch/skylight");
    const seenBy = { open: "roof/open", shut: "roof/shut", movesWithinMs: 20_000 } as never;
    const between = (observedAt: number, stale: "offline" | null = null): ChannelInput => ({
      ...skylight,
      channel: { ...skylight.channel, seenBy },
      observed: "between",
      observedAt,
      age: { stale, asOf: observedAt },
    });
    expect(told({ channels: [between(NOW - 19_000)] })).toEqual([]);
    expect(told({ channels: [between(NOW - 21_000, "offline")] })).toEqual([]);
    expect(told({ channels: [between(NOW - 21_000)] })).toEqual([
      "stuck-between alder-row/finch/skylight: Skylight, Finch took too long and is between open and shut",
    ]);
  });

  it("tell of a device that is online and has stopped reporting, once for all its channels", () => {
    const silent = { age: { stale: "silent", asOf: NOW - 200_000 } } as const;
    const channels = [input("wren/porch", silent), input("wren/hall", silent)];
    expect(told({ channels })).toEqual(["reports-stopped alder-row/wren: The board in Wren has stopped reporting"]);
    const gone = channels.map((one) => ({ ...one, online: { up: false, since: NOW - 60_000 } }));
    expect(told({ channels: gone })).toEqual(["device-gone alder-row/wren: The board in Wren is offline"]);
  });

  it("tell that both end contacts are made, which is no state of a skylight", () => {
    const concerns = [{ kind: "ends-contradict", text: "Both are made.", since: NOW }];
    expect(told({ channels: [input("finch/skylight", { concerns })] })).toEqual([
      "command-topic alder-row/finch/skylight: ends-contradict: Skylight, Finch: both end contacts are made",
    ]);
  });

  it("put the database before everything else", () => {
    const alert = databaseAlert("The disk of the database is full.", NOW);
    expect([alert.kind, ALERT_KINDS[0], alert.site]).toEqual(["database-unavailable", "database-unavailable", null]);
    expect(alert.text).toMatch(/^The disk of the database is full\. New requests are answered with 503\./);
  });

  it("name an instance that did not stop in order, for a day", () => {
    const one = (name: string, seenMs: number) => ({ name, seenMs, startedAt: 5 });
    const instances = [one("north", 500), one("east", 60_000), one("south", DAY_MS + 1)];
    expect(told({ instances })).toEqual(["instance-missing east: The instance east is missing"]);
    const [alert] = alertsOf({ now: NOW, channels: [], inlets: [], keys: [], instances, guesses: [] });
    expect(alert?.text).toContain("One instance is left");
    expect(alert?.since).toBe(NOW - 60_000);
    expect(told({ instances: instances.slice(0, 1) })).toEqual([]);
  });
});
