/** The registry takes on what is on record while it runs: what is unchanged goes on, what left is stopped before what comes. */
import { once } from "node:events";
import { connect } from "node:net";
import type { InletDescription } from "@bold-relay/core";
import { freePort } from "@bold-relay/rig";
import { pino } from "pino";
import { describe, expect, it } from "vitest";
import type { InletCounter } from "../../src/inlets/inlet-counter.ts";
import { type InletRecord, InletRegistry } from "../../src/inlets/registry.ts";
import { poll } from "../support/until.ts";

const record = (slug: string, version: number, more: Partial<InletDescription> = {}): InletRecord => ({
  ...{ id: slug.length, version, secret: null, keys: 1 },
  inlet: { slug, name: slug, kind: "web", site: null, ...more },
});

function registry(first: InletRecord[]) {
  let records = first;
  const inlets = new InletRegistry({
    read: async () => records,
    onChange: () => {},
    states: () => [],
    secretsKey: undefined,
    counter: { arrived: () => {}, ended: () => {} } as unknown as InletCounter,
    requests: {} as never,
    calls: {} as never,
    log: pino({ level: "silent" }),
    keyOf: async () => null,
    noteWrongKeys: () => {},
    watchInputs: () => () => {},
    isOwner: () => true,
    mayListen: () => true,
    topic: {} as never,
  });
  return {
    inlets,
    async take(next: InletRecord[]) {
      records = next;
      await inlets.refresh();
    },
  };
}

describe("the registry of inlets", () => {
  it("keeps what is unchanged as it is, and opens a changed one anew", async () => {
    const { inlets, take } = registry([record("a", 1), record("bb", 1)]);
    await inlets.refresh();
    const [a, b] = [inlets.get("a"), inlets.get("bb")];
    await take([record("a", 1), record("bb", 2)]);
    expect(inlets.get("a")?.handler).toBe(a?.handler);
    expect(inlets.get("bb")?.handler).not.toBe(b?.handler);
  });

  it("forgets one that left, with where it listened", async () => {
    const routes = [{ when: { topic: "buttons/{lamp}" }, do: { phrase: "{lamp} on" } }];
    const buttons = record("buttons", 1, { kind: "topic", paused: true, routes });
    const { inlets, take } = registry([buttons, record("bb", 1)]);
    await inlets.refresh();
    expect(inlets.listeners).toEqual([{ slug: "buttons", site: null, filters: ["buttons/+"] }]);
    await take([record("bb", 1)]);
    expect([inlets.get("buttons"), inlets.listeners]).toEqual([null, []]);
  });

  it("stops what left before it opens what comes: they may want the same port", async () => {
    const port = await freePort();
    const line = { kind: "line", settings: { port, host: "127.0.0.1" } } as const;
    const { inlets, take } = registry([record("desk", 1, line)]);
    await inlets.refresh();
    await poll(
      () => Promise.resolve(inlets.get("desk")?.own?.health),
      (health) => health?.up === true,
    );
    await take([record("counter", 1, line)]);
    await poll(
      () => Promise.resolve(inlets.get("counter")?.own?.health),
      (health) => health?.up === true,
    );
    expect(inlets.get("desk")).toBeNull();
    await inlets.stop();
    await expect(connected(port)).rejects.toThrow(/ECONNREFUSED/);
  });

  it("finds one that another program has made, on its first use", async () => {
    const { inlets, take } = registry([]);
    expect(await inlets.find("a")).toBeNull();
    await take([record("a", 1)]);
    expect((await inlets.find("a"))?.record.inlet.slug).toBe("a");
  });

  it("keeps a paused one at hand, with no way in of its own", async () => {
    const { inlets } = registry([record("desk", 1, { kind: "line", paused: true, settings: { port: 1 } })]);
    await inlets.refresh();
    expect(inlets.get("desk")?.own).toBeNull();
    expect(() => inlets.get("desk")?.handler.admit()).toThrow(/paused/);
  });
});

async function connected(port: number): Promise<void> {
  const socket = connect(port, "127.0.0.1");
  await once(socket, "connect");
  socket.destroy();
}
