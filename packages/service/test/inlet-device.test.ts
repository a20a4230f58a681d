/** Buttons and contacts of our own devices start requests: pressed on the broker, seen in the log. */
import type { ListenEvent } from "@bold-relay/api";
import type { InletDescription, Route } from "@bold-relay/core";
import type { MqttClient } from "mqtt";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { poll } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
let device: MqttClient;

beforeAll(async () => {
  world = await createWorld({
    describe: (slug) => ({
      slug,
      name: "Site",
      rooms: [
        {
          slug: "finch",
          name: "Finch",
          devices: [
            {
              slug: "finch",
              name: "relay board",
              profile: "reporting",
              channels: ["porch", "hall", "path"].map((name) => ({ slug: name, name, kind: "light" as const })),
            },
            {
              slug: "wall",
              name: "wall buttons",
              profile: "reporting",
              channels: ["one", "two", "three", "four", "five"].map((name) => ({
                slug: name,
                name: `Button ${name}`,
                kind: "contact" as const,
              })),
            },
          ],
        },
      ],
    }),
  });
  await world.board("finch");
  device = await world.listener();
});
afterAll(() => world.stop());

const report = (button: string, to: "on" | "off", retain = false) =>
  device.publishAsync(`${world.site}/wall/${button}/is`, JSON.stringify({ to, by: "hand" }), { qos: 1, retain });

async function save(slug: string, routes: readonly Route[], settings: object = { debounceMs: 0 }): Promise<void> {
  const inlet = { slug, name: `Buttons ${slug}`, kind: "device", site: world.site, routes, settings };
  await world.client.saveInlet(inlet as InletDescription, null);
}

/** The requests that an inlet made, oldest first. */
async function requestsOf(slug: string) {
  const { requests } = await world.client.log({ limit: 200 });
  return requests.filter(({ inlet }) => inlet === slug).reverse();
}

function made(slug: string, count: number) {
  return poll(
    () => requestsOf(slug),
    (requests) => requests.length >= count && requests.every(({ outcome }) => outcome !== "open"),
  );
}

/** What was sent before it is taken by now: the board's answer to a later command came after it. */
async function passed(): Promise<void> {
  await report("five", "off");
  await poll(
    () => stateOf("wall/five"),
    (state) => state === "off",
  );
  await world.ask("finch/path", "toggle");
}

function until(isSo: () => boolean) {
  return poll(async () => isSo(), Boolean);
}

async function stateOf(channel: string) {
  const { sites } = await world.client.board();
  const found = sites.flatMap(({ channels }) => channels).find(({ address }) => address === world.address(channel));
  return found?.observed?.value ?? null;
}

it("a press sends the command of its route, and the log says which button asked", async () => {
  await save("press", [
    { name: "porch", when: { channel: "wall/one", pressed: "once" }, do: { target: "finch/porch", action: "on" } },
  ]);
  await report("one", "off");
  await report("one", "on");
  await report("one", "off");
  const [request] = await made("press", 1);
  expect(request).toMatchObject({ outcome: "delivered", asker: "Button one, Finch", inlet: "press" });
  expect(request?.said?.words).toBe(`${world.site}/wall/one pressed once`);
  expect(await stateOf("finch/porch")).toBe("on");
});

it("what a button tells again, and what lay retained, is no press", async () => {
  await save("again", [
    { when: { channel: "wall/two", becomes: "on" }, do: { target: "finch/hall", action: "toggle" } },
  ]);
  await report("two", "off");
  await report("two", "on", true);
  await made("again", 1);
  await report("two", "on");
  await report("two", "on");
  await world.restart();
  await passed();
  expect(await requestsOf("again")).toHaveLength(1);
});

it("a double press is one request, and not two", async () => {
  const target = "finch/hall";
  await save(
    "double",
    [
      { when: { channel: "wall/three", pressed: "once" }, do: { target, action: "off" } },
      { when: { channel: "wall/three", pressed: "twice" }, do: { target, action: "on" } },
    ],
    { debounceMs: 0, doubleMs: 3_000 },
  );
  await report("three", "off");
  for (const to of ["on", "off", "on", "off"] as const) await report("three", to);
  const requests = await made("double", 1);
  await passed();
  expect((await requestsOf("double")).map(({ action }) => action)).toEqual(["on"]);
  expect(requests[0]?.said?.words).toContain("pressed twice");
});

it("a long press is told while the button is still held", async () => {
  await save(
    "long",
    [{ when: { channel: "wall/four", pressed: "long" }, do: { target: "finch/hall", action: "off" } }],
    { longMs: 300 },
  );
  await report("four", "off");
  await report("four", "on");
  expect(await made("long", 1)).toHaveLength(1);
  await report("four", "off");
  await passed();
  expect(await requestsOf("long")).toHaveLength(1);
});

it("a press while the link is away is no press once it is back", async () => {
  await save(
    "away",
    [{ when: { channel: "wall/five", pressed: "long" }, do: { target: "finch/hall", action: "on" } }],
    { longMs: 300 },
  );
  await report("five", "off");
  await report("five", "on");
  // It is stopped before the button is held for long enough, or right after: at most one press is told.
  await world.restart();
  const before = (await requestsOf("away")).length;
  await passed();
  expect(await requestsOf("away")).toHaveLength(before);
});

describe("listening", () => {
  it("shows what no route catches, and a route is made from it", async () => {
    await save("learn", [
      { when: { channel: "wall/one", pressed: "once" }, do: { target: "finch/path", action: "on" } },
    ]);
    const stop = new AbortController();
    const heard: ListenEvent[] = [];
    const listening = world.client.listenAt("learn", (event) => heard.push(event), stop.signal).catch(() => {});
    await until(() => heard.some(({ name }) => name === "hello"));
    await report("two", "off");
    await report("two", "on");
    await report("two", "off");
    const arrivals = () => heard.flatMap((one) => (one.name === "arrival" ? [one.data] : []));
    // Pressed again until it is seen, as a person would: nothing keeps a press for a machine that is too busy to take it.
    await poll(
      async () => {
        await report("one", "on");
        await report("one", "off");
        return heard;
      },
      () => arrivals().some(({ outcome }) => outcome !== "no-route"),
      { what: "the arrival of a press", pauseMs: 500 },
    );
    const free = arrivals().filter(({ outcome }) => outcome === "no-route");
    expect(free.map(({ words }) => words)).toContain(`${world.site}/wall/two becomes on`);
    const caught = arrivals().find(({ outcome }) => outcome !== "no-route");
    expect(caught).toMatchObject({ words: `${world.site}/wall/one pressed once` });
    expect(caught?.requests).toHaveLength(1);
    stop.abort();
    await listening;
  });

  it("at a topic inlet shows messages on topics that belong to nobody, and none of devices", async () => {
    const routes: Route[] = [{ when: { topic: "knobs/{lamp}" }, do: { target: "{lamp}", action: "{payload}" } }];
    await world.client.saveInlet(
      { slug: "knobs", name: "Knobs", kind: "topic", site: world.site, routes } as InletDescription,
      null,
    );
    const stop = new AbortController();
    const heard: ListenEvent[] = [];
    const listening = world.client.listenAt("knobs", (event) => heard.push(event), stop.signal).catch(() => {});
    const words = () => heard.flatMap((one) => (one.name === "arrival" ? [one.data.words] : []));
    const end = `new-${world.site}/end`;
    await poll(
      () => device.publishAsync(`new-${world.site}/button`, "1", { qos: 1 }),
      () => words().includes(`new-${world.site}/button 1`),
    );
    await report("two", "on");
    // Told again until it is seen: at QoS 0 the broker may drop one while all tests share it.
    await poll(
      () => device.publishAsync(end, "1", { qos: 1 }),
      () => words().includes(`${end} 1`),
    );
    expect(new Set(words().filter((one) => one.includes(world.site)))).toEqual(
      new Set([`new-${world.site}/button 1`, `${end} 1`]),
    );
    stop.abort();
    await listening;
  });

  it("one topic that chatters hides no button, and it is said how much was not shown", async () => {
    const routes: Route[] = [{ when: { topic: "dials/{lamp}" }, do: { target: "{lamp}", action: "{payload}" } }];
    await world.client.saveInlet(
      { slug: "dials", name: "Dials", kind: "topic", site: world.site, routes } as InletDescription,
      null,
    );
    const stop = new AbortController();
    const heard: ListenEvent[] = [];
    const listening = world.client.listenAt("dials", (event) => heard.push(event), stop.signal).catch(() => {});
    await until(() => heard.some(({ name }) => name === "hello"));
    const button = `dial-${world.site}/button`;
    const isButton = (one: ListenEvent) => one.name === "arrival" && one.data.words === `${button} 1`;
    await poll(
      async () => {
        const chatter = Array.from({ length: 200 }, (_, at) =>
          device.publishAsync(`meter-${world.site}/power`, String(at), { qos: 1 }),
        );
        await Promise.all([...chatter, device.publishAsync(button, "1", { qos: 1 })]);
      },
      () => heard.some(isButton) && heard.some(({ name }) => name === "skipped"),
    );
    stop.abort();
    await listening;
  });

  it("is refused where callers name channels, and for who may not see the inlet", async () => {
    await world.client.saveInlet({ slug: "plain", name: "Plain", kind: "web", site: world.site }, null);
    const never = new AbortController().signal;
    await expect(world.client.listenAt("plain", () => {}, never)).rejects.toMatchObject({
      problem: { code: "bad-request" },
    });
    await expect(world.client.listenAt("nothing", () => {}, never)).rejects.toMatchObject({ problem: { status: 404 } });
  });
});

describe("a description", () => {
  const wrong = (route: Route, settings: object = {}) =>
    expect(save("wrong", [route], settings)).rejects.toMatchObject({
      problem: { code: expect.stringMatching(/^(inlet-wrong|bad-request)$/) },
    });

  it("may not wait for a channel that takes commands, for one that is not there, or for nothing", async () => {
    const deed = { target: "finch/hall", action: "on" };
    await wrong({ when: { channel: "finch/porch", becomes: "on" }, do: deed });
    await wrong({ when: { channel: "wall/ten", pressed: "once" }, do: deed });
    await wrong({ when: { channel: "wall/one", pressed: "long" }, do: deed }, { releases: false });
    await wrong({ when: { words: "on" }, do: deed });
    await wrong({ when: { channel: "wall/one" } as never, do: deed });
  });

  it("is rehearsed and tried with an input that does something", async () => {
    const arrival = { channel: "wall/one", text: "once" };
    const rehearsal = await world.client.rehearse("press", { arrival });
    expect(rehearsal).toMatchObject({ would: "act", route: 1, routeName: "porch" });
    const trial = await world.client.tryInlet("press", { arrival });
    expect(trial.requests).toHaveLength(1);
    await expect(world.client.tryInlet("press", { arrival: { ...arrival, text: "thrice" } })).rejects.toMatchObject({
      problem: { code: "bad-request" },
    });
  });
});
