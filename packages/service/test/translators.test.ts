/** Devices that speak no MQTT, each kind driven end to end: service, broker, translator, device; and each of its faults named. */
import type { DeviceDescription, KindName } from "@bold-relay/core";
import {
  HttpBoard,
  LampStringDevice,
  LineBoard,
  type OutsideDevice,
  Poller,
  RadioGateway,
  RadioNodeBoard,
} from "@bold-relay/standins";
import { checkPlan, type TranslatedDevice } from "@bold-relay/translators";
import { startTranslatorHost, type TranslatorHost } from "@bold-relay/translators/host";
import { afterAll, afterEach, beforeAll, describe, expect, inject, it } from "vitest";
import { openSerialLine, type SerialLine } from "./support/serial-line.ts";
import { brokerUrl } from "./support/servers.ts";
import { refusal, untilChannel } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

const BOX_KEY = "a-key-of-the-pump-house";
const channels: { slug: string; name: string; kind: KindName }[] = [
  { slug: "one", name: "One", kind: "relay" },
  { slug: "two", name: "Two", kind: "light" },
];
const strip: ((typeof channels)[number] & { delivery: object })[] = [
  { slug: "edge", name: "Stage edge", kind: "lamps", delivery: { targetStage: "acknowledged" } },
];
const gate: typeof channels = [
  { slug: "gate", name: "Far gate", kind: "pulse" },
  { slug: "lamp", name: "Gate lamp", kind: "light" },
];

let world: World;
let host: TranslatorHost;
let tty: SerialLine;
const boards = new Map<string, OutsideDevice>();
const gateway = new RadioGateway();
const said: string[] = [];

beforeAll(async () => {
  const device = (slug: string, all = channels): DeviceDescription => {
    return { slug, name: `${slug} device`, profile: "translated", channels: all };
  };
  const topics = {
    do: "{site}/{device}/{channel}/do",
    done: "{site}/{device}/{channel}/done",
    is: "{site}/{device}/{channel}/is",
    here: "{site}/{device}/here",
  };
  const devices = [device("http"), device("lines"), device("mailbox"), device("radio", gate), device("lamps", strip)];
  world = await createWorld({
    profiles: [
      {
        slug: "translated",
        name: "Behind a translator",
        codec: "json",
        topics,
        // The far side may take all of its second: one that is silent is tried twice.
        delivery: { ackWithinMs: 8_000, attempts: 2, settleMs: 8_000, timesItself: true, knowsRepeats: true },
      },
    ],
    describe: (slug) => ({ slug, name: "Fennel Hall", rooms: [{ slug: "cellar", name: "Cellar", devices }] }),
  });
  await plugIn();
});
// One test that fails leaves no faulty board to the next.
afterEach(async () => {
  for (const board of boards.values()) await board.setFault("none");
});
afterAll(async () => {
  await host.stop();
  for (const board of boards.values()) await board.stop();
  await tty.stop();
  await gateway.stop();
  await world.stop();
});

async function plugIn(): Promise<void> {
  const { site } = world;
  const http = new HttpBoard({ site, device: "http", channels });
  const lines = new LineBoard({ site, device: "lines", channels });
  await Promise.all([http.start(), lines.start(), gateway.start()]);
  tty = await openSerialLine(gateway.port);
  const on = { username: "tester", password: inject("brokerPassword") };
  const far = (device: string, all: typeof channels, reach: TranslatedDevice["reach"]): TranslatedDevice => {
    return { site, device, ...on, channels: all.map(({ slug, kind }) => ({ slug, kind })), reach };
  };
  const words = { on: "ON", off: "OFF" };
  const plan = checkPlan({
    broker: { url: brokerUrl() },
    mailbox: { host: "127.0.0.1", port: 0 },
    devices: [
      far("http", channels, {
        by: "http",
        url: http.url,
        mode: { method: "PUT", path: "/pin/{index}/mode/out" },
        do: { method: "PUT", path: "/pin/{index}/{value}" },
        is: { path: "/pin/{index}", everyMs: 100 },
        form: { form: "text", words: { on: 1, off: 0 } },
        timeoutMs: 1_000,
      }),
      far("lines", channels, {
        by: "lines",
        host: "127.0.0.1",
        port: lines.port,
        greeting: "READY",
        prompt: "> ",
        form: {
          form: "text",
          do: "SET {index} {value}",
          is: "IS {index} {value}",
          done: { pattern: "{result} {index} {id}", ok: ["OK"] },
          words,
        },
        query: { line: "GET {index}", everyMs: 100 },
        timeoutMs: 1_000,
      }),
      far("mailbox", channels, { by: "mailbox", key: BOX_KEY, timeoutMs: 1_000, silentAfterMs: 30_000 }),
      far("radio", gate, { by: "radio", port: tty.path, node: 4, timeoutMs: 400 }),
    ],
  });
  const string = new LampStringDevice({ site, device: "lamps", channels: strip });
  await string.start();
  const node = new RadioNodeBoard({ site, device: "radio", channels: gate }, gateway, 4);
  await node.start();
  const lamps = far("lamps", strip, {
    by: "lamps",
    port: `tcp://127.0.0.1:${string.port}`,
    lamps: 7,
    frame: "A5 {count} {lamps} {sum}",
    timeoutMs: 1_000,
  });
  host = await startTranslatorHost({ ...plan, devices: [...plan.devices, lamps] }, (line) => said.push(line));
  const poller = new Poller({ site, device: "mailbox", channels }, `http://127.0.0.1:${host.mailboxPort}`, BOX_KEY);
  await poller.start();
  for (const board of [http, lines, poller, node, string]) boards.set(board.name.split("/")[1] ?? "", board);
}

function boardOf(kind: string): OutsideDevice {
  const board = boards.get(kind);
  if (!board) throw new Error(`no stand-in ${kind}`);
  return board;
}

const online = (kind: string, channel: string, up: boolean) =>
  untilChannel(
    world.client,
    world.address(`${kind}/${channel}`),
    (one) => one.device.presence === (up ? "online" : "offline"),
  );

describe.each([
  ["http", "one"],
  ["lines", "one"],
  ["mailbox", "one"],
  ["radio", "lamp"],
])("a device reached by %s", (kind, channel) => {
  const address = `${kind}/${channel}`;

  it("is switched, and the service learns what it is", async () => {
    await online(kind, channel, true);
    const on = await world.ask(address, "on");
    expect(on).toMatchObject({ outcome: "delivered", commands: [{ stage: "confirmed" }] });
    expect(boardOf(kind).state.contacts[channel]).toBe("on");
    const off = await world.ask(address, "off");
    expect(off.outcome).toBe("delivered");
    expect(boardOf(kind).state.contacts[channel]).toBe("off");
  });

  it("goes off by itself after its time, whoever is there to tell it", async () => {
    const on = await world.ask(address, "on", 20, { forMs: 300 });
    expect(on.outcome).toBe("delivered");
    const off = await untilChannel(world.client, world.address(address), (one) => one.observed?.value === "off");
    expect(off.observed?.cause).not.toBe("hand");
    expect(boardOf(kind).state.contacts[channel]).toBe("off");
  });

  it("keeps its time although a newer order fails meanwhile", async () => {
    await world.ask(address, "on", 20, { forMs: 900 });
    await boardOf(kind).setFault("refusing");
    expect((await world.ask(address, "on")).commands[0]).toMatchObject({ end: "failed" });
    await boardOf(kind).setFault("none");
    await untilChannel(world.client, world.address(address), (one) => one.observed?.value === "off");
    expect(boardOf(kind).state.contacts[channel]).toBe("off");
    // By the translator's own clock: the service's would be 8 s later, and be on record as a request.
    const { requests } = await world.client.log({ limit: 1 });
    expect(requests[0]).toMatchObject({ action: "on" });
  });

  it("says no in its own words: failed, with nothing switched", async () => {
    await boardOf(kind).setFault("refusing");
    const refused = await world.ask(address, "on");
    expect(refused).toMatchObject({ commands: [{ end: "failed", reason: "device-refused" }] });
    expect(refused.commands[0]?.verdict.text).toMatch(
      / answered no \(code \d+\): .+ It reports that it did not switch\./,
    );
    expect(boardOf(kind).state.contacts[channel]).toBe("off");
    await boardOf(kind).setFault("none");
    expect((await world.ask(address, "off")).outcome).toBe("delivered");
  });

  it("is silent: unanswered, with the word of whoever waited", async () => {
    await boardOf(kind).setFault("silent");
    const lost = await world.ask(address, "on");
    expect(lost).toMatchObject({ commands: [{ end: "unanswered", reason: "no-acknowledgement" }] });
    expect(lost.commands[0]?.verdict.text).toMatch(/answered none of 2 attempts: .+ It may or may not have switched\./);
    await boardOf(kind).setFault("none");
    await online(kind, channel, true);
    expect((await world.ask(address, "off")).outcome).toBe("delivered");
  });
});

describe("what only some can show", () => {
  it.each([
    ["lines", "one"],
    ["mailbox", "one"],
    ["http", "two"],
    ["radio", "lamp"],
  ])("%s: a hand at the switch is seen", async (kind, channel) => {
    const to = await boardOf(kind).flip(channel);
    const seen = await untilChannel(
      world.client,
      world.address(`${kind}/${channel}`),
      (one) => one.observed?.value === to,
    );
    // Only the radio node says that it was a hand; of the others nobody knows, or it looks like an unproven command.
    const causes = kind === "radio" ? ["hand"] : ["unknown", "late"];
    expect(causes).toContain(seen.observed?.cause);
  });

  it.each([
    ["http", /cannot be reached \(ECONNREFUSED\)/],
    ["lines", /cannot be reached \(ECONNREFUSED\)/],
  ])("%s: unplugged, nothing was sent", async (kind, words) => {
    await boardOf(kind).setFault("unplugged");
    await online(kind, "one", false);
    const refused = await world.ask(`${kind}/one`, "on");
    expect(refused).toMatchObject({ commands: [{ end: "failed", reason: "device-refused" }] });
    expect(refused.commands[0]?.verdict.text).toMatch(words);
    await boardOf(kind).setFault("none");
    await online(kind, "one", true);
    expect((await world.ask(`${kind}/one`, "off")).outcome).toBe("delivered");
  });

  it("mailbox: away, the command was never fetched", async () => {
    await boardOf("mailbox").setFault("unplugged");
    const refused = await world.ask("mailbox/two", "on");
    expect(refused.commands[0]).toMatchObject({ end: "failed", reason: "device-refused" });
    expect(refused.commands[0]?.verdict.text).toMatch(/did not ask for its next command/);
    await boardOf("mailbox").setFault("none");
  });

  it("mailbox: a wrong key learns nothing", async () => {
    const url = `http://127.0.0.1:${host.mailboxPort}/mailbox/${world.site}/`;
    const headers = { authorization: "Bearer another-key-of-16" };
    for (const name of ["mailbox", "nobody"]) {
      const response = await fetch(`${url}${name}`, { headers });
      expect([response.status, await response.text()]).toEqual([
        401,
        '{"error":"The key is not that of this device."}',
      ]);
    }
  });

  it("radio: a node out of reach, and a gateway that does not answer", async () => {
    await boardOf("radio").setFault("unplugged");
    await online("radio", "lamp", false);
    const refused = await world.ask("radio/lamp", "on");
    expect(refused.commands[0]?.verdict.text).toMatch(/no radio link to node 4/);
    await boardOf("radio").setFault("none");
    await online("radio", "lamp", true);
    await boardOf("radio").setFault("garbling");
    const lost = await world.ask("radio/lamp", "on");
    expect(lost.commands[0]).toMatchObject({ end: "unanswered" });
    expect(lost.commands[0]?.verdict.text).toMatch(/answered none of 3 frames/);
    await boardOf("radio").setFault("none");
  });

  it("radio: noise on the line damages nothing but itself", async () => {
    gateway.crackle(Uint8Array.from([0, 255, 0xdb, 0xc0, 7, 0xc0, 0xdb, 0xdb, 3]));
    expect((await world.ask("radio/lamp", "on")).outcome).toBe("delivered");
  });

  it("radio: a pulse goes out once, although the gateway is slow and asked again", async () => {
    const before = boardOf("radio").heard.length;
    await boardOf("radio").setFault("slow");
    // 800 ms against 400: it acts, but nobody hears of it.
    const lost = await world.ask("radio/gate", "pulse");
    expect(lost.commands[0]).toMatchObject({ end: "unanswered" });
    await boardOf("radio").setFault("none");
    expect(boardOf("radio").heard.slice(before)).toEqual(["1 pulse"]);
    expect((await world.ask("radio/gate", "pulse")).commands[0]).toMatchObject({ stage: "acknowledged" });
    expect(boardOf("radio").heard.slice(before)).toEqual(["1 pulse", "1 pulse"]);
  });

  it("lines: an answer that means nothing is quoted", async () => {
    await boardOf("lines").setFault("garbling");
    const odd = await world.ask("lines/two", "on");
    // What it said proves nothing; asked what it is, it tells.
    const { traces } = await world.client.trace(odd.id);
    const doubt = traces[0]?.hops.find(({ kind }) => kind === "doubted");
    expect(doubt?.note).toMatch(/it said only “%&\/\(”/);
    expect(odd.commands[0]).toMatchObject({ stage: "confirmed" });
    await boardOf("lines").setFault("none");
  });
});

describe("a string of lamps", () => {
  const string = () => boardOf("lamps") as LampStringDevice;
  const ask = (action: string, value?: string) =>
    world.client.ask(
      { target: world.address("lamps/edge"), action, ...(value === undefined ? {} : { value }) },
      { waitS: 20 },
    );

  it("shows a colour each, one after the other, and claims no more than it answered", async () => {
    await online("lamps", "edge", true);
    const done = await ask("pattern", "red, Amber #0000ff");
    expect(done).toMatchObject({
      outcome: "delivered",
      commands: [{ stage: "acknowledged", to: "#ff0000,#ffbf00,#0000ff" }],
    });
    expect(string().lamps).toEqual(["#ff0000", "#ffbf00", "#0000ff", "#ff0000", "#ffbf00", "#0000ff", "#ff0000"]);
    const channel = (await world.client.board()).sites[0]?.channels.find(({ address }) => address.endsWith("/edge"));
    expect(channel).toMatchObject({ commanded: { text: "#ff0000, #ffbf00, #0000ff" }, observed: null });
    expect(await ask("off")).toMatchObject({ outcome: "delivered" });
    expect(new Set(string().lamps)).toEqual(new Set(["#000000"]));
  });

  it.each([
    ["refusing", "failed", "it answered “15”"],
    ["garbling", "failed", "it answered “7F”"],
    ["silent", "unanswered", "it did not answer within 1000 ms"],
    ["unplugged", "failed", "cannot be opened"],
  ])("that is %s ends %s, and says why", async (fault, end, why) => {
    await string().setFault(fault);
    await online("lamps", "edge", fault !== "unplugged");
    const [command] = (await ask("colour", "green")).commands;
    expect(command?.end).toBe(end);
    expect(command?.verdict.text).toContain(why);
    await string().setFault("none");
    await online("lamps", "edge", true);
  });

  it("is asked for colours that there are", async () => {
    const asked = (value: string) => refusal(ask("pattern", value));
    expect(await asked("red, gren")).toBe("pattern-needed");
    expect(await asked(Array(65).fill("red").join(","))).toBe("pattern-needed");
    expect(await asked("")).toBe("bad-request");
  });
});
