/** Inlets with a connection or a port of their own, and what holds for any: rehearsed, paused, slowed, checked. */
import { once } from "node:events";
import { connect, type Socket } from "node:net";
import type { InletDescription } from "@bold-relay/core";
import { freePort } from "@bold-relay/rig";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { createInletWorld, type InletWorld } from "./support/inlets.ts";
import { poll, refusal, untilChannel } from "./support/until.ts";
import type { World } from "./support/world.ts";

let inlets: InletWorld;
let world: World;

beforeAll(async () => {
  inlets = await createInletWorld();
  world = inlets.world;
});
afterAll(() => inlets.stop());

describe("a topic", () => {
  beforeAll(async () => {
    await inlets.make({
      slug: "buttons",
      kind: "topic",
      routes: [
        {
          when: { topic: `${world.site}-buttons/{cottage}/{lamp}` },
          do: {
            target: "{cottage}/{lamp}",
            action: "{payload}",
            map: { payload: { table: { "1": "on", "0": "off", press: "toggle" } } },
          },
        },
      ],
    });
    await inlets.untilUp("buttons");
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
    const counts = async () => (await world.client.inlets()).find(({ slug }) => slug === "buttons")?.counts.day.asked;
    const asked = await counts();
    const { inlet, version } = await world.client.inlet("buttons");
    await world.client.saveInlet({ ...inlet, name: "Buttons anew" }, version);
    await inlets.untilUp("buttons");
    await publisher.publishAsync(topic, "0", { qos: 1 });
    await untilChannel(world.client, world.address("wren/hall"), (one) => one.observed?.value === "off");
    // One more, and not the one that was kept: counts outlive a change of the inlet.
    expect([asked, await counts()]).toEqual([3, 4]);
    await publisher.publishAsync(topic, "", { retain: true });
  });

  it("withholds its acknowledgement until it is durable, and does what comes again once", async () => {
    await world.ask("wren/path", "off");
    const publisher = await world.listener();
    const holder = await world.pool.connect();
    await holder.query("begin");
    await holder.query("lock table open_command in access exclusive mode");
    await publisher.publishAsync(`${world.site}-buttons/wren/path`, "press", { qos: 1 });
    // It gave up waiting and connects anew, so that the broker hands it over once more.
    const isUp = async (up: boolean) =>
      poll(
        () => world.client.inlets(),
        (all) => all.find(({ slug }) => slug === "buttons")?.up === up,
      );
    await isUp(false);
    await isUp(true);
    await holder.query("rollback");
    holder.release();
    await untilChannel(world.client, world.address("wren/path"), (one) => one.observed?.value === "on");
    const asked = async () => {
      const { requests } = await world.client.log({ channel: world.address("wren/path"), limit: 10 });
      return requests.filter(({ inlet }) => inlet === "buttons").length;
    };
    // One more message behind it: when that is done, whatever came again has been too.
    await publisher.publishAsync(`${world.site}-buttons/wren/hall`, "press", { qos: 1 });
    await poll(
      () => world.client.log({ channel: world.address("wren/hall"), limit: 1 }),
      ({ requests }) => requests[0]?.inlet === "buttons" && requests[0]?.outcome === "delivered",
    );
    expect(await asked()).toBe(1);
  }, 60_000);

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
    key = await inlets.make({
      slug: "desk",
      kind: "line",
      settings: { port },
      routes: [
        { when: { digits: "1" }, do: { phrase: "hall light in wren toggle" } },
        { when: { phrase: true }, do: { phrase: "{text}" } },
      ],
    });
    await inlets.untilUp("desk");
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
    expect(await type(`${"x".repeat(700)}\n`, "> ")).toMatch(/too long\. Nothing was sent/);
    expect(await type("nonsense\n", "> ")).toMatch(/^Nothing was done: “nonsense”/);
    expect(await type("keys\n", "ends this")).toMatch(/Every key is a command/);
    expect(await type("1", "confirmed.")).toMatch(/Hall light, Wren →/);
    expect(await type(Buffer.from([27]), "> ")).toMatch(/Phrases again/);
    expect(await type("bye\n", "Bye")).toMatch(/Bye/);
    await poll(async () => socket.closed, Boolean);
  });

  it("are answered when the caller has closed its own side at once", async () => {
    const socket = connect(port, "127.0.0.1");
    let text = "";
    socket.on("data", (piece) => (text += piece.toString()));
    socket.end(`${key}\npath lights in wren off\n`);
    await once(socket, "close");
    expect(text).toContain("Path lights, Wren → off: confirmed.");
  });

  it("end when their key is taken back", async () => {
    const { key: own } = await world.client.addKey({ name: "short", inlet: "desk" });
    const { type, socket } = await session();
    await type("", "Key: ");
    expect(await type(`${own}\n`, "> ")).toMatch(/Signed in/);
    const mine = (await world.client.keys()).find(({ name }) => name === "short");
    await world.client.revokeKey(mine?.id ?? 0);
    expect(await type("what is on in wren?\n", "valid")).toMatch(/^Your key is no longer valid/);
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
    inlets.outside.sheet = `Channel,Want\n${world.site}/finch/path,on\n`;
    const slug = "sheet";
    const url = `http://${inlets.outside.place}/sheet.csv`;
    const key = await inlets.make({
      slug,
      kind: "sheet",
      settings: { url, everyS: 0.1, writeUrl: `http://${inlets.outside.place}/states` },
    });
    await inlets.outside.untilRead(2);
    expect(await inlets.isNow("finch/path")).toBe("off");
    inlets.outside.sheet = `\ufeffChannel , Want\r\n"${world.site}/finch/path","ON"\r\nfinch hall light,off\r\n`;
    await untilChannel(world.client, world.address("finch/path"), (one) => one.observed?.value === "on");
    await inlets.outside.untilRead(3);
    const view = (await world.client.inlets()).find((one) => one.slug === slug);
    expect(view).toMatchObject({ up: true, counts: { day: { asked: 2, notUnderstood: 0 } } });
    const put = () => inlets.outside.taken.findLast(({ path }) => path === "/states")?.body ?? "";
    await poll(
      async () => put(),
      (csv) => csv.includes(`${world.site}/finch/path,Path lights,Finch,on,`),
    );
    const csv = await fetch(`${world.service.url}/in/${slug}/states.csv`, {
      headers: { authorization: `Bearer ${key}` },
    });
    expect(await csv.text()).toMatch(/^address,name,room,is,agreement,stale,asOf\n/);
    // Of a board that is gone it tells the last word, as what it is.
    const board = await world.board("finch");
    await board.setFault("unplugged");
    await poll(
      async () => put(),
      (body) => /finch\/path,Path lights,Finch,on \(offline\),\w+,offline,\d{4}-\d\d-\d\dT/.test(body),
    );
    await board.setFault("none");
    inlets.outside.sheet = "something,else\n1,2\n";
    await poll(
      () => world.client.inlets(),
      (all) => /no column “channel” and “want”/.test(all.find((one) => one.slug === slug)?.trouble ?? ""),
    );
    await world.client.removeInlet(slug);
  });

  it("calls nobody that is not named", async () => {
    await inlets.make({ slug: "far-sheet", kind: "sheet", settings: { url: "http://127.0.0.1:9/x.csv", everyS: 0.1 } });
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

describe("any inlet", () => {
  beforeAll(async () => {
    await inlets.make({ slug: "chat", kind: "chat", senders: ["porch-room/*"] });
    await inlets.make({ slug: "hook", kind: "hook" });
  });

  it("is rehearsed: what would be sent, why it would not, and nothing happens", async () => {
    await world.ask("wren/porch", "off");
    const before = await world.client.log({ limit: 1 });
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
    const asked = { target: "porch lantern, wren", action: "on" };
    expect((await world.client.rehearseAsk(asked)).sends).toMatchObject([
      { to: "on", topic: `${world.address("wren/porch")}/do` },
    ]);
    expect(await world.client.rehearseAsk({ ...asked, action: "jump" })).toMatchObject({
      sends: [],
      refusal: expect.stringMatching(/does not take “jump”/),
    });
    const lock = await world.client.lockOut({ target: world.address("wren/porch"), reason: "hands" });
    expect((await world.client.rehearseAsk(asked)).refusal).toMatch(/locked/i);
    const locked = await world.client.rehearsePhrase("porch lantern in wren on");
    expect(locked.asks[0]?.refusal).toMatch(/locked/i);
    await world.client.release(lock.id, {});
    expect((await world.client.log({ limit: 1 })).requests[0]?.id).toBe(before.requests[0]?.id);
  });

  it("is paused, slowed and removed", async () => {
    const key = await inlets.make({ slug: "slow", kind: "hook", perMinute: 2 });
    expect((await inlets.post("slow", key, "hello")).status).toBe(200);
    expect((await inlets.post("slow", key, "hello")).status).toBe(200);
    const flood = await inlets.post("slow", key, "hello");
    expect([flood.status, Number(flood.headers.get("retry-after")) > 0]).toEqual([429, true]);
    expect(flood.body).toMatchObject({
      code: "rate-exceeded",
      detail: expect.stringContaining("Inlet slow accepts 2"),
    });
    const { inlet, version } = await world.client.inlet("slow");
    await world.client.saveInlet({ ...inlet, paused: true }, version);
    expect((await inlets.post("slow", key, "hello")).body.code).toBe("inlet-paused");
    expect(await refusal(world.client.saveInlet(inlet, version))).toBe("changed-meanwhile");
    await world.client.removeInlet("slow");
    expect((await inlets.post("slow", key, "hello")).status).toBe(401);
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
    expect([outcome, reply]).toEqual(["delivered", "Path lights, Finch → off: confirmed."]);
  });
});

describe("typed keys", () => {
  let port: number;
  let key: string;
  beforeAll(async () => {
    port = await freePort();
    key = await inlets.make({ slug: "guarded", kind: "line", settings: { port } });
    await inlets.untilUp("guarded");
  });

  /** All that is heard until the other side hangs up. */
  function converse(typed: string): Promise<string> {
    return new Promise((resolve) => {
      let text = "";
      const socket = connect(port, "127.0.0.1", () => socket.write(typed));
      socket.on("data", (piece) => {
        text += piece.toString();
      });
      socket.on("error", () => {});
      socket.on("close", () => resolve(text));
    });
  }

  it("are heard no more from an address that has shown too many wrong ones, for a while", async () => {
    expect(await converse(`${key}\r\nbye\r\n`)).toContain("Signed in");
    const heard: string[] = [];
    for (let turn = 0; turn < 6; turn += 1) heard.push(await converse("a guess\r\nanother\r\nand more\r\n"));
    expect(heard[0]).toContain("That is not a key of this inlet.");
    expect(heard.at(-1)).toContain("wrong keys from your address");
    // Not even with the right one: else the answer would tell which it is.
    expect(await converse(`${key}\r\nbye\r\n`)).not.toContain("Signed in");
  });
});
