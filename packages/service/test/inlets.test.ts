/** Inlets that come in over HTTP: asked, answered with the truth, and closed to whoever may not. */
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { signatureOf } from "../src/index.ts";
import { createInletWorld, type InletWorld } from "./support/inlets.ts";
import { refusal } from "./support/until.ts";
import type { World } from "./support/world.ts";

let inlets: InletWorld;
let world: World;

beforeAll(async () => {
  inlets = await createInletWorld();
  world = inlets.world;
});
afterAll(() => inlets.stop());

describe("a hook", () => {
  let key: string;
  beforeAll(async () => {
    key = await inlets.make({
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
    const { status, body } = await inlets.post("hook", key, { type: "Arrived", cottage: "Wren" });
    expect([status, body.outcome]).toEqual([200, "delivered"]);
    expect(body.reply).toBe("Porch lantern, Wren → on: confirmed.");
    expect(body.requests[0]).toMatchObject({
      asker: "Inlet hook",
      said: { route: 1, used: [{ words: "booking system" }] },
    });
  });

  it("says a route's own words only once all of it is done", async () => {
    const slug = "guests";
    const routes = [{ when: { any: true as const }, do: { phrase: "porch lantern finch on" }, reply: "Welcome!" }];
    const guests = await inlets.make({ slug, kind: "hook", routes });
    expect((await inlets.post(slug, guests, {})).body.reply).toBe("Welcome!");
    const finch = await world.board("finch");
    await finch.setFault("refusing");
    expect((await inlets.post(slug, guests, {})).body.reply).toMatch(
      /^Porch lantern, Finch → on: refused by the device/,
    );
    await finch.setFault("none");
    const lock = await world.client.lockOut({ target: world.address("finch/porch"), reason: "hands" });
    const refused = await inlets.post(slug, guests, {});
    expect([refused.status, refused.body.outcome]).toEqual([422, "refused"]);
    expect(refused.body.reply).toMatch(/^Nothing was done: .*locked/);
    await world.client.release(lock.id);
  });

  it("maps what comes by thresholds", async () => {
    expect((await inlets.post("hook", key, { knob: 700 })).body.outcome).toBe("delivered");
    expect(await inlets.isNow("wren/hall")).toBe("on");
    expect((await inlets.post("hook", key, { knob: 3 })).body.outcome).toBe("delivered");
    expect(await inlets.isNow("wren/hall")).toBe("off");
    const odd = await inlets.post("hook", key, { knob: "many" });
    expect([odd.status, odd.body.reply]).toEqual([422, "Nothing was done: “many” means nothing here."]);
  });

  it("takes a form, a text, and CloudEvents in both ways of writing them", async () => {
    const form = await inlets.post("hook", key, "type=arrived&cottage=finch", {
      "content-type": "application/x-www-form-urlencoded",
    });
    expect(form.body.outcome).toBe("delivered");
    expect((await inlets.post("hook", key, "hall light in finch on")).body.outcome).toBe("delivered");
    const ce = { "ce-specversion": "1.0", "ce-id": "a1", "ce-source": "/booking", "ce-type": "x" };
    const slug = "events";
    const events = await inlets.make({
      slug,
      kind: "hook",
      routes: [
        { when: { fields: { "/type": "x", "/data/lamp": "{lamp}" } }, do: { target: "wren/{lamp}", action: "toggle" } },
      ],
    });
    const binary = await inlets.post(slug, events, { lamp: "path" }, ce);
    expect(binary.body.outcome).toBe("delivered");
    // The same event again, written the other way: nothing is done a second time.
    const structured = await inlets.post(
      slug,
      events,
      { specversion: "1.0", id: "a1", source: "/booking", type: "x", data: { lamp: "path" } },
      { "content-type": "application/cloudevents+json" },
    );
    expect(structured.body.requests[0]?.id).toBe(binary.body.requests[0]?.id);
  });

  it("ignores on purpose, and says when nothing catches what came", async () => {
    expect((await inlets.post("hook", key, { type: "ping" })).body).toMatchObject({ outcome: "ignored", reply: "" });
    const none = await inlets.post("hook", key, { type: "what" });
    expect([none.status, none.body.outcome]).toEqual([422, "not-understood"]);
    const { requests } = await world.client.log({ limit: 1 });
    expect(requests[0]).toMatchObject({
      outcome: "not-understood",
      refusal: { code: "no-route" },
      said: { words: '{"type":"what"}' },
    });
  });

  it("checks signatures, their age, and does a replayed message once", async () => {
    const { secret } = await world.client.makeSecret("hook");
    const body = JSON.stringify({ type: "arrived", cottage: "wren" });
    const now = Math.floor(Date.now() / 1000);
    const signed = (id: string, at: number, text = body) =>
      inlets.post("hook", null, body, {
        "content-type": "application/json",
        "webhook-id": id,
        "webhook-timestamp": String(at),
        "webhook-signature": `v1,wrong ${signatureOf(secret, id, at, text)}`,
      });
    const first = await signed("msg_1", now);
    expect([first.status, first.body.outcome]).toEqual([200, "delivered"]);
    expect((await signed("msg_1", now)).body.requests[0]?.id).toBe(first.body.requests[0]?.id);
    expect((await signed("msg_2", now - 400)).status).toBe(401);
    expect((await signed("msg_3", now, `${body} `)).status).toBe(401);
    expect((await inlets.post("hook", "brk_nothing", {})).status).toBe(401);
    expect((await inlets.post("no-such-inlet", key, {})).status).toBe(401);
  });
});

describe("a link for people", () => {
  it("shows a button, acts when it is pressed, and ends", async () => {
    await world.ask("wren/porch", "off");
    await inlets.make({ slug: "links", kind: "hook" });
    expect(await refusal(world.client.makeLink("links", { phrase: "porch lantern wren on" }))).toBe("bad-request");
    await world.client.makeSecret("links");
    expect(await refusal(world.client.makeLink("links", { phrase: "porch lantern on" }))).toBe("not-understood");
    const { path } = await world.client.makeLink("links", { phrase: "porch lantern wren on", hours: 1 });
    const [address = "", token = ""] = (world.service.url + path).split("#");
    const by = (method: string, shown = token) =>
      fetch(address, { method, headers: { authorization: `Bearer ${shown}` } });
    // Whoever fetches the address to show a preview learns nothing, and switches nothing.
    expect(await (await fetch(address)).text()).not.toMatch(/porch|Inlet links/i);
    expect((await fetch(address, { method: "POST" })).status).toBe(401);
    expect(await (await by("GET")).json()).toMatchObject({ name: "Inlet links", phrase: "porch lantern wren on" });
    expect(await inlets.isNow("wren/porch")).toBe("off");
    expect(await (await by("POST")).json()).toEqual({ reply: "Porch lantern, Wren → on: confirmed." });
    expect(await inlets.isNow("wren/porch")).toBe("on");
    expect((await by("GET", `${token}x`)).status).toBe(401);
    await world.client.makeSecret("links");
    expect((await by("POST")).status).toBe(401);
  });

  it("of an older version, with its token in the path, still works", async () => {
    await inlets.make({ slug: "older", kind: "hook" });
    await world.client.makeSecret("older");
    const { path } = await world.client.makeLink("older", { phrase: "porch lantern wren off", hours: 1 });
    const url = world.service.url + path.replace("#", "/");
    expect(await (await fetch(url)).text()).toMatch(/<form method="post"><button>porch lantern wren off<\/button>/);
    expect(await (await fetch(url, { method: "POST" })).text()).toMatch(/Porch lantern, Wren → off: confirmed\./);
  });

  it("does what its phrase says, whatever the routes of its inlet are for", async () => {
    await world.ask("wren/porch", "off");
    const routes = [{ when: { fields: { "/type": "arrived" } }, do: { phrase: "hall light in wren on" } }];
    await inlets.make({ slug: "arrivals", kind: "hook", routes });
    await world.client.makeSecret("arrivals");
    const { path } = await world.client.makeLink("arrivals", { phrase: "porch lantern wren on", hours: 1 });
    const [address = "", token = ""] = (world.service.url + path).split("#");
    const said = await (await fetch(address, { method: "POST", headers: { authorization: `Bearer ${token}` } })).text();
    expect(said).toMatch(/Porch lantern, Wren → on: confirmed\./);
  });
});

describe("a call", () => {
  let key: string;
  beforeAll(async () => {
    key = await inlets.make({ slug: "cloud", kind: "call" });
  });

  it("is answered with the device's own code and words, whatever the argument's case and spaces", async () => {
    const { status, body } = await inlets.post("cloud/wren/path", key, "  On ");
    expect([status, body]).toEqual([
      200,
      { code: 1, words: "Path lights, Wren → on: confirmed.", outcome: "delivered" },
    ]);
    const named = await inlets.post("cloud/path%20lights%20wren", key, { argument: "OFF" });
    expect(named.body).toMatchObject({ code: 1, outcome: "delivered" });
    const form = await inlets.post("cloud/wren/path", key, "arg=on", {
      "content-type": "application/x-www-form-urlencoded",
    });
    expect(form.body.code).toBe(1);
  });

  it("has the device's code when it refuses, and the valid arguments when it is not understood", async () => {
    const finch = await world.board("finch");
    await finch.setFault("refusing");
    expect((await inlets.post("cloud/finch/path", key, "on")).body).toMatchObject({
      code: 4,
      outcome: "not-delivered",
    });
    await finch.setFault("none");
    const odd = await inlets.post("cloud/wren/path", key, "fast");
    expect([odd.status, odd.body.code]).toEqual([422, -1]);
    expect(odd.body.words).toBe(
      "Nothing was done: “fast” is no name and no word that is known here. Did you mean “on”, “off”, “toggle”, “back”?",
    );
    expect(
      (await inlets.post("cloud/wren/path", key, "ON", { "content-type": "application/x-www-form-urlencoded" })).body
        .code,
    ).toBe(1);
    expect((await inlets.post("cloud/wren/path", key, "half")).body.words).toMatch(
      /It takes “on”, “off”, “toggle”, “back”/,
    );
  });
});

describe("a chat", () => {
  let key: string;
  const say = (text: string, sender = "ana", room = "porch-room") => inlets.post("chat", key, { text, sender, room });
  beforeAll(async () => {
    key = await inlets.make({
      slug: "chat",
      kind: "chat",
      senders: ["porch-room/*", "*/ines"],
      synonyms: { "fairy lights": "path lights wren" },
      replies: { greeting: "Hello {sender}, try “{example}”." },
      settings: { replyUrl: `http://${inlets.outside.place}/said` },
    });
  });

  it("does what is said, and tells the outcome in the answer and in the room", async () => {
    await world.ask("wren/porch", "off");
    const { body } = await say("Please turn on the porch lantern in Wren!");
    expect(body).toMatchObject({ outcome: "delivered", reply: "Porch lantern, Wren → on: confirmed." });
    await inlets.outside.untilTaken(1);
    expect(JSON.parse(inlets.outside.taken[0]?.body ?? "")).toEqual({
      room: "porch-room",
      to: "ana",
      text: body.reply,
    });
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
    expect((await say("wren", "bo")).body.outcome).toBe("not-understood");
    expect((await say("wren")).body).toMatchObject({ reply: "Porch lantern, Wren → off: confirmed." });
  });

  it("greets, helps, answers, and knows the team's own words", async () => {
    expect((await say("hello")).body.reply).toBe("Hello ana, try “porch lantern in Wren on”.");
    expect((await say("help")).body.reply).toMatch(/^Name a channel/);
    expect((await say("fairy lights on")).body.reply).toBe("Path lights, Wren → on: confirmed.");
    expect((await say("are the fairy lights on?")).body.reply).toBe("Yes. Path lights, Wren: on.");
    expect((await say("what is on in wren?")).body.reply).toMatch(/Path lights, Wren: on\./);
  });

  it("switches nothing for an unknown sender, nor for a friend in another room", async () => {
    await world.ask("wren/porch", "off");
    const before = await world.client.log({ limit: 1 });
    for (const [sender, room] of [
      ["ana", "street"],
      ["", "street"],
      ["ana", "porch-room/.."],
    ] as const) {
      const { body } = await say("porch lantern wren on", sender, room);
      expect(body).toMatchObject({ outcome: "unknown-sender", requests: [] });
      expect(body.reply).toMatch(/^Sorry/);
    }
    expect((await world.client.log({ limit: 1 })).requests[0]?.id).toBe(before.requests[0]?.id);
    expect(await inlets.isNow("wren/porch")).toBe("off");
    expect((await say("porch lantern wren on", "ines", "street")).body.outcome).toBe("delivered");
    const view = (await world.client.inlets()).find(({ slug }) => slug === "chat");
    expect(view?.counts.day.unknownSenders).toBe(3);
  });

  it("keeps what it did not understand, with the nearest that there is", async () => {
    const { body } = await say("porch lantren wren on");
    expect(body.outcome).toBe("not-understood");
    expect(body.reply).toMatch(/“porch lantren” is no name and no word that is known here. Did you mean/);
    const { requests } = await world.client.log({ limit: 1 });
    expect(requests[0]).toMatchObject({
      asker: "ana",
      refusal: { code: "not-understood" },
      target: "porch lantren wren on",
    });
  });
});

describe("a keypad", () => {
  let key: string;
  const press = async (call: string, digits?: string) =>
    (await inlets.post("phone", key, digits === undefined ? { call } : { call, digits })).body;
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
    key = await inlets.make({ slug: "phone", kind: "keypad", settings: { menu, pin: "2580" } });
  });

  it("asks for its PIN, walks its menus, and says what came of it", async () => {
    expect(await press("c1")).toEqual({ say: "Please enter your PIN, then the hash key.", end: false });
    expect(await press("c1", "2580#")).toEqual({ say: menu.say, end: false });
    expect((await press("c1", "1")).say).toBe("One for on, two for off.");
    expect((await press("c1", "1")).say).toBe(`Path lights, Wren, on: confirmed. ${menu.say}`);
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

  it("counts PINs before it looks at them: many calls at once have no more tries", async () => {
    key = await inlets.make({ slug: "guessed", kind: "keypad", settings: { menu, pin: "9876" } });
    const dial = async (call: string, digits?: string) =>
      String((await inlets.post("guessed", key, { call, ...(digits ? { digits } : {}) })).body.say);
    const calls = Array.from({ length: 40 }, (_, index) => `guess-${index}`);
    await Promise.all(calls.map((call) => dial(call)));
    const said = await Promise.all(calls.map((call, index) => dial(call, `${1000 + index}#`)));
    expect(said.filter((say) => say.includes("not the PIN")).length).toBeLessThanOrEqual(20);
    expect(said.filter((say) => say.includes("Too many wrong PINs")).length).toBeGreaterThanOrEqual(20);
  });

  it("shuts out the caller who guesses, and not who has shown the right PIN before, however many guess", async () => {
    key = await inlets.make({
      slug: "many",
      kind: "keypad",
      perMinute: 6_000,
      settings: { menu, pin: "9876", wrongKeys: 3 },
    });
    let serial = 0;
    const dial = async (caller: string | null, pin: string) => {
      serial += 1;
      const call = `call-${serial}`;
      const from = caller === null ? {} : { caller };
      await inlets.post("many", key, { call, ...from });
      return String((await inlets.post("many", key, { call, digits: `${pin}#`, ...from })).body.say);
    };
    expect(await dial("01632 960 001", "9876")).toBe(menu.say);
    for (let turn = 0; turn < 12; turn += 1) await dial("01632 960 002", "1111");
    expect(await dial("01632 960 002", "9876")).toContain("Too many wrong PINs");
    expect(await dial("01632 960 003", "9876")).toBe(menu.say);
    for (let caller = 0; caller < 12; caller += 1)
      for (let turn = 0; turn < 6; turn += 1) await dial(`hidden ${caller}`, "1111");
    expect(await dial("01632 960 009", "9876")).toContain("Too many wrong PINs");
    expect([await dial("01632 960 001", "9876"), await dial("01632 960 003", "9876")]).toEqual([menu.say, menu.say]);
  });
});
