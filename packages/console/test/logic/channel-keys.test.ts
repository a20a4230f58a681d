/** The keys of a row on the Board: what is lit, what is asked, what is held. */
import type { ChannelView } from "@bold-relay/api";
import { type KindName, kindNames } from "@bold-relay/core";
import { describe, expect, it } from "vitest";
import { channelKeys, readKeys } from "../../src/pages/board/channel-keys.ts";

const row = (kind: KindName, more: object = {}): ChannelView =>
  ({ kind, actions: [], observed: null, lastCommand: null, holdForMs: null, ...more }) as unknown as ChannelView;
const seen = (value: unknown, stale: string | null = null) => ({ observed: { value, stale } });
const letters = (kind: KindName) => channelKeys(row(kind), null).map(({ label }) => label);

describe("the keys of a channel", () => {
  it("are those of its kind, from left to right", () => {
    expect(Object.fromEntries(kindNames.map((kind) => [kind, letters(kind).join(" ")]))).toEqual({
      relay: "Off On",
      light: "Off On",
      dimmer: "Off − + On",
      colour: "Off White",
      lamps: "Off White",
      pulse: "Pulse",
      motor: "Close Stop Open",
      position: "Close Stop Open",
      setpoint: "− +",
      contact: "",
      sensor: "",
    });
  });

  it("show what the channel is known to be now, and nothing that is old", () => {
    const lit = (channel: ChannelView) => channelKeys(channel, null).filter(({ is }) => is === true);
    expect(lit(row("light", seen("on"))).map(({ label }) => label)).toEqual(["On"]);
    expect(lit(row("position", seen(0))).map(({ label }) => label)).toEqual(["Close"]);
    expect(lit(row("light", seen("on", "offline")))).toEqual([]);
    expect(lit(row("light"))).toEqual([]);
  });

  it("show what is asked: just pressed, or open at the service", () => {
    const asked = (channel: ChannelView, pressed: { action: string } | null) =>
      channelKeys(channel, pressed).flatMap((key) => (key.asked ? key.label : []));
    const open = { lastCommand: { end: null, to: "on" } };
    expect(asked(row("relay", open), null)).toEqual(["On"]);
    expect(asked(row("relay", { lastCommand: { end: "delivered", to: "on" } }), null)).toEqual([]);
    // What the hand has just pressed counts more than what was open before.
    expect(asked(row("relay", open), { action: "off" })).toEqual(["Off"]);
    expect(asked(row("dimmer"), { action: "brighter" })).toEqual(["+"]);
  });

  it("are held where the channel runs by holding, and released with what ends it", () => {
    const held = (kind: KindName) =>
      channelKeys(row(kind, { holdForMs: 3_000 }), null).flatMap(({ label, hold }) =>
        hold ? [[label, hold.end.action, hold.renewMs]] : [],
      );
    expect(held("motor")).toEqual([
      ["Close", "stop", 1_000],
      ["Open", "stop", 1_000],
    ]);
    expect(held("relay")).toEqual([["On", "off", 1_000]]);
    expect(channelKeys(row("motor"), null).some(({ hold }) => hold)).toBe(false);
  });

  it("say in words what a sign stands for", () => {
    expect(channelKeys(row("dimmer"), null).flatMap(({ spoken }) => spoken ?? [])).toEqual(["Darker", "Brighter"]);
  });

  it("have one more where the device can be asked what it is", () => {
    expect(readKeys(row("relay"), null)).toEqual([]);
    expect(readKeys(row("relay", { actions: ["on", "read"] }), null).map(({ label }) => label)).toEqual(["Read"]);
  });
});
