/** Whatever is thrown at inlets and translators: a clear answer or none, nothing switched, and the next caller is served. */
import { connect } from "node:net";
import { freePort } from "@bold-relay/rig";
import { RadioGateway } from "@bold-relay/standins";
import { checkPlan } from "@bold-relay/translators";
import { startTranslatorHost, type TranslatorHost } from "@bold-relay/translators/host";
import fc from "fast-check";
import { afterAll, beforeAll, describe, expect, inject, it } from "vitest";
import { brokerUrl } from "./support/servers.ts";
import { poll } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
const keys = new Map<string, string>();
const RUNS = { numRuns: 60 };

beforeAll(async () => {
  world = await createWorld();
  const wren = await world.board("wren");
  for (const kind of ["web", "hook", "call", "chat", "keypad"] as const) {
    const menu = { say: "One.", keys: { "1": { phrase: "hall light wren" } } };
    const more = kind === "keypad" ? { settings: { menu } } : kind === "chat" ? { senders: ["*"] } : {};
    await world.client.saveInlet(
      { slug: `any-${kind}`, name: kind, kind, site: world.site, perMinute: 100_000, ...more },
      0,
    );
    keys.set(kind, (await world.client.addKey({ name: "test", inlet: `any-${kind}` })).key);
  }
  wren.deeds.length = 0;
});
afterAll(() => world.stop());

const type = fc.constantFrom(
  "application/json",
  "text/plain",
  "application/x-www-form-urlencoded",
  "application/cloudevents+json",
  "x",
  "",
);
const scrap = fc.oneof(
  fc.json(),
  fc.string({ unit: "binary", maxLength: 300 }),
  fc.uint8Array({ maxLength: 300 }).map((bytes) => Buffer.from(bytes)),
  fc.constantFrom(
    "[".repeat(5_000),
    '{"__proto__":{"x":1}}',
    '{"text":"\u0000"}',
    '{"call":{}}',
    '{"text":"\\ud800 x","sender":"\\u0000","room":"\\udfff"}',
    '{"argument":"\\u0000"}',
    '{"text":{"a":1},"sender":[],"room":7}',
    "null",
  ),
);
/** Says nothing that the grammar or a name could know. */
const harmless = (body: string | Buffer) => !/on|off|toggle|back|hall|porch|path/i.test(body.toString());

describe.each(["web", "hook", "call", "chat", "keypad"] as const)("the inlet of the kind %s", (kind) => {
  it("answers whatever comes, and never with a mistake of its own", async () => {
    await fc.assert(
      fc.asyncProperty(
        type,
        scrap.filter(harmless),
        fc.constantFrom("", "/x", "/%00", "/wren/hall", "/..%2f"),
        async (contentType, body, rest) => {
          const headers = { authorization: `Bearer ${keys.get(kind)}`, "content-type": contentType };
          const response = await fetch(`${world.service.url}/in/any-${kind}${rest}`, {
            method: "POST",
            headers,
            body: body as BodyInit,
          });
          await response.text();
          expect(response.status).toBeLessThan(500);
        },
      ),
      RUNS,
    );
    expect((await world.board("wren")).deeds).toEqual([]);
  });

  it("answers other methods, and callers without a key, with as little", async () => {
    for (const method of ["GET", "PUT", "DELETE", "PATCH", "OPTIONS"]) {
      const known = await fetch(`${world.service.url}/in/any-${kind}`, {
        method,
        headers: { authorization: `Bearer ${keys.get(kind)}` },
      });
      expect(known.status).toBe(405);
    }
    // Few enough to be answered as wrong keys, and not as too many of them.
    const stranger = await fetch(`${world.service.url}/in/any-${kind}`);
    const nobody = await fetch(`${world.service.url}/in/no-such-inlet`);
    expect(stranger.status).toBe(401);
    expect([stranger.status, await stranger.text()]).toEqual([nobody.status, await nobody.text()]);
  });
});

describe("typed lines", () => {
  it("survive any bytes before and after the key", async () => {
    const port = await freePort();
    await world.client.saveInlet(
      { slug: "any-line", name: "Line", kind: "line", site: world.site, settings: { port } },
      0,
    );
    const { key } = await world.client.addKey({ name: "test", inlet: "any-line" });
    await poll(
      () => world.client.inlets(),
      (all) => all.find(({ slug }) => slug === "any-line")?.up === true,
    );
    const send = (bytes: Uint8Array | string) =>
      new Promise<void>((resolve) => {
        const socket = connect(port, "127.0.0.1", () => socket.end(bytes));
        socket.on("error", () => {});
        socket.on("close", () => resolve());
        socket.resume();
      });
    await fc.assert(
      fc.asyncProperty(fc.uint8Array({ maxLength: 400 }), async (bytes) => {
        fc.pre(harmless(Buffer.from(bytes)));
        await send(bytes);
        await send(Buffer.concat([Buffer.from(`${key}\r\n`), bytes, Buffer.from("\r\n")]));
      }),
      { numRuns: 25 },
    );
    expect((await world.board("wren")).deeds).toEqual([]);
  });
});

describe("translators", () => {
  let host: TranslatorHost;
  const gateway = new RadioGateway();
  const key = "a-key-of-sixteen-or-more";

  beforeAll(async () => {
    await gateway.start();
    const on = {
      site: world.site,
      username: "tester",
      password: inject("brokerPassword"),
      channels: [{ slug: "one", kind: "relay" }],
    };
    host = await startTranslatorHost(
      checkPlan({
        broker: { url: brokerUrl() },
        mailbox: { host: "127.0.0.1", port: 0 },
        devices: [
          { ...on, device: "far-box", reach: { by: "mailbox", key } },
          { ...on, device: "far-node", reach: { by: "radio", port: `tcp://127.0.0.1:${gateway.port}`, node: 9 } },
        ],
      }),
      () => {},
    );
  });
  afterAll(async () => {
    await host.stop();
    await gateway.stop();
  });

  it("a mailbox answers whatever is posted", async () => {
    const url = `http://127.0.0.1:${host.mailboxPort}/mailbox/${world.site}/far-box`;
    await fc.assert(
      fc.asyncProperty(scrap, async (body) => {
        const headers = { authorization: `Bearer ${key}` };
        const response = await fetch(url, { method: "POST", headers, body: body as BodyInit });
        await response.text();
        // Some of what is drawn is by chance a message of the mailbox; everything else is refused.
        expect([204, 400]).toContain(response.status);
      }),
      RUNS,
    );
    const well = await fetch(url, {
      method: "POST",
      headers: { authorization: `Bearer ${key}` },
      body: '{"is":{"one":"off"}}',
    });
    expect(well.status).toBe(204);
  });

  it("a radio line survives any noise", async () => {
    const listener = await world.listener();
    const heard: string[] = [];
    listener.on("message", (_topic, payload) => heard.push(payload.toString()));
    await listener.subscribeAsync(`${world.site}/far-node/one/is`, { qos: 1 });
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), (noise) => gateway.crackle(noise)),
      RUNS,
    );
    gateway.say({ k: "is", n: 9, c: 1, v: "on", by: "hand" });
    await poll(
      async () => heard,
      (all) => all.some((one) => one.includes('"on"')),
    );
    expect(JSON.parse(heard.at(-1) ?? "")).toEqual({ to: "on", by: "hand" });
  });
});

describe("a description of ten megabytes", () => {
  const MB = 1_000_000;
  const check = (body: string) =>
    fetch(`${world.service.url}/api/v1/sites/big/check`, {
      method: "POST",
      headers: { authorization: `Bearer ${world.key}`, "content-type": "application/json" },
      body,
    });

  it.each([
    [
      "nested",
      400,
      () => `{"slug":"big","name":${"[".repeat(5 * MB - 50)}${"]".repeat(5 * MB - 50)}}`,
      /more than 100 brackets/,
    ],
    [
      "of one name",
      400,
      () => JSON.stringify({ slug: "big", name: "x".repeat(10 * MB), rooms: [] }),
      /at most|less than/,
    ],
    [
      "of one room after another",
      400,
      () => JSON.stringify({ slug: "big", name: "Big", rooms: rooms(200_000) }),
      /1000/,
    ],
    ["that breaks off", 400, () => `{"slug":"big","name":"${"x".repeat(10 * MB)}`, /JSON/],
    ["and more", 413, () => "x".repeat(11 * MB), /10485760/],
  ])("%s is refused with a reason, and the next caller is served", async (_about, status, body, reason) => {
    const response = await check(body());
    expect([response.status, await response.text()]).toEqual([status, expect.stringMatching(reason)]);
    expect((await fetch(`${world.service.url}/health/ready`)).ok).toBe(true);
  });

  function rooms(count: number) {
    return Array.from({ length: count }, (_, index) => ({ slug: `r${index}`, name: "R", devices: [] }));
  }
});
