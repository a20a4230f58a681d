/** Every kind of inlet over its own socket: asked, answered with the truth, and closed to whoever may not. */
import { randomBytes } from "node:crypto";
import { connect, type Socket } from "node:net";
import type { InletReply } from "@bold-relay/api";
import type { InletDescription } from "@bold-relay/core";
import { freePort } from "@bold-relay/rig";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { signatureOf } from "../src/index.ts";
import { type Outside, startOutside } from "./support/outside.ts";
import { channelNow, poll, refusal, untilChannel } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
let outside: Outside;

beforeAll(async () => {
  outside = await startOutside();
  world = await createWorld({
    environment: { BOLD_RELAY_SECRETS_KEY: randomBytes(32).toString("base64"), BOLD_RELAY_MAY_CALL: outside.place },
  });
  await world.board("wren");
  await world.board("finch");
});
afterAll(async () => {
  await world.stop();
  await outside.stop();
});

type Draft = Omit<InletDescription, "site" | "name"> & { readonly name?: string };

/** Makes an inlet for the world's site, with a key. */
async function make(draft: Draft): Promise<string> {
  await world.client.saveInlet({ name: `Inlet ${draft.slug}`, site: world.site, ...draft }, null);
  return (await world.client.addKey({ name: "test", inlet: draft.slug })).key;
}

async function post(path: string, key: string | null, body: unknown, headers: Record<string, string> = {}) {
  const text = typeof body === "string" ? body : JSON.stringify(body);
  const type = typeof body === "string" ? "text/plain" : "application/json";
  const auth: Record<string, string> = key === null ? {} : { authorization: `Bearer ${key}` };
  const all = { "content-type": type, prefer: "wait=10", ...auth, ...headers };
  const response = await fetch(`${world.service.url}/in/${path}`, { method: "POST", body: text, headers: all });
  return {
    status: response.status,
    headers: response.headers,
    body: (await response.json()) as InletReply & Record<string, unknown>,
  };
}

const isNow = async (channel: string) => (await channelNow(world.client, world.address(channel)))?.observed?.value;
const wrenOff = () => world.ask("wren/porch", "off");

describe("a hook", () => {
  let key: string;
  beforeAll(async () => {
    key = await make({
      slug: "hook",
      kind: "hook",
      routes: [
        {
          name: "booking system",
          when: { fields: { "/type": "arrived", "/cottage": "{cottage}" } },
          do: { target: "porch lantern {cottage}", action: "on" },
        },
        {
          when: { fields: { "/knob": "{knob}" } },
          do: {
            target: "wren/hall",
            action: "{knob}",
            map: { knob: { steps: { below: [[512, "off"]], otherwise: "on" } } },
          },
        },
        { when: { fields: { "/type": "ping" } }, do: { ignore: true } },
        { when: { phrase: true }, do: { phrase: "{text}" } },
      ],
    });
  });

  it("takes JSON, by its fields", async () => {
    const { status, body } = await post("hook", key, { type: "Arrived", cottage: "Wren" });
    expect([status, body.outcome]).toEqual([200, "complete"]);
    expect(body.reply).toBe("Porch lantern, Wren → on: confirmed.");
    expect(body.requests[0]).toMatchObject({
      asker: "Inlet hook",
      said: { route: 1, used: [{ words: "booking system" }] },
    });
  });

  it("maps what comes by thresholds", async () => {
    expect((await post("hook", key, { knob: 700 })).body.outcome).toBe("complete");
    expect(await isNow("wren/hall")).toBe("on");
    expect((await post("hook", key, { knob: 3 })).body.outcome).toBe("complete");
    expect(await isNow("wren/hall")).toBe("off");
    const odd = await post("hook", key, { knob: "many" });
    expect([odd.status, odd.body.reply]).toEqual([422, "Nothing was done: “many” means nothing here."]);
  });

  it("takes a form, a text, and CloudEvents in both ways of writing them", async () => {
    const form = await post("hook", key, "type=arrived&cottage=finch", {
      "content-type": "application/x-www-form-urlencoded",
    });
    expect(form.body.outcome).toBe("complete");
    expect((await post("hook", key, "hall light in finch on")).body.outcome).toBe("complete");
    const ce = { "ce-specversion": "1.0", "ce-id": "a1", "ce-source": "/booking", "ce-type": "x" };
    const slug = "events";
    const events = await make({
      slug,
      kind: "hook",
      routes: [
        { when: { fields: { "/type": "x", "/data/lamp": "{lamp}" } }, do: { target: "wren/{lamp}", action: "toggle" } },
      ],
    });
    const binary = await post(slug, events, { lamp: "path" }, ce);
    expect(binary.body.outcome).toBe("complete");
    // The same event again, written the other way: nothing is done a second time.
    const structured = await post(
      slug,
      events,
      { specversion: "1.0", id: "a1", source: "/booking", type: "x", data: { lamp: "path" } },
      { "content-type": "application/cloudevents+json" },
    );
    expect(structured.body.requests[0]?.id).toBe(binary.body.requests[0]?.id);
  });

  it("ignores on purpose, and says when nothing catches what came", async () => {
    expect((await post("hook", key, { type: "ping" })).body).toMatchObject({ outcome: "ignored", reply: "" });
    const none = await post("hook", key, { type: "what" });
    expect([none.status, none.body.outcome]).toEqual([422, "unmatched"]);
    const { requests } = await world.client.deliveries({ limit: 1 });
    expect(requests[0]).toMatchObject({
      outcome: "unmatched",
      refusal: { code: "no-route" },
      said: { words: '{"type":"what"}' },
    });
  });

  it("checks signatures, their age, and does a replayed message once", async () => {
    const { secret } = await world.client.makeSecret("hook");
    const body = JSON.stringify({ type: "arrived", cottage: "wren" });
    const now = Math.floor(Date.now() / 1000);
    const signed = (id: string, at: number, text = body) =>
      post("hook", null, body, {
        "content-type": "application/json",
        "webhook-id": id,
        "webhook-timestamp": String(at),
        "webhook-signature": `v1,wrong ${signatureOf(secret, id, at, text)}`,
      });
    const first = await signed("msg_1", now);
    expect([first.status, first.body.outcome]).toEqual([200, "complete"]);
    expect((await signed("msg_1", now)).body.requests[0]?.id).toBe(first.body.requests[0]?.id);
    expect((await signed("msg_2", now - 400)).status).toBe(401);
    expect((await signed("msg_3", now, `${body} `)).status).toBe(401);
    expect((await post("hook", "brk_nothing", {})).status).toBe(401);
    expect((await post("no-such-inlet", key, {})).status).toBe(401);
  });
});

describe("a link for people", () => {
  it("shows a button, acts when it is pressed, and ends", async () => {
    await wrenOff();
    await make({ slug: "links", kind: "hook" });
    expect(await refusal(world.client.makeLink("links", { phrase: "porch lantern wren on" }))).toBe("bad-request");
    await world.client.makeSecret("links");
    expect(await refusal(world.client.makeLink("links", { phrase: "porch lantern on" }))).toBe("not-understood");
    const { path } = await world.client.makeLink("links", { phrase: "porch lantern wren on", hours: 1 });
    const url = world.service.url + path;
    const page = await (await fetch(url)).text();
    expect(page).toMatch(/<form method="post"><button>porch lantern wren on<\/button>/);
    expect(await isNow("wren/porch")).toBe("off");
    expect(await (await fetch(url, { method: "POST" })).text()).toMatch(/Porch lantern, Wren → on: confirmed\./);
    expect(await isNow("wren/porch")).toBe("on");
    expect((await fetch(`${url}x`)).status).toBe(401);
    await world.client.makeSecret("links");
    expect((await fetch(url, { method: "POST" })).status).toBe(401);
  });
});

describe("a call", () => {
  let key: string;
  beforeAll(async () => {
    key = await make({ slug: "cloud", kind: "call" });
  });

  it("is answered with the device's own code and words, whatever the argument's case and spaces", async () => {
    const { status, body } = await post("cloud/wren/path", key, "  On ");
    expect([status, body]).toEqual([
      200,
      { code: 1, words: "Path lights, Wren → on: confirmed.", outcome: "complete" },
    ]);
    const named = await post("cloud/path%20lights%20wren", key, { argument: "OFF" });
    expect(named.body).toMatchObject({ code: 1, outcome: "complete" });
    const form = await post("cloud/wren/path", key, "arg=on", { "content-type": "application/x-www-form-urlencoded" });
    expect(form.body.code).toBe(1);
  });

  it("has the device's code when it refuses, and the valid arguments when it is not understood", async () => {
    const finch = await world.board("finch");
    await finch.setFault("refusing");
    expect((await post("cloud/finch/path", key, "on")).body).toMatchObject({ code: 4, outcome: "not-at-all" });
    await finch.setFault("none");
    const odd = await post("cloud/wren/path", key, "fast");
    expect([odd.status, odd.body.code]).toEqual([422, -1]);
    expect(odd.body.words).toBe(
      "Nothing was done: “fast” is no word that is known here. Did you mean “on”, “off”, “toggle”, “back”?",
    );
    expect(
      (await post("cloud/wren/path", key, "ON", { "content-type": "application/x-www-form-urlencoded" })).body.code,
    ).toBe(1);
    expect((await post("cloud/wren/path", key, "half")).body.words).toMatch(/It takes “on”, “off”, “toggle”, “back”/);
  });
});

describe("a chat", () => {
  let key: string;
  const say = (text: string, sender = "ana", room = "porch-room") => post("chat", key, { text, sender, room });
  beforeAll(async () => {
    key = await make({
      slug: "chat",
      kind: "chat",
      senders: ["porch-room/*", "*/ines"],
      synonyms: { "fairy lights": "path lights wren" },
      replies: { greeting: "Hello {sender}, try “{example}”." },
      settings: { replyUrl: `http://${outside.place}/said` },
    });
  });

  it("does what is said, and tells the outcome in the answer and in the room", async () => {
    await wrenOff();
    const { body } = await say("Please turn on the porch lantern in Wren!");
    expect(body).toMatchObject({ outcome: "complete", reply: "Porch lantern, Wren → on: confirmed." });
    await outside.untilTaken(1);
    expect(JSON.parse(outside.taken[0]?.body ?? "")).toEqual({ room: "porch-room", to: "ana", text: body.reply });
    const [request] = body.requests as unknown as string[];
    expect(await world.client.trace(request ?? "")).toMatchObject({
      asker: "ana",
      inlet: "chat",
      said: { words: "Please turn on the porch lantern in Wren!" },
    });
  });

  it("asks which, and remembers for that sender only", async () => {
    const asked = await say("porch lantern off");
    expect(asked.body.reply).toMatch(
      /^Which one: \(1\) Porch lantern, Wren, Alder Row \(2\) Porch lantern, Finch, Alder Row \(3\)/,
    );
    expect((await say("wren", "bo")).body.outcome).toBe("unmatched");
    expect((await say("wren")).body).toMatchObject({ reply: "Porch lantern, Wren → off: confirmed." });
  });

  it("greets, helps, answers, and knows the team's own words", async () => {
    expect((await say("hello")).body.reply).toBe("Hello ana, try “porch lantern in Wren on”.");
    expect((await say("help")).body.reply).toMatch(/^Name a channel/);
    expect((await say("fairy lights on")).body.reply).toBe("Path lights, Wren → on: confirmed.");
    expect((await say("are the fairy lights on?")).body.reply).toBe("Yes. Path lights, Wren: on.");
    expect((await say("what is on in wren?")).body.reply).toMatch(/Path lights, Wren: on\./);
  });

  it("switches nothing for a stranger, nor for a friend in another room", async () => {
    await wrenOff();
    const before = await world.client.deliveries({ limit: 1 });
    for (const [sender, room] of [
      ["ana", "street"],
      ["", "street"],
      ["ana", "porch-room/.."],
    ] as const) {
      const { body } = await say("porch lantern wren on", sender, room);
      expect(body).toMatchObject({ outcome: "stranger", requests: [] });
      expect(body.reply).toMatch(/^Sorry/);
    }
    expect((await world.client.deliveries({ limit: 1 })).requests[0]?.id).toBe(before.requests[0]?.id);
    expect(await isNow("wren/porch")).toBe("off");
    expect((await say("porch lantern wren on", "ines", "street")).body.outcome).toBe("complete");
    const view = (await world.client.inlets()).find(({ slug }) => slug === "chat");
    expect(view?.counts.strangers).toBe(3);
  });

  it("keeps what it did not understand, with the nearest that there is", async () => {
    const { body } = await say("porch lantren wren on");
    expect(body.outcome).toBe("unmatched");
    expect(body.reply).toMatch(/“porch lantren” is no word that is known here. Did you mean/);
    const { requests } = await world.client.deliveries({ limit: 1 });
    expect(requests[0]).toMatchObject({
      asker: "ana",
      refusal: { code: "not-understood" },
      target: "porch lantren wren on",
    });
  });
});

describe("a topic", () => {
  beforeAll(async () => {
    await make({
      slug: "buttons",
      kind: "topic",
      routes: [
        {
          when: { topic: `${world.site}-buttons/{cottage}/{lamp}` },
          do: {
            target: "{cottage}/{lamp}",
            action: "{payload}",
            map: { payload: { table: { "1": "on", "0": "off" } } },
          },
        },
      ],
    });
    await poll(
      () => world.client.inlets(),
      (all) => all.find(({ slug }) => slug === "buttons")?.up === true,
    );
  });

  it("turns messages into commands, whatever their service level; what was kept is no wish of now", async () => {
    await world.ask("wren/hall", "off");
    const publisher = await world.listener();
    const topic = `${world.site}-buttons/wren/hall`;
    for (const [qos, payload, is] of [
      [1, "1", "on"],
      [0, "0", "off"],
    ] as const) {
      await publisher.publishAsync(topic, payload, { qos });
      await untilChannel(world.client, world.address("wren/hall"), (one) => one.observed?.value === is);
    }
    await publisher.publishAsync(topic, "1", { qos: 1, retain: true });
    await untilChannel(world.client, world.address("wren/hall"), (one) => one.observed?.value === "on");
    const counts = async () => (await world.client.inlets()).find(({ slug }) => slug === "buttons")?.counts.asked;
    const asked = await counts();
    const { inlet, version } = await world.client.inlet("buttons");
    await world.client.saveInlet({ ...inlet, name: "Buttons anew" }, version);
    await poll(
      () => world.client.inlets(),
      (all) => all.find(({ slug }) => slug === "buttons")?.up === true,
    );
    await publisher.publishAsync(topic, "0", { qos: 1 });
    await untilChannel(world.client, world.address("wren/hall"), (one) => one.observed?.value === "off");
    expect([asked, await counts()]).toEqual([3, 1]);
    await publisher.publishAsync(topic, "", { retain: true });
  });

  it("is refused where its own commands would come back", async () => {
    const draft = { slug: "loop", name: "Loop", kind: "topic", site: world.site } as const;
    const routes = [{ when: { topic: `${world.site}/+/+/do` }, do: { target: "wren/hall", action: "toggle" } }];
    expect(await refusal(world.client.saveInlet({ ...draft, routes }, 0))).toBe("inlet-wrong");
  });
});

describe("typed lines", () => {
  let port: number;
  let key: string;
  beforeAll(async () => {
    port = await freePort();
    key = await make({
      slug: "desk",
      kind: "line",
      settings: { port },
      routes: [
        { when: { digits: "1" }, do: { phrase: "hall light in wren toggle" } },
        { when: { phrase: true }, do: { phrase: "{text}" } },
      ],
    });
    await poll(
      () => world.client.inlets(),
      (all) => all.find(({ slug }) => slug === "desk")?.up === true,
    );
  });

  async function session() {
    const socket: Socket = connect(port, "127.0.0.1");
    let text = "";
    let wake = () => {};
    socket.on("data", (piece) => {
      text += piece.toString();
      wake();
    });
    socket.on("close", () => wake());
    return {
      socket,
      /** Types, and resolves with all that came until this was among it. */
      async type(typed: string | Buffer, until: string): Promise<string> {
        text = "";
        socket.write(typed);
        while (!text.includes(until) && !socket.closed) await new Promise<void>((resolve) => (wake = resolve));
        return text;
      },
    };
  }

  it("are signed in with a key, and show what happens as it happens", async () => {
    const { type, socket } = await session();
    expect(await type("wrong\r\n", "Key: ")).toMatch(/Inlet desk/);
    expect(await type(`${key}\n`, "> ")).toMatch(/Signed in/);
    const told = await type("path lights in wren on\r", "> ");
    expect(told).toBe("accepted …\r\nPath lights, Wren → on: confirmed.\r\n> ");
    expect(await type("\r\n", "> ")).toMatch(/^Name a channel/);
    expect(await type(Buffer.from([255, 253, 1, 13, 10]), "> ")).toMatch(/^Name a channel/);
    expect(await type(`${"x".repeat(700)}\n`, "> ")).toMatch(/too long; nothing was done/);
    expect(await type("nonsense\n", "> ")).toMatch(/^Nothing was done: “nonsense”/);
    expect(await type("keys\n", "lines")).toMatch(/Every key is a command/);
    expect(await type("1", "confirmed.")).toMatch(/Hall light, Wren →/);
    expect(await type(Buffer.from([27]), "> ")).toMatch(/Lines again/);
    expect(await type("bye\n", "Bye")).toMatch(/Bye/);
    await poll(async () => socket.closed, Boolean);
  });

  it("let nobody guess", async () => {
    const { type, socket } = await session();
    await type("a\nb\nc\n", "never");
    expect(socket.closed).toBe(true);
  });
});

describe("a sheet", () => {
  it("acts once on each new command, and what stood there at the start is only noted", async () => {
    await world.ask("finch/path", "off");
    outside.sheet = `Channel,Want\n${world.site}/finch/path,on\n`;
    const slug = "sheet";
    const url = `http://${outside.place}/sheet.csv`;
    const key = await make({
      slug,
      kind: "sheet",
      settings: { url, everyS: 0.1, writeUrl: `http://${outside.place}/states` },
    });
    await outside.untilRead(2);
    expect(await isNow("finch/path")).toBe("off");
    outside.sheet = `\ufeffChannel , Want\r\n"${world.site}/finch/path","ON"\r\nfinch hall light,off\r\n`;
    await untilChannel(world.client, world.address("finch/path"), (one) => one.observed?.value === "on");
    await outside.untilRead(3);
    const view = (await world.client.inlets()).find((one) => one.slug === slug);
    expect(view).toMatchObject({ up: true, counts: { asked: 2, unmatched: 0 } });
    const put = () => outside.taken.findLast(({ path }) => path === "/states")?.body ?? "";
    await poll(
      async () => put(),
      (csv) => csv.includes(`${world.site}/finch/path,Path lights,Finch,on,`),
    );
    const csv = await fetch(`${world.service.url}/in/${slug}/states.csv`, {
      headers: { authorization: `Bearer ${key}` },
    });
    expect(await csv.text()).toMatch(/^address,name,room,is,agreement\n/);
    outside.sheet = "something,else\n1,2\n";
    await poll(
      () => world.client.inlets(),
      (all) => /no column “channel” and “want”/.test(all.find((one) => one.slug === slug)?.trouble ?? ""),
    );
    await world.client.removeInlet(slug);
  });

  it("calls nobody that is not named", async () => {
    await make({ slug: "far-sheet", kind: "sheet", settings: { url: "http://127.0.0.1:9/x.csv", everyS: 0.1 } });
    const all = await poll(
      () => world.client.inlets(),
      (inlets) => inlets.find(({ slug }) => slug === "far-sheet")?.up === false,
    );
    expect(all.find(({ slug }) => slug === "far-sheet")?.trouble).toMatch(
      /not among the hosts that may be called|not been read/,
    );
    await world.client.removeInlet("far-sheet");
  });
});

describe("a keypad", () => {
  let key: string;
  const press = async (call: string, digits?: string) =>
    (await post("phone", key, digits === undefined ? { call } : { call, digits })).body;
  const menu = {
    say: "One for lights, nine for the gate.",
    keys: {
      "1": {
        menu: {
          say: "One for on, two for off.",
          keys: { "1": { phrase: "path lights wren on" }, "2": { phrase: "path lights wren off" } },
        },
      },
      "9": { say: "Porch.", phrase: "porch lantern wren toggle" },
    },
  };
  beforeAll(async () => {
    key = await make({ slug: "phone", kind: "keypad", settings: { menu, pin: "2580" } });
  });

  it("asks for its PIN, walks its menus, and says what came of it", async () => {
    expect(await press("c1")).toEqual({ say: "Please enter your PIN, then the hash key.", end: false });
    expect(await press("c1", "2580#")).toEqual({ say: menu.say, end: false });
    expect((await press("c1", "1")).say).toBe("One for on, two for off.");
    expect((await press("c1", "1")).say).toBe(`Path lights, Wren → on: confirmed. ${menu.say}`);
    expect(await press("c1", "7")).toEqual({ say: `There is nothing on that key. ${menu.say}`, end: false });
    expect(await press("c1", "*")).toEqual({ say: "Goodbye.", end: true });
  });

  it("ends after wrong PINs, and does nothing without one", async () => {
    await press("c2");
    expect((await press("c2", "9")).say).toMatch(/not the PIN/);
    expect((await press("c2", "0000#")).end).toBe(false);
    expect(await press("c2", "1111#")).toEqual({ say: "That is not the PIN. Goodbye.", end: true });
  });

  it("never shows the PIN, and keeps it when the rest is changed", async () => {
    const { inlet, version } = await world.client.inlet("phone");
    expect(JSON.stringify(inlet)).not.toMatch(/2580|argon2/);
    await world.client.saveInlet({ ...inlet, name: "Phone" }, version);
    await press("c3");
    expect((await press("c3", "2580#")).say).toBe(menu.say);
  });
});

describe("any inlet", () => {
  it("is rehearsed: what would be sent, why it would not, and nothing happens", async () => {
    await wrenOff();
    const before = await world.client.deliveries({ limit: 1 });
    const view = await world.client.rehearse("chat", {
      arrival: { text: "porch lantern wren on", sender: "ana", room: "porch-room" },
    });
    expect(view).toMatchObject({
      would: "act",
      used: [
        { words: "porch lantern wren", gave: "Porch lantern, Wren" },
        { words: "on", gave: "on" },
      ],
      asks: [{ refusal: null, sends: [{ topic: `${world.address("wren/porch")}/do`, to: "on" }] }],
    });
    expect(view.asks[0]?.sends[0]?.payload).toMatch(/"to":"on"/);
    const stranger = await world.client.rehearse("chat", {
      arrival: { text: "porch lantern wren on", sender: "eve", room: "street" },
    });
    expect(stranger).toMatchObject({ would: "answer", asks: [] });
    const { inlet } = await world.client.inlet("hook");
    const routes = [{ when: { any: true as const }, do: { phrase: "everything in wren off" } }];
    const edited = await world.client.rehearse("hook", { inlet: { ...inlet, routes }, arrival: { fields: { a: 1 } } });
    expect(edited.asks[0]?.sends.map(({ channel }) => channel)).toEqual(
      ["porch", "hall", "path"].map((one) => world.address(`wren/${one}`)),
    );
    const lock = await world.client.lockOut({ target: world.address("wren/porch"), reason: "hands" });
    const locked = await world.client.rehearsePhrase("porch lantern in wren on");
    expect(locked.asks[0]?.refusal).toMatch(/locked/i);
    await world.client.release(lock.id, {});
    expect((await world.client.deliveries({ limit: 1 })).requests[0]?.id).toBe(before.requests[0]?.id);
  });

  it("is paused, slowed and removed", async () => {
    const key = await make({ slug: "slow", kind: "hook", perMinute: 2 });
    expect((await post("slow", key, "hello")).status).toBe(200);
    expect((await post("slow", key, "hello")).status).toBe(200);
    const flood = await post("slow", key, "hello");
    expect([flood.status, Number(flood.headers.get("retry-after")) > 0]).toEqual([429, true]);
    const { inlet, version } = await world.client.inlet("slow");
    await world.client.saveInlet({ ...inlet, paused: true }, version);
    expect((await post("slow", key, "hello")).body.code).toBe("inlet-paused");
    expect(await refusal(world.client.saveInlet(inlet, version))).toBe("changed-meanwhile");
    await world.client.removeInlet("slow");
    expect((await post("slow", key, "hello")).status).toBe(401);
    expect(await refusal(world.client.inlet("slow"))).toBe("not-found");
  });

  it.each([
    [{ kind: "pigeon" }, /must be one of \[web, hook/],
    [{ kind: "hook", routes: [{ when: { fields: { type: "x" } }, do: { ignore: true } }] }, /no JSON Pointer/],
    [
      { kind: "hook", routes: [{ when: { any: true }, do: { target: "nowhere", action: "on" } }] },
      /Nothing here is called “nowhere”/,
    ],
    [{ kind: "hook", routes: [{ when: { any: true }, do: { phrase: "{lamp} on" } }] }, /has a hole \{lamp\}/],
    [{ kind: "line", settings: {} }, /settings.port” is required/],
    [{ kind: "keypad", settings: { menu: { say: "x", keys: { "1": {} } } } }, /needs phrase or menu/],
    [{ kind: "chat", surprise: 1 }, /surprise” is not allowed/],
    [{ kind: "topic", routes: [] }, /needs a route with a topic/],
    [{ kind: "topic", routes: [{ when: { topic: "a/#/b" }, do: { ignore: true } }] }, /is a topic filter/],
  ])("is refused with what is wrong and where: %j", async (draft, words) => {
    const inlet = { slug: "odd", name: "Odd", site: world.site, ...draft } as unknown as InletDescription;
    await expect(world.client.saveInlet(inlet, 0)).rejects.toThrow(words);
  });

  it("says a member's own phrase", async () => {
    const { reply, outcome } = await world.client.say("path lights in finch off", 10);
    expect([outcome, reply]).toEqual(["complete", "Path lights, Finch → off: confirmed."]);
  });
});
