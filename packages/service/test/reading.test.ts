/** Asking a device what it is: a request of its own, that changes nothing and takes no other's place. */
import type { Profile, SiteDescription } from "@bold-relay/core";
import type { RelayBoard } from "@bold-relay/standins";
import { afterAll, beforeAll, beforeEach, describe, expect, it } from "vitest";
import { channelNow, poll, refusal, untilChannel } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

const TIMES = { ackWithinMs: 400, attempts: 2, settleMs: 600, ttlMs: 20_000 } as const;
const TOPICS = {
  do: "{site}/{device}/{channel}/do",
  ask: "{site}/{device}/{channel}/ask",
  done: "{site}/{device}/{channel}/done",
  is: "{site}/{device}/{channel}/is",
  here: "{site}/{device}/here",
};

const asked: Profile = { slug: "asked", name: "Can be asked", codec: "json", topics: TOPICS, delivery: TIMES };

/** One topic in and one out, says by itself only what changed, acknowledges nothing. */
const numbered: Profile = {
  slug: "numbered",
  name: "Numbered outputs, R1? asks",
  codec: { form: "text", do: "R{index}={value}", ask: "R{index}?", is: "R{index}={value}", words: { on: 1, off: 0 } },
  topics: { do: "{site}/{device}/in", ask: "{site}/{device}/in", done: null, is: "{site}/{device}/out", here: null },
  delivery: { ...TIMES, reports: "onChange" },
};

function describeWren(slug: string): SiteDescription {
  const dim = { slug: "dim", name: "Hall dimmer", kind: "dimmer" } as const;
  const air = { slug: "air", name: "Air", kind: "sensor", unit: "°C" } as const;
  const relays = ["one", "two"].map((name) => ({ slug: name, name: `Output ${name}`, kind: "relay" }) as const);
  const porch = { slug: "porch", name: "Porch lantern", kind: "light" } as const;
  const devices = [
    { slug: "wren", name: "board in the hall", profile: "asked", channels: [dim, air] },
    { slug: "shed", name: "board in the shed", profile: "numbered", channels: relays },
    { slug: "porch", name: "old board", profile: "reporting", channels: [porch] },
  ];
  return { slug, name: "Alder Row", rooms: [{ slug: "wren", name: "Wren", devices }] };
}

let world: World;
let board: RelayBoard;
let shed: RelayBoard;

beforeAll(async () => {
  world = await createWorld({ describe: describeWren, profiles: [asked, numbered] });
  const channels = [
    { slug: "dim", kind: "dimmer" as const },
    { slug: "air", kind: "sensor" as const },
  ];
  board = await world.board("wren", { profile: asked, channels });
  shed = await world.board("shed", { profile: numbered, channels: ["one", "two"], onlyChanges: true });
  await seen("wren/dim");
  await seen("shed/two");
});
afterAll(() => world.stop());
beforeEach(() => board.setFault("none"));

const seen = (channel: string) => untilChannel(world.client, world.address(channel), (one) => one.observed !== null);
const ended = (id: string) =>
  poll(
    () => world.client.request(id),
    (request) => request.outcome !== "open",
  );
const hopsOf = async (id: string) => (await world.client.trace(id)).traces[0]?.hops ?? [];

describe("a device that can be asked", () => {
  it("says what it is, and the request ends with that", async () => {
    await world.ask("wren/dim", "level", 20, { value: 40 });
    const request = await world.ask("wren/dim", "read");
    expect(request).toMatchObject({ outcome: "delivered", commands: [{ to: "read", stage: "confirmed" }] });
    const hops = await hopsOf(request.id);
    expect(hops.find(({ kind }) => kind === "sent")?.wire?.topic).toBe(`${world.address("wren/dim")}/ask`);
    expect(hops.find(({ kind }) => kind === "confirmed")?.wire?.payload).toContain('"to":40');
  });

  it("also where nothing can be told", async () => {
    const now = await channelNow(world.client, world.address("wren/air"));
    expect(now?.actions).toEqual(["read"]);
    expect((await world.ask("wren/air", "read")).outcome).toBe("delivered");
  });

  it("what was told and who told it stay as they were", async () => {
    await world.ask("wren/dim", "level", 20, { value: 30 });
    const before = await channelNow(world.client, world.address("wren/dim"));
    await world.ask("wren/dim", "read");
    await world.restart();
    await seen("wren/dim");
    const after = await channelNow(world.client, world.address("wren/dim"));
    expect([after?.commanded, after?.lastCommand?.id, after?.agreement]).toEqual([
      before?.commanded,
      before?.lastCommand?.id,
      "agreed",
    ]);
  });

  it("finds out what changed unheard", async () => {
    await world.ask("wren/dim", "level", 20, { value: 30 });
    const listener = await world.listener();
    await listener.publishAsync(`${world.address("wren/dim")}/is`, '{"to":70}', { qos: 1 });
    await untilChannel(world.client, world.address("wren/dim"), (one) => one.observed?.value === 70);
    await world.ask("wren/dim", "read");
    const now = await channelNow(world.client, world.address("wren/dim"));
    expect([now?.observed?.value, now?.agreement]).toEqual([30, "agreed"]);
  });
});

describe("without an answer", () => {
  it("claims nothing, and never speaks of switching", async () => {
    await board.setFault("silent");
    const request = await world.ask("wren/dim", "read");
    expect(request).toMatchObject({ outcome: "not-delivered", commands: [{ end: "unanswered", reason: "no-report" }] });
    expect(request.commands[0]?.verdict.headline).toBe("No answer.");
    expect(request.commands[0]?.attempts).toBe(2);
  });

  it("takes no setpoint's place, and none takes its", async () => {
    await board.setFault("silent");
    const reading = await world.client.ask({ target: world.address("wren/dim"), action: "read" });
    const setting = await world.ask("wren/dim", "level", 20, { value: 55 });
    const ends = [await ended(reading.id), setting].map(({ commands: [one] }) => [one?.end, one?.attempts]);
    expect(ends).toEqual([
      ["unanswered", 2],
      ["unanswered", 2],
    ]);
  });

  it("goes on after a restart, until the device speaks", async () => {
    await board.setFault("silent");
    const open = await world.client.ask({ target: world.address("wren/dim"), action: "read" });
    await world.restart();
    await board.setFault("none");
    expect((await ended(open.id)).commands[0]).toMatchObject({ to: "read" });
    expect((await hopsOf(open.id)).map(({ kind }) => kind)).toContain("recovered");
  });
});

describe("a device that cannot be asked", () => {
  it("refuses, and says what it would need", async () => {
    expect(await refusal(world.ask("porch/porch", "read"))).toBe("cannot-read");
    const now = await channelNow(world.client, world.address("porch/porch"));
    expect(now?.actions).not.toContain("read");
  });
});

describe("one that acknowledges nothing and reports only changes", () => {
  it("asked for what it is already, it is read back: that proves it", async () => {
    expect((await world.ask("shed/one", "on")).outcome).toBe("delivered");
    const again = await world.ask("shed/one", "on");
    expect(again).toMatchObject({ outcome: "delivered", commands: [{ stage: "confirmed", attempts: 1 }] });
    expect((await hopsOf(again.id)).find(({ kind }) => kind === "sent")).toMatchObject({ asked: true });
    expect(shed.state.contacts).toMatchObject({ one: "on", two: "off" });
  });

  it("a changed setpoint needs no question", async () => {
    const other = await world.ask("shed/two", "on");
    expect((await hopsOf(other.id)).find(({ kind }) => kind === "sent")?.asked).toBeUndefined();
  });
});
