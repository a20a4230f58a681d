/** The wire: what is really on the broker, each message with what it belongs to, and publishing by hand. */
import { chmodSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import type { WireEvent, WireMessageView } from "@bold-relay/api";
import { accessLines } from "@bold-relay/core";
import { findPrograms, freePort, startBroker } from "@bold-relay/rig";
import { connectAsync } from "mqtt";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { channelNow, poll, refusal } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld();
  await world.board("wren");
});
afterAll(() => world.stop());

interface Watch {
  readonly events: WireEvent[];
  messages(): WireMessageView[];
  until(isSo: (message: WireMessageView) => boolean): Promise<WireMessageView>;
  stop(): Promise<void>;
}

/** Resolves once the watch stands. */
async function watch(filter: string, all = false): Promise<Watch> {
  const events: WireEvent[] = [];
  const stop = new AbortController();
  const over = world.client.wire({ filter, all }, (event) => events.push(event), stop.signal).catch(() => {});
  await poll(
    async () => events.length,
    (count) => count > 0,
  );
  const messages = () => events.flatMap((event) => (event.name === "message" ? [event.data] : []));
  return {
    events,
    messages,
    until: async (isSo) => (await poll(async () => messages().find(isSo), Boolean)) as WireMessageView,
    async stop() {
      stop.abort();
      await over;
    },
  };
}

describe("who looks at the wire", () => {
  it("sees commands, answers and reports with the channel and the command that they belong to", async () => {
    const wire = await watch(`${world.site}/wren/#`);
    const request = await world.ask("wren/porch", "on");
    const id = request.commands[0]?.id;
    const mine = await wire.until(({ role, commandId }) => role === "is" && commandId === id);
    expect(mine).toMatchObject({ channel: world.address("wren/porch"), meaning: "on", own: false, retained: false });
    const command = wire.messages().find(({ role, commandId }) => role === "do" && commandId === id);
    expect(command).toMatchObject({ own: true, topic: `${world.site}/wren/porch/do`, meaning: "a command" });
    expect(wire.messages().find(({ role }) => role === "done")).toMatchObject({ meaning: "done, code 1" });
    // What lay retained when the watch began.
    expect(wire.messages().find(({ role, retained }) => role === "here" && retained)).toMatchObject({
      meaning: "online",
    });
    await wire.stop();
  });

  it("does not hide that nobody listens, unless everything is asked for, and then says so", async () => {
    const ours = await watch(`${world.site}/#`);
    expect(ours.events[0]).toMatchObject({ name: "hello", data: { masks: false } });
    const unheard = await world.ask("finch/porch", "on");
    expect(unheard.commands[0]).toMatchObject({ end: "failed", reason: "nobody-listens" });
    await ours.stop();
    const all = await watch(`${world.site}/#`, true);
    expect(all.events[0]).toMatchObject({ data: { masks: true } });
    await all.stop();
  });

  it("finds what nobody claims, and reads bytes as bytes", async () => {
    const wire = await watch(`new/${world.site}/#`, true);
    const device = await world.listener();
    device.publish(`new/${world.site}/1`, Buffer.from([0xa0, 1, 1, 0xa2]));
    expect(await wire.until(({ bytes }) => bytes === 4)).toMatchObject({
      role: null,
      text: "A0 01 01 A2 (hex)",
      hex: "a00101a2",
    });
    await wire.stop();
  });

  it("is not drowned: what is more than can be read is counted", async () => {
    const wire = await watch(`flood/${world.site}`, true);
    const device = await world.listener();
    for (let number = 0; number < 1_000; number += 1) device.publish(`flood/${world.site}`, String(number));
    const skipped = await poll(
      async () => wire.events.flatMap((event) => (event.name === "skipped" ? [event.data.count] : [])),
      (counts) => wire.messages().length + counts.reduce((sum, one) => sum + one, 0) >= 1_000,
    );
    expect(skipped.length).toBeGreaterThan(0);
    await wire.stop();
  });
});

describe("publishing by hand", () => {
  it("writes, is in the audit, and is not retained", async () => {
    const topic = `${world.site}/wren/hall/is`;
    await world.client.publish({ topic, payload: '{"to":"on","by":"hand"}' });
    const hall = await poll(
      () => channelNow(world.client, world.address("wren/hall")),
      (channel) => channel?.observed?.value === "on",
    );
    expect(hall?.observed?.cause).toBe("hand");
    const { entries } = await world.client.audit();
    expect(entries[0]).toMatchObject({ actor: "Ines", action: "published by hand", object: topic });
  });

  it("takes away what lies retained on a command topic", async () => {
    const topic = `${world.site}/dunlin/porch/do`;
    const device = await world.listener();
    await device.publishAsync(topic, "old", { retain: true, qos: 1 });
    await world.client.publish({ topic, clear: true });
    const wire = await watch(topic, true);
    await world.client.publish({ topic, payload: "A0 01", as: "hex" });
    await wire.until(({ hex }) => hex === "a001");
    expect(wire.messages().map(({ retained }) => retained)).toEqual([false]);
    await wire.stop();
  });

  it.each([
    [{ topic: "$SYS/x", payload: "" }],
    [{ topic: "a/+/b", payload: "" }],
    [{ topic: "a/#", payload: "" }],
    [{ topic: "a\u0007b", payload: "" }],
    [{ topic: "a", payload: "0g", as: "hex" as const }],
  ])("refuses %j", async (body) => {
    expect(await refusal(world.client.publish(body))).toBe("bad-request");
  });
});

describe("what a device may do at the broker", () => {
  it("is its own topics, and nothing of a neighbour's", async () => {
    const devices = await world.client.devices();
    const folder = mkdtempSync(path.join(tmpdir(), "bold-relay-access-"));
    chmodSync(folder, 0o755);
    const users = devices.map(({ address, access }) => ({
      name: address.replace("/", "."),
      password: "secret",
      topics: accessLines("", access)
        .slice(1)
        .map((line) => line.replace(/^topic /, "")),
    }));
    const service = { name: "service", password: "secret", topics: "service" as const };
    const broker = await startBroker({
      programs: findPrograms(),
      folder,
      port: await freePort(),
      users: [...users, service],
    });
    const connect = (username: string) =>
      connectAsync(broker.url, { username, password: "secret", protocolVersion: 5, reconnectPeriod: 0 });
    try {
      const [wren, finch, all] = await Promise.all([
        connect(`${world.site}.wren`),
        connect(`${world.site}.finch`),
        connect("service"),
      ]);
      const heard: string[] = [];
      all.on("message", (topic) => heard.push(topic));
      await all.subscribeAsync("#", { qos: 1 });
      const foreign = devices.find(({ address }) => address === world.address("finch"))?.access;
      const [reads, writes] = [[...(foreign?.reads ?? [])], [...(foreign?.writes ?? [])]];
      const overheard: string[] = [];
      wren.on("message", (topic) => overheard.push(topic));
      // Whether the broker refuses this at once or just hands nothing over is its own affair.
      await wren.subscribeAsync(reads, { qos: 1 }).catch(() => []);
      await Promise.allSettled(writes.map((topic) => wren.publishAsync(topic, "x", { qos: 1 })));
      const own = new Promise<string>((resolve) => {
        finch.once("message", resolve);
      });
      await finch.subscribeAsync(reads, { qos: 1 });
      await finch.publishAsync(`${world.site}/finch/porch/is`, "mine", { qos: 1 });
      await all.publishAsync(`${world.site}/finch/porch/do`, "on", { qos: 1 });
      expect(await own).toBe(`${world.site}/finch/porch/do`);
      await poll(
        async () => heard.length,
        (count) => count >= 2,
      );
      expect([reads.length, writes.length]).toEqual([3, 7]);
      expect([heard, overheard]).toEqual([[`${world.site}/finch/porch/is`, `${world.site}/finch/porch/do`], []]);
      await Promise.all([wren.endAsync(true), finch.endAsync(true), all.endAsync(true)]);
    } finally {
      await broker.stop();
      rmSync(folder, { recursive: true, force: true });
    }
  });
});
