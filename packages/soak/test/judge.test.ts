/** The judge finds each kind of violation, planted alone in a history that is otherwise clean. */
import { describe, expect, it } from "vitest";
import { type History, judge } from "../src/judge.ts";

const NORTH = "soak/north";
const on = { stage: "confirmed", ended: "delivered", reason: null, confirmedAt: 1_000, sentAt: 900, to: "on" } as const;
const claim = (id: string, request: string, channel: string, more: object = {}) => ({
  ...on,
  ...{ id, request, channel: `${NORTH}/${channel}`, proof: `{"to":"on","id":"${id}"}` },
  ...more,
});
const written = (channel: string, times = 1) => ({ channel: `${NORTH}/${channel}`, times });

/** Two lamps in one request, a pulse, a pump that went off by itself, a timed hall, and a refusal. */
function clean() {
  return {
    account: {
      commands: [
        claim("c1", "r1", "porch"),
        claim("c2", "r1", "hall"),
        claim("c3", "r2", "gate", { stage: "acknowledged", confirmedAt: null, proof: null }),
        claim("c4", "r3", "pump"),
        claim("c5", "deadline", "pump", { to: "off" }),
        claim("c6", "r4", "timed"),
        claim("c7", "r4-end", "timed", { to: "off" }),
        claim("c8", "r5", "porch", { ended: "replaced", stage: "accepted", confirmedAt: null, proof: null }),
      ],
      open: [] as { id: string; request: string }[],
      outcomes: new Map<string, string | null>([["refused-1", "refused"]]),
    },
    answered: {
      accepted: new Map([
        ["r1", 2],
        ["r2", 1],
        ["r3", 1],
        ["r4", 1],
        ["r5", 1],
      ]),
      timed: new Set(["r4"]),
      refused: new Map([["refused-1", "unknown-action"]]),
      again: {},
      asked: 6,
    },
    seen: {
      switched: new Set(["c1", "c2", "c3", "c4", "c5", "c6", "c7"]),
      refused: new Set<string>(),
      written: new Map([
        ["c1", written("porch")],
        ["c2", written("hall", 2)],
        ["c3", written("gate")],
        ["c4", written("pump")],
        ["c5", written("pump")],
        ["c6", written("timed")],
        ["c7", written("timed")],
      ]),
      lastWritten: new Map([
        [`${NORTH}/pump`, "c5"],
        [`${NORTH}/timed`, "c7"],
      ]),
      heard: new Map(["c1", "c2", "c3", "c4", "c5", "c6", "c7"].map((id) => [id, 1])),
      reports: new Map<string, { at: number; to: string }[]>(),
      foreign: [] as string[],
    },
    boards: new Map<string, unknown>([
      [`${NORTH}/porch`, "on"],
      [`${NORTH}/pump`, "off"],
      [`${NORTH}/timed`, "off"],
    ]),
    shown: new Map<string, unknown>([
      [`${NORTH}/porch`, "on"],
      [`${NORTH}/pump`, "off"],
      [`${NORTH}/timed`, "off"],
    ]),
    unlawful: [] as string[],
    pulses: new Set([`${NORTH}/gate`]),
    autoOff: new Set([`${NORTH}/pump`]),
  } satisfies History;
}

type Fake = ReturnType<typeof clean>;

const without = (commands: Fake["account"]["commands"], id: string) => commands.filter((one) => one.id !== id);

/** What is done to the clean history, and which zero must show it. */
const VIOLATIONS: readonly (readonly [what: string, zero: string, plant: (fake: Fake) => void])[] = [
  ["an accepted request that is nowhere", "accepted requests lost", (fake) => fake.answered.accepted.set("r9", 1)],
  [
    "one command of two is missing, while another request is open",
    "accepted requests lost",
    ({ account, seen, answered }) => {
      account.commands = without(account.commands, "c2");
      for (const ids of [seen.written, seen.switched, seen.heard]) ids.delete("c2");
      answered.accepted.set("r6", 1);
      account.open.push({ id: "c9", request: "r6" });
    },
  ],
  [
    "a command was made twice for one request",
    "accepted requests lost",
    ({ account }) => account.commands.push(claim("c1b", "r1", "porch", { ended: "replaced", stage: "accepted" })),
  ],
  [
    "a command has no end",
    "accepted commands without an end",
    ({ account, answered }) => {
      answered.accepted.set("r6", 1);
      account.open.push({ id: "c9", request: "r6" });
    },
  ],
  [
    "a command was on the wire, and its row is gone from both tables",
    "accepted commands without an end",
    ({ account }) => {
      account.commands = without(account.commands, "c5");
    },
  ],
  [
    "a pulse was written twice",
    "sent twice where once was promised",
    ({ seen }) => seen.written.set("c3", written("gate", 2)),
  ],
  [
    "a board heard one pulse twice, whatever the witness saw",
    "sent twice where once was promised",
    ({ seen }) => seen.heard.set("c3", 2),
  ],
  ["confirmed, and no board has switched", "wrong claims", ({ seen }) => seen.switched.delete("c1")],
  [
    "confirmed by a report that no board made",
    "wrong claims",
    ({ account, seen }) => {
      account.commands = [...without(account.commands, "c1"), claim("c1", "r1", "porch", { proof: '{"to":"on"}' })];
      seen.switched.delete("c1");
      seen.reports.set(`${NORTH}/porch`, [{ at: 1_100, to: "off" }]);
    },
  ],
  [
    "superseded before it was written, and it was seen on the wire",
    "wrong claims",
    ({ seen }) => seen.written.set("c8", written("porch")),
  ],
  [
    "the device said no, and no board has refused",
    "wrong claims",
    ({ account }) => {
      account.commands = [
        ...without(account.commands, "c3"),
        claim("c3", "r2", "gate", { stage: "published", ended: "failed", reason: "device-refused" }),
      ];
    },
  ],
  [
    "nobody listens, and a board has switched",
    "wrong claims",
    ({ account }) => {
      account.commands = [
        ...without(account.commands, "c3"),
        claim("c3", "r2", "gate", { stage: "published", ended: "failed", reason: "nobody-listens" }),
      ];
    },
  ],
  [
    "a refusal that is not on record",
    "refusals that are not in the journal",
    ({ account }) => account.outcomes.delete("refused-1"),
  ],
  [
    "a pump stays on, and no row says that it should not",
    "deadlines that were not carried out",
    ({ account, seen, boards, shown }) => {
      account.commands = without(account.commands, "c5");
      for (const ids of [seen.written, seen.switched, seen.heard]) ids.delete("c5");
      seen.lastWritten.set(`${NORTH}/pump`, "c4");
      boards.set(`${NORTH}/pump`, "on");
      shown.set(`${NORTH}/pump`, "on");
    },
  ],
  [
    "what was asked for a time only stays on",
    "deadlines that were not carried out",
    ({ account, seen, boards, shown }) => {
      account.commands = without(account.commands, "c7");
      for (const ids of [seen.written, seen.switched, seen.heard]) ids.delete("c7");
      seen.lastWritten.set(`${NORTH}/timed`, "c6");
      boards.set(`${NORTH}/timed`, "on");
      shown.set(`${NORTH}/timed`, "on");
    },
  ],
  [
    "a channel is shown otherwise than its board is",
    "channels shown otherwise than they are",
    ({ shown }) => shown.set(`${NORTH}/porch`, "off"),
  ],
  [
    "a channel that nobody shows at all",
    "channels shown otherwise than they are",
    ({ shown }) => shown.delete(`${NORTH}/porch`),
  ],
  [
    "a hostile caller got through",
    "things done without the right",
    ({ unlawful }) => unlawful.push("switched next door"),
  ],
  [
    "a hostile device user was heard on a command topic",
    "things done without the right",
    ({ seen }) => seen.foreign.push(`${NORTH}/porch/do`),
  ],
];

const found = (fake: Fake) => judge(fake).flatMap(([name, all]) => (all.length === 0 ? [] : name));

describe("the judge of a soak", () => {
  it("finds nothing in a clean history", () => {
    expect(found(clean())).toEqual([]);
  });

  it.each(VIOLATIONS)("finds it when %s", (_what, zero, plant) => {
    const fake = clean();
    plant(fake);
    expect(found(fake)).toContain(zero);
  });

  it("finds every zero by some of these", () => {
    const names = judge(clean()).map(([name]) => name);
    expect(new Set(VIOLATIONS.map(([, zero]) => zero))).toEqual(new Set(names));
  });

  it("takes a proof without an id where the board was so at the time", () => {
    const fake = clean();
    fake.account.commands = [
      ...without(fake.account.commands, "c1"),
      claim("c1", "r1", "porch", { proof: '{"to":"on"}' }),
    ];
    fake.seen.switched.delete("c1");
    fake.seen.reports.set(`${NORTH}/porch`, [{ at: 1_100, to: "on" }]);
    expect(found(fake)).toEqual([]);
  });
});
