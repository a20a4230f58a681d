/** What may be asked, and what it becomes: guard and decide. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  type Asker,
  type ChannelId,
  clampLevel,
  decide,
  guard,
  type Intent,
  kindOf,
  type Order,
  RelayError,
  type Situation,
} from "../src/index.ts";
import { snapshot } from "./support/site.ts";

const asker: Asker = { requester: "member", memberId: 1, inlet: "test", name: "Ines", sites: null, keyId: null };
const nothing: Situation = { lockout: null, open: null, known: null, before: null, online: true };
const hold = { id: "x", holder: "Tomas", holderId: 2, reason: "hands in the panel", wholeDevice: false, since: 0 };

function intent(target: string, action: string, more: Partial<Intent> = {}): Intent {
  return { target, action, value: null, forMs: null, until: null, repeatKey: null, ...more };
}

const ask = (target: string, action: string, more: Partial<Intent> = {}) =>
  guard(snapshot, intent(target, action, more), asker);

type Situations = Readonly<Record<number, Partial<Situation>>>;

/** The orders, or the code of the refusal. */
function decided(
  target: string,
  action: string,
  situations: Situations = {},
  more: Partial<Intent> = {},
): Order[] | string {
  const guarded = ask(target, action, more);
  if (guarded.parts === null) return guarded.refusal.code;
  try {
    return decide(snapshot, guarded.parts, guarded.bundle, (id: ChannelId) => ({ ...nothing, ...situations[id] }));
  } catch (error) {
    if (error instanceof RelayError) return error.code;
    throw error;
  }
}

const tos = (orders: Order[] | string) =>
  typeof orders === "string" ? orders : orders.map(({ channel, to, blocked }) => [channel.id, blocked ?? to]);

describe("the guard", () => {
  it("finds one channel, or everything that a group or a scene names", () => {
    expect(ask("gate lock", "on").parts).toMatchObject([{ wish: { to: "on" }, channel: { id: 4 } }]);
    expect(ask("all porches", "off").parts?.map(({ channel }) => channel.id)).toEqual([1, 3]);
    expect(ask("alder-row/evening", "recall").parts?.map(({ wish }) => wish)).toEqual([
      { asks: "to", to: 35 },
      { asks: "to", to: "on" },
    ]);
  });

  it.each([
    ["nothing", "on", {}, "unknown-channel", "not-understood"],
    ["porch lantern", "on", {}, "ambiguous-name", "not-understood"],
    ["gate lock", "open", {}, "unknown-action", "refused"],
    ["gate lock", "toString", {}, "unknown-action", "refused"],
    ["gate lock", "on", { until: "confirmed" }, "beyond-target-stage", "refused"],
    ["hall dimmer", "level", {}, "value-needed", "refused"],
    ["gate lock", "on", { value: 3 }, "value-not-taken", "refused"],
    ["hall dimmer", "brighter", { value: 0 }, "bad-request", "refused"],
    ["gate lock", "off", { forMs: 1_000 }, "time-not-taken", "refused"],
    ["gate", "pulse", { forMs: 1_000 }, "time-not-taken", "refused"],
    ["evening", "on", {}, "unknown-action", "refused"],
    ["wren hall", "brighter", {}, "unknown-action", "refused"],
    ["winch", "open", {}, "cannot-hold", "refused"],
  ] as const)("“%s” %s %j: %s", (target, action, more, code, outcome) => {
    expect(ask(target, action, more)).toMatchObject({ parts: null, refusal: { code }, outcome });
  });

  it("lets nothing last longer than the channel allows", () => {
    const lasts = (target: string, action: string, more: Partial<Intent> = {}) =>
      ask(target, action, more).parts?.map((part) => part.forMs);
    expect(lasts("pump", "on")).toEqual([60_000]);
    expect(lasts("pump", "on", { forMs: 5_000 })).toEqual([5_000]);
    expect(lasts("pump", "on", { forMs: 500_000 })).toEqual([60_000]);
    expect(lasts("skylight", "open")).toEqual([800]);
    expect(lasts("skylight", "stop")).toEqual([null]);
    expect(ask("skylight", "stop").parts?.[0]?.urgent).toBe(true);
  });

  it("takes any number for a level, and gives a whole one within the range", () => {
    fc.assert(
      fc.property(fc.double({ noNaN: true }), (level) => {
        const clamped = clampLevel(kindOf("dimmer"), level);
        expect(Number.isInteger(clamped) && clamped >= 0 && clamped <= 100 && !Object.is(clamped, -0)).toBe(true);
        if (level >= 0 && level <= 100) expect(Math.abs(clamped - level)).toBeLessThanOrEqual(0.5);
      }),
    );
  });
});

describe("relative wishes", () => {
  it.each([
    ["from the newest open setpoint", { open: 40, known: 10 }, "brighter", 50],
    ["else from what the device says", { known: 10 }, "brighter", 20],
    ["never beyond the range", { known: 95 }, "brighter", 100],
    ["never below it", { known: 5 }, "darker", 0],
    ["toggle from lit", { known: 35 }, "toggle", 0],
    ["toggle from an open setpoint", { open: 0, known: 35 }, "toggle", 100],
    ["back to what it was before the last change", { known: 80, before: 20 }, "back", 20],
    ["back to what it still is, while a command is open", { open: 80, known: 20, before: 5 }, "back", 20],
  ] as const)("%s", (_title, situation, action, to) => {
    expect(tos(decided("hall dimmer", action, { 6: situation }))).toEqual([[6, to]]);
  });

  it("are refused where nobody knows what it is", () => {
    for (const action of ["brighter", "toggle", "back"]) {
      expect(decided("hall dimmer", action)).toBe("nothing-to-start-from");
    }
  });

  it("toggle a group as one thing: with anything on, all of it goes off", () => {
    expect(tos(decided("all porches", "toggle", { 1: { known: "off" }, 3: { known: "on" } }))).toEqual([
      [1, "off"],
      [3, "off"],
    ]);
    expect(tos(decided("wren hall", "toggle", { 2: { known: "off" }, 6: { known: 0 } }))).toEqual([
      [2, "on"],
      [6, 100],
    ]);
  });
});

describe("what stands in the way", () => {
  it("is told of a single channel, and dooms one member of a group", () => {
    expect(decided("hall light, wren", "on", { 2: { lockout: hold } })).toBe("locked-out");
    expect(tos(decided("all porches", "on", { 3: { lockout: hold } }))).toEqual([
      [1, "on"],
      [3, "locked-out"],
    ]);
  });

  it("refuses a second pulse while one is open", () => {
    expect(tos(decided("gate", "pulse"))).toEqual([[7, "pulse"]]);
    expect(decided("gate", "pulse", { 7: { open: "pulse" } })).toBe("pulse-open");
  });
});

describe("an interlock", () => {
  it("needs nothing where the partner is seen to be off", () => {
    const orders = decided("vent up", "on", { 9: { known: "off" } });
    expect(tos(orders)).toEqual([[8, "on"]]);
    // 3 s settle, 0.5 s gap, 2 s answer time
    expect(orders).toMatchObject([{ clearWithinMs: 5_500 + 2_000 - 0 }]);
  });

  it.each([
    ["is on", { known: "on" }],
    ["is unknown, which counts as on", {}],
    ["is off but told to go on", { known: "off", open: "on" }],
  ] as const)("switches the partner off first that %s", (_title, partner) => {
    expect(tos(decided("vent up", "on", { 9: partner }))).toEqual([
      [9, "off"],
      [8, "on"],
    ]);
  });

  it("waits for a partner that is told to go off already", () => {
    expect(tos(decided("vent up", "on", { 9: { known: "on", open: "off" } }))).toEqual([[8, "on"]]);
  });

  it("cannot have a partner that is locked out", () => {
    expect(decided("vent up", "on", { 9: { known: "on", lockout: hold } })).toBe("interlocked");
  });

  it("never stands in the way of going off", () => {
    expect(tos(decided("vent up", "off", { 9: { known: "on" } }))).toEqual([[8, "off"]]);
  });
});
