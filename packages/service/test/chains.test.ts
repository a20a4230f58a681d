/** A request's whole chain: the caller's trace in and out, what was said back, circles broken, past arrivals, trying for real. */
import type { TraceView } from "@bold-relay/api";
import { freePort } from "@bold-relay/rig";
import type { MqttClient } from "mqtt";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { createInletWorld, type InletWorld } from "./support/inlets.ts";
import { poll, refusal, untilChannel } from "./support/until.ts";
import type { World } from "./support/world.ts";

const TRACE = "4bf92f3577b34da6a3ce929d0e0e4736";
const CAME = `00-${TRACE}-00f067aa0ba902b7-00`;

let inlets: InletWorld;
let world: World;
let listener: MqttClient;

beforeAll(async () => {
  inlets = await createInletWorld();
  world = inlets.world;
  listener = await world.listener();
});
afterAll(() => inlets.stop());

/** The next message on a topic, once somebody listens there. */
async function next(topic: string): Promise<() => Promise<{ payload: string; properties: Record<string, unknown> }>> {
  await listener.subscribeAsync(topic, { qos: 1 });
  const heard = new Promise<{ payload: string; properties: Record<string, unknown> }>((resolve) => {
    listener.on("message", (on, payload, { properties = {} }) => {
      if (on === topic) resolve({ payload: payload.toString(), properties: properties as Record<string, unknown> });
    });
  });
  return () => heard.finally(() => listener.unsubscribeAsync(topic));
}

async function traceWithReplies(id: string, count: number): Promise<TraceView> {
  return poll(
    () => world.client.trace(id),
    ({ replies }) => replies.length >= count,
  );
}

async function newestOf(inlet: string) {
  const { requests } = await world.client.log({ limit: 20 });
  return requests.find((one) => one.inlet === inlet);
}

describe("the trace of a caller", () => {
  it("goes on with the command, and is told with the request", async () => {
    const key = await inlets.make({ slug: "traced", kind: "call" });
    const sent = await next(world.address("wren/porch/do"));
    const answer = await inlets.post("traced/wren%2Fporch", key, "on", { traceparent: CAME });
    expect(answer.body).toMatchObject({ outcome: "delivered" });
    const { properties } = await sent();
    expect(properties.userProperties).toMatchObject({
      traceparent: expect.stringMatching(new RegExp(`^00-${TRACE}-[0-9a-f]{16}-00$`)),
    });
    const request = await newestOf("traced");
    expect(await world.client.trace(request?.id ?? "")).toMatchObject({ traceparent: CAME, traceId: TRACE });
  });

  it("is the request's own where the caller has none, or one that cannot be", async () => {
    const sent = await next(world.address("wren/porch/do"));
    const response = await fetch(`${world.service.url}/api/v1/requests`, {
      method: "POST",
      headers: {
        authorization: `Bearer ${world.key}`,
        "content-type": "application/json",
        prefer: "wait=10",
        traceparent: `00-${"0".repeat(32)}-00f067aa0ba902b7-01`,
      },
      body: JSON.stringify({ target: world.address("wren/porch"), action: "off" }),
    });
    const { id } = (await response.json()) as { id: string };
    const { properties } = await sent();
    const own = id.replaceAll("-", "");
    expect(properties.userProperties).toMatchObject({ traceparent: expect.stringContaining(`00-${own}-`) });
    expect(await world.client.trace(id)).toMatchObject({ traceparent: null, traceId: own });
  });
});

describe("what was said back", () => {
  it("is in the trace: the answer to a call, and a refusal of it", async () => {
    const key = await inlets.make({ slug: "said", kind: "hook", settings: { text: "/text" } });
    await inlets.post("said", key, { text: "hall light in wren on" });
    const done = await traceWithReplies((await newestOf("said"))?.id ?? "", 1);
    expect(done.replies).toMatchObject([{ how: "answer", taken: true, why: null }]);
    expect(done.replies[0]?.said).toContain("on");
    await inlets.post("said", key, { text: "hall light in nowhere on" });
    const wrong = await traceWithReplies((await newestOf("said"))?.id ?? "", 1);
    expect(wrong).toMatchObject({ outcome: "not-understood", replies: [{ how: "answer", taken: true }] });
  });

  it("says when the address for replies did not take it", async () => {
    const port = await freePort();
    const key = await inlets.make({
      slug: "deaf",
      kind: "chat",
      senders: ["*"],
      settings: { replyUrl: `http://127.0.0.1:${port}/nobody` },
    });
    await inlets.post("deaf", key, { text: "hall light in wren off", sender: "ana", room: "porch-room" });
    const { replies } = await traceWithReplies((await newestOf("deaf"))?.id ?? "", 2);
    expect(replies).toMatchObject([{ how: "answer" }, { how: "post", taken: false }]);
    expect(replies[1]?.why).toContain("not among the hosts");
  });
});

describe("a topic", () => {
  const topic = (lamp: string) => `${world.site}-panel/${lamp}`;
  beforeAll(async () => {
    await inlets.make({
      slug: "panel",
      kind: "topic",
      settings: { answer: true },
      routes: [
        {
          when: {
            topic: `${world.site}-panel/{lamp}`,
            payload: { kind: "relay", form: { form: "bytes", do: "A0 {value} {sum}", words: { on: 1, off: 0 } } },
          },
          do: { target: "wren/{lamp}", action: "{action}" },
        },
        { when: { topic: `${world.site}-panel/{lamp}` }, do: { phrase: "{lamp} light in wren {payload}" } },
      ],
    });
    await inlets.untilUp("panel");
  });

  it("reads payloads of any form, and says what they were when they were no text", async () => {
    await world.ask("wren/hall", "off");
    await listener.publishAsync(topic("hall"), Buffer.from([0xa0, 0x01, 0xa1]), { qos: 1 });
    await untilChannel(world.client, world.address("wren/hall"), (one) => one.observed?.value === "on");
    const request = await newestOf("panel");
    expect(request?.said).toMatchObject({ route: 1, arrival: { hex: "a001a1" } });
    const view = await world.client.rehearse("panel", { arrival: { topic: topic("hall"), hex: "a000a0" } });
    expect(view).toMatchObject({ would: "act", route: 1, asks: [{ action: "off" }] });
    // A wrong sum is no such payload, and the next route has its turn.
    const odd = await world.client.rehearse("panel", { arrival: { topic: topic("hall"), hex: "a000a1" } });
    expect(odd).toMatchObject({ would: "answer" });
  });

  it("answers where its publisher asks to be answered, and nowhere that a device listens", async () => {
    const answered = await next(`${world.site}-answers`);
    const properties = { responseTopic: `${world.site}-answers`, correlationData: Buffer.from("7") };
    await listener.publishAsync(topic("hall"), "off", { qos: 1, properties });
    const answer = await answered();
    expect(JSON.parse(answer.payload)).toMatchObject({ outcome: "delivered" });
    expect(String(answer.properties.correlationData)).toBe("7");

    const before = (await newestOf("panel"))?.id;
    const harmful = { responseTopic: world.address("wren/porch/do") };
    await listener.publishAsync(topic("hall"), "on", { qos: 1, properties: harmful });
    const request = await poll(
      () => newestOf("panel"),
      (one) => one !== undefined && one.id !== before,
    );
    const { replies } = await traceWithReplies(request?.id ?? "", 1);
    expect(replies).toMatchObject([{ how: "topic", taken: false }]);
    expect(replies[0]?.why).toContain("belongs to the device");
  });

  it("breaks a circle: a trace that comes by again and again is refused", async () => {
    const properties = { userProperties: { traceparent: CAME } };
    for (const word of ["on", "off", "on", "off"])
      await listener.publishAsync(topic("hall"), word, { qos: 1, properties });
    const round = await poll(
      () => newestOf("panel"),
      (one) => one?.refusal !== null,
    );
    expect(round).toMatchObject({ outcome: "refused", refusal: { code: "going-round" } });
  });

  it("takes a burst at once, in the order in which it came", async () => {
    const burst = 300;
    const asked = async () => (await world.client.inlets()).find(({ slug }) => slug === "panel")?.counts.day.asked ?? 0;
    const before = await asked();
    await Promise.all(
      Array.from({ length: burst }, (_, index) =>
        listener.publishAsync(topic("hall"), index % 2 === 0 ? "off" : "on", { qos: 1 }),
      ),
    );
    await poll(asked, (count) => count === before + burst);
    // The last one wins: nothing overtook it.
    await untilChannel(
      world.client,
      world.address("wren/hall"),
      (one) => one.observed?.value === "on" && one.lastCommand?.end === "delivered",
    );
  });
});

describe("a route for people with a role", () => {
  it("leaves others to the routes after it", async () => {
    const key = await inlets.make({
      slug: "roles",
      kind: "chat",
      senders: ["porch-room/*"],
      roles: { "porch-room/ana": "engineer" },
      routes: [
        { when: { words: "all dark" }, only: { role: "engineer" }, do: { phrase: "porch lantern in wren off" } },
        { when: { any: true }, do: { ignore: true } },
      ],
    });
    const say = (sender: string) => inlets.post("roles", key, { text: "all dark", sender, room: "porch-room" });
    expect((await say("ben")).body).toMatchObject({ outcome: "ignored" });
    expect((await say("ana")).body).toMatchObject({ outcome: "delivered" });
  });
});

describe("past arrivals", () => {
  it("are taken by an edited inlet, and only those that change are different", async () => {
    const key = await inlets.make({
      slug: "past",
      kind: "hook",
      routes: [
        { when: { fields: { "/type": "arrived" } }, do: { phrase: "porch lantern in wren on" } },
        { when: { fields: { "/type": "left" } }, do: { phrase: "porch lantern in wren off" } },
      ],
    });
    for (const type of ["arrived", "left", "what"]) await inlets.post("past", key, { type });
    const { inlet } = await world.client.inlet("past");
    const [first, ...others] = inlet.routes ?? [];
    const edited = { ...inlet, routes: [{ ...first, do: { phrase: "hall light in wren on" } }, ...others] };
    const before = await world.client.status();
    const past = await world.client.rehearsePast("past", { inlet: edited as typeof inlet });
    expect(past.arrivals.map(({ words, same }) => [words, same])).toEqual([
      ['{"type":"what"}', true],
      ['{"type":"left"}', true],
      ['{"type":"arrived"}', false],
    ]);
    expect(past.different).toBe(1);
    expect(past.arrivals[2]).toMatchObject({
      before: { does: ["Porch lantern, Wren → on"] },
      after: { does: ["Hall light, Wren → on"] },
    });
    expect((await world.client.status()).lastDay.requests).toBe(before.lastDay.requests);
  });
});

describe("trying for real", () => {
  const made = async (slug: string, body: Parameters<World["client"]["tryInlet"]>[1]) => {
    const trial = await world.client.tryInlet(slug, body);
    return { ...trial, first: trial.exchanges[0] };
  };

  it("goes through the socket of each kind over HTTP", async () => {
    const call = await inlets.make({ slug: "try-call", kind: "call" });
    const fields = { target: "wren/porch", argument: "on" };
    const called = await made("try-call", { arrival: { fields }, key: call });
    expect(called.first?.got).toMatch(/^200 .*"outcome":"delivered"/);
    expect(called.requests).toHaveLength(1);

    const chat = await inlets.make({ slug: "try-chat", kind: "chat", senders: ["*"], settings: { text: "/m/t" } });
    const chatted = await made("try-chat", {
      arrival: { text: "porch lantern in wren off", sender: "ana", room: "r" },
      key: chat,
    });
    expect(chatted.first?.sent).toContain('"m":{"t":"porch lantern in wren off"}');
    expect(chatted.first?.got).toMatch(/^200 .*"outcome":"delivered"/);

    const web = await inlets.make({ slug: "try-web", kind: "web" });
    const asked = { target: world.address("wren/hall"), action: "on" };
    expect((await made("try-web", { arrival: { fields: asked }, key: web })).first?.got).toMatch(/^200 /);

    await inlets.make({ slug: "try-hook", kind: "hook", settings: { text: "/text" } });
    const said = { fields: { text: "hall light in wren off" } };
    expect(await refusal(world.client.tryInlet("try-hook", { arrival: said }))).toBe("bad-request");
    await world.client.makeSecret("try-hook");
    expect((await made("try-hook", { arrival: said })).first?.got).toMatch(/^200 .*"outcome":"delivered"/);

    const menu = {
      say: "Lights.",
      keys: { "1": { menu: { say: "Hall.", keys: { "2": { phrase: "hall light in wren on" } } } } },
    };
    const keypad = await inlets.make({ slug: "try-keypad", kind: "keypad", settings: { menu } });
    const pressed = await made("try-keypad", { arrival: { digits: "12" }, key: keypad });
    expect(pressed.exchanges.map(({ got }) => got)).toEqual([
      expect.stringContaining("Lights."),
      expect.stringContaining("Hall."),
      expect.stringMatching(/on/),
    ]);
    expect(pressed.requests).toHaveLength(1);
    const rehearsed = await world.client.rehearse("try-keypad", { arrival: { digits: "12" } });
    expect(rehearsed).toMatchObject({ would: "act" });
  });

  it("goes through the lines, the broker and the sheet", async () => {
    const port = await freePort();
    const key = await inlets.make({ slug: "try-line", kind: "line", settings: { port } });
    await inlets.untilUp("try-line");
    const typed = await made("try-line", { arrival: { text: "hall light in wren off" }, key });
    expect(typed.first?.got).toContain("off");
    expect(typed.first?.got).not.toContain(key);
    expect(typed.requests).toHaveLength(1);

    const heard = await made("panel", { arrival: { topic: `${world.site}-panel/hall`, text: "on" } });
    expect(heard.requests).toHaveLength(1);

    inlets.outside.sheet = "channel,want\nwren/hall,on\n";
    const url = `http://${inlets.outside.place}/remote.csv`;
    await inlets.make({ slug: "try-sheet", kind: "sheet", settings: { url, everyS: 3_600 } });
    await inlets.untilUp("try-sheet");
    inlets.outside.sheet = "channel,want\nwren/hall,off\n";
    const read = await made("try-sheet", { arrival: { text: "" } });
    expect(read.first?.got).toContain("It was read.");
    expect(read.requests).toHaveLength(1);
  });

  it("takes no key of another inlet, and says so without counting it against anybody", async () => {
    const other = await inlets.make({ slug: "try-other", kind: "call" });
    const body = { arrival: { fields: { target: "wren/porch", argument: "on" } }, key: other };
    expect(await refusal(world.client.tryInlet("try-call", body))).toBe("bad-request");
  });
});
