/** A made-up kind of channel is found everywhere from its one file and its line in the index. */
import { describe, expect, it } from "vitest";
import { channelKinds, kindNames } from "../src/channel/index.ts";
import type {
  ChannelEntry,
  ChannelId,
  ChannelRecord,
  KindName,
  KnownState,
  Profile,
  SiteDescription,
} from "../src/index.ts";
import { sprinkler } from "./support/sprinkler.ts";

// Its line in the index, before anything is derived from that.
Object.assign(channelKinds, { sprinkler });
kindNames.push("sprinkler" as KindName);
const core = await import("../src/index.ts");

const garden = { id: 1, slug: "garden", name: "Garden board" };
const topics = {
  do: "{site}/{device}/{channel}/do",
  done: "{site}/{device}/{channel}/done",
  is: "{site}/{device}/{channel}/is",
  here: null,
};
const profile: Profile = { slug: "json-board", name: "JSON board", codec: "json", topics, delivery: {} };
const record = (id: number, slug: string, name: string, kind: string): ChannelRecord => ({
  ...{ id: id as ChannelId, number: id, slug, name, kind: kind as KindName, delivery: {}, wiring: {}, profile },
  ...{ site: { slug: "alder-row", name: "Alder Row" }, room: { slug: "wren", name: "Wren" }, device: garden },
});
const snapshot = core.buildSnapshot([
  record(1, "lawn", "Lawn", "sprinkler"),
  record(2, "beds", "Flower beds", "sprinkler"),
  record(3, "porch", "Porch lantern", "light"),
]);
const lawn = snapshot.channels[0] as ChannelEntry;
const vocabulary = core.buildVocabulary(snapshot, null);

describe("a made-up kind of channel", () => {
  it("is commanded by its actions, and refuses others with those that it has", () => {
    expect(core.actionsOf(lawn)).toEqual(["water", "drizzle", "off", "level"]);
    const intent = { target: lawn.address, value: null, forMs: null, until: null, repeatKey: null };
    const asker = { requester: "member", memberId: 1, inlet: "board", name: "Ines", sites: null, keyId: null } as const;
    const ask = (action: string) => core.guard(snapshot, { ...intent, action }, asker);
    expect(ask("drizzle").parts?.[0]?.wish).toMatchObject({ to: 20 });
    expect(ask("toggle").refusal?.message).toMatch(/sprinkler.*water, drizzle, off or level/);
  });

  it.each([
    ["drizzle the lawn", "drizzle", 1],
    ["sprinkle the flower beds", "drizzle", 1],
    ["all sprinklers in wren off", "off", 2],
    ["lawn at 40 %", "level", 1],
  ])("is understood: %s", (phrase, action, channels) => {
    const reading = core.readPhrase(phrase, vocabulary);
    expect(reading).toMatchObject({ reads: "asks", asks: [{ action }] });
    const [ask] = reading.reads === "asks" ? reading.asks : [];
    expect(ask?.among?.length ?? 1).toBe(channels);
  });

  it("has its steps in commissioning, and words for its state", () => {
    const step = core.stepsOf([lawn]).find(({ name }) => name === "channel lawn");
    expect(step?.invites).toContain("drizzle, then off");
    expect([core.channelWords(lawn, 20), core.channelWords(lawn, 0)]).toEqual(["watering at 20 %", "dry"]);
  });

  it("is answered for: is it on?", () => {
    const state: KnownState = { channel: lawn, value: 20, age: { stale: null, asOf: 1 }, lastTaken: 20 };
    expect(core.answerOf(state, "on", 2)).toEqual({ yes: true, text: "watering at 20 %" });
  });

  it("may be written in a site, a list of devices and the interface", async () => {
    const { siteSchema } = await import("../../api/src/schema/index.ts");
    const channels = [{ slug: "lawn", name: "Lawn", kind: "sprinkler" }];
    const devices = [{ slug: "garden", name: "Garden board", profile: "json-board", channels }];
    const site = { slug: "alder-row", name: "Alder Row", rooms: [{ slug: "wren", name: "Wren", devices }] };
    expect(siteSchema.validate(site).error).toBeUndefined();
    const rows = core.deviceRows(site as SiteDescription);
    expect(rows.map(({ kind }) => kind)).toEqual(["sprinkler"]);
    expect(core.withDeviceRows({ ...site, rooms: [] } as SiteDescription, rows).rooms).toMatchObject(site.rooms);
  });

  it("has its keys on the Board", async () => {
    const { channelKeys } = await import("../../console/src/pages/board/channel-keys.ts");
    const view = { kind: "sprinkler", actions: [], observed: null, lastCommand: null, holdForMs: null };
    expect(channelKeys(view as never, null).map(({ label }) => label)).toEqual(["Off", "Drizzle", "Water"]);
  });
});
