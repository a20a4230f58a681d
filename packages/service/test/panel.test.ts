/** Panels: whoever has the link does what is on the panel and nothing else, for as long as the link counts. */
import { createPanelClient, type PanelEvent, type PanelView } from "@bold-relay/api";
import type { InletDescription } from "@bold-relay/core";
import { afterAll, beforeAll, beforeEach, describe, expect, it } from "vitest";
import { poll } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
let serial = 0;
let slug = "";

const ITEMS = [
  { heading: "Lights" },
  { show: "wren/porch" },
  { show: "wren/hall", name: "Hall" },
  { show: "wren/path", acts: false },
];

beforeAll(async () => {
  world = await createWorld();
  await world.board("wren");
});
afterAll(() => world.stop());
beforeEach(() => {
  serial += 1;
  slug = `panel-${serial}`;
});

async function save(settings: object = { items: ITEMS }, more: object = {}): Promise<void> {
  const inlet = { slug, name: "Kitchen", kind: "panel", site: world.site, settings, ...more };
  await world.client.saveInlet(inlet as InletDescription, null);
}

/** Shared as one shares it. */
async function share(settings?: object): Promise<string> {
  await save(settings);
  return (await world.client.addKey({ name: "tablet", inlet: slug })).key;
}

const panel = (key: string, pinToken: string | null = null) =>
  createPanelClient({ baseUrl: world.service.url, slug, key, pinToken });

const refusedWith = (code: string) => ({ problem: { code } });

describe("whoever has the link", () => {
  it("sees the items in their order and wording, with their state and nothing of people", async () => {
    await world.ask("wren/porch", "on");
    const view = await panel(await share()).view();
    expect(view).toMatchObject({ name: "Kitchen", acts: true });
    expect(view.items.map(({ is, name }) => [is, name])).toEqual([
      ["heading", "Lights"],
      ["channel", "Porch lantern"],
      ["channel", "Hall"],
      ["channel", "Path lights"],
    ]);
    expect(view.items[1]).toMatchObject({ channel: { observed: { text: "on" }, commanded: { text: "on" } } });
    // Who asked before, and what else there is, is nobody's business there.
    expect(JSON.stringify(view)).not.toMatch(/Ines|finch|dunlin|cupboard/);
    const lock = await world.client.lockOut({
      target: world.address("wren/porch"),
      reason: "new fuse for the neighbour",
    });
    const locked = await panel((await world.client.addKey({ name: "phone", inlet: slug })).key).view();
    await world.client.release(lock.id);
    expect(locked.items[1]).toMatchObject({ channel: { lockout: { holder: lock.holder, reason: null } } });
  });

  it("switches what is offered, and the log says by which panel", async () => {
    const pressed = await panel(await share()).press({ target: world.address("wren/hall"), action: "on" });
    const request = await poll(
      () => world.client.request(pressed.id),
      ({ outcome }) => outcome !== "open",
    );
    expect(request).toMatchObject({ outcome: "delivered", asker: "Kitchen", inlet: slug, said: { words: "Hall: on" } });
  });

  it.each([
    ["a channel that is not on the panel", "finch/porch", "on"],
    ["an item that is only shown", "wren/path", "on"],
    ["an action that its kind does not have", "wren/porch", "open"],
    ["a name instead of the address", "Porch lantern", "on"],
  ])("is refused %s, and that is on record", async (_what, target, action) => {
    const key = await share();
    const address = target.includes("/") ? world.address(target) : target;
    await expect(panel(key).press({ target: address, action })).rejects.toMatchObject(refusedWith("not-permitted"));
    const { requests } = await world.client.log({ limit: 50 });
    expect(requests.find(({ inlet }) => inlet === slug)).toMatchObject({ outcome: "refused" });
  });

  it("is refused everything where the panel only shows", async () => {
    const key = await share({ items: ITEMS, acts: false });
    expect((await panel(key).view()).acts).toBe(false);
    await expect(panel(key).press({ target: world.address("wren/porch"), action: "on" })).rejects.toMatchObject(
      refusedWith("not-permitted"),
    );
  });

  it("cannot use the key for the API, for another inlet, or for the body of a web inlet", async () => {
    const key = await share();
    const call = (path: string, body?: object) =>
      fetch(`${world.service.url}${path}`, {
        method: body ? "POST" : "GET",
        headers: { authorization: `Bearer ${key}`, "content-type": "application/json" },
        ...(body ? { body: JSON.stringify(body) } : {}),
      }).then(({ status }) => status);
    expect(await call("/api/v1/board")).toBe(401);
    expect(await call("/in/hall-tablet", { target: "wren/porch", action: "on" })).toBe(401);
    expect(await call(`/in/${slug}`, { target: world.address("wren/porch"), action: "on", sender: "Ines" })).toBe(400);
    expect(await call(`/in/${slug}/else`)).toBe(404);
  });
});

describe("a link", () => {
  it("that is revoked ends at once, and what shows the panel is told", async () => {
    const key = await share();
    const events: PanelEvent[] = [];
    const live = panel(key).live((event) => events.push(event), new AbortController().signal);
    await until(() => events.length > 0);
    const made = (await world.client.keys()).find(({ inlet }) => inlet === slug);
    await world.client.revokeKey(made?.id ?? 0);
    await expect(panel(key).view()).rejects.toMatchObject(refusedWith("wrong-key"));
    await live;
    expect(events.at(-1)).toMatchObject({ name: "ended" });
  });

  it("that nobody gave opens nothing", async () => {
    await save();
    await expect(panel("brk_nothing").view()).rejects.toMatchObject(refusedWith("wrong-key"));
  });

  it("of a panel that is paused shows and switches nothing until it is resumed", async () => {
    const key = await share();
    await save(undefined, { paused: true });
    await expect(panel(key).view()).rejects.toMatchObject(refusedWith("inlet-paused"));
    await expect(panel(key).press({ target: world.address("wren/porch"), action: "on" })).rejects.toMatchObject(
      refusedWith("inlet-paused"),
    );
    await save();
    expect((await panel(key).view()).items).toHaveLength(4);
  });
});

describe("a PIN", () => {
  it("is asked for before anything is shown or switched, and is never shown", async () => {
    const key = await share({ items: ITEMS, pin: "2580" });
    await expect(panel(key).view()).rejects.toMatchObject(refusedWith("pin-needed"));
    await expect(panel(key).press({ target: world.address("wren/porch"), action: "on" })).rejects.toMatchObject(
      refusedWith("pin-needed"),
    );
    await expect(panel(key).enterPin("0000")).rejects.toMatchObject(refusedWith("wrong-pin"));
    const { token } = await panel(key).enterPin("2580");
    expect((await panel(key, token).view()).items).toHaveLength(4);
    expect(JSON.stringify(await world.client.inlet(slug))).not.toMatch(/2580|argon/);
  });

  it("that was entered counts for its own key only, and ends with a new PIN", async () => {
    const key = await share({ items: ITEMS, pin: "2580" });
    const { token } = await panel(key).enterPin("2580");
    const { key: other } = await world.client.addKey({ name: "phone", inlet: slug });
    await expect(panel(other, token).view()).rejects.toMatchObject(refusedWith("pin-needed"));
    await expect(panel(key, token.replace(/^\d/, "9")).view()).rejects.toMatchObject(refusedWith("pin-needed"));
    await save({ items: ITEMS, pin: "1111" });
    await expect(panel(key, token).view()).rejects.toMatchObject(refusedWith("pin-needed"));
  });

  it("cannot be guessed: many at once are counted before any is looked at", async () => {
    const key = await share({ items: ITEMS, pin: "2580" });
    const guesses = Array.from({ length: 14 }, (_, index) => panel(key).enterPin(String(1_000 + index)));
    const codes = (await Promise.allSettled(guesses)).map((one) =>
      one.status === "rejected" ? (one.reason as { problem: { code: string } }).problem.code : "entered",
    );
    expect(codes.filter((code) => code === "too-many-attempts").length).toBeGreaterThanOrEqual(4);
    await expect(panel(key).enterPin("2580")).rejects.toMatchObject(refusedWith("too-many-attempts"));
    // Whoever guesses with one link keeps nobody out who has another.
    const { key: other } = await world.client.addKey({ name: "another phone", inlet: slug });
    expect((await panel(other).enterPin("2580")).token).not.toBe("");
  });
});

describe("what is shown live", () => {
  it("begins with all of it, then tells each item as it changes", async () => {
    const key = await share();
    const stop = new AbortController();
    const events: PanelEvent[] = [];
    const live = panel(key)
      .live((event) => events.push(event), stop.signal)
      .catch(() => {});
    await until(() => events.length > 0);
    expect(events[0]?.name).toBe("panel");
    await world.ask("wren/hall", "off");
    await world.ask("wren/hall", "on");
    await until(() => events.some((event) => event.name === "item" && stateOf(event.data) === "on"));
    // What is not on the panel is not told.
    await world.board("finch");
    await world.ask("finch/porch", "on");
    await world.ask("wren/hall", "off");
    await until(() => events.some((event) => event.name === "item" && stateOf(event.data) === "off"));
    const places = events.flatMap((event) => (event.name === "item" ? [event.data.place] : []));
    expect(new Set(places)).toEqual(new Set([3]));
    stop.abort();
    await live;
  });

  it("cannot be taken from others by one link", async () => {
    const key = await share();
    const stop = new AbortController();
    let open = 0;
    const lives = Array.from({ length: 10 }, () =>
      panel(key)
        .live(({ name }) => {
          if (name === "panel") open += 1;
        }, stop.signal)
        .catch(() => {}),
    );
    await until(() => open === 10);
    await expect(panel(key).live(() => {}, stop.signal)).rejects.toMatchObject(refusedWith("too-many-streams"));
    const { key: other } = await world.client.addKey({ name: "phone", inlet: slug });
    const seen = new AbortController();
    await panel(other)
      .live(() => seen.abort(), seen.signal)
      .catch(() => {});
    expect(seen.signal.aborted).toBe(true);
    stop.abort();
    await Promise.all(lives);
  });

  it("follows the panel when it is changed", async () => {
    const key = await share();
    const stop = new AbortController();
    const views: PanelView[] = [];
    const live = panel(key)
      .live((event) => event.name === "panel" && views.push(event.data), stop.signal)
      .catch(() => {});
    await until(() => views.length > 0);
    await save({ items: [{ show: "wren/porch", name: "Lantern" }] });
    await until(() => views.some(({ items }) => items[0]?.name === "Lantern"));
    stop.abort();
    await live;
  });
});

describe("a description", () => {
  it.each([
    [{ items: [] }],
    [{ items: [{ show: "wren/nothing" }] }],
    [{ items: [{ heading: "Lights", show: "wren/porch" }] }],
    [{ items: [{ heading: "Lights", acts: true }] }],
    [{ items: ITEMS, pin: "12" }],
    [{}],
  ])("%j is not saved", async (settings) => {
    await expect(save(settings)).rejects.toMatchObject({
      problem: { code: expect.stringMatching(/^(inlet-wrong|bad-request)$/) },
    });
  });

  it("is rehearsed: only what it offers would be sent", async () => {
    await save();
    const rehearse = (channel: string) =>
      world.client.rehearse(slug, { arrival: { fields: { target: world.address(channel), action: "on" } } });
    expect((await rehearse("wren/porch")).would).toBe("act");
    expect((await rehearse("wren/path")).would).not.toBe("act");
  });

  it("is on the map: each button, and whoever has a link", async () => {
    await share();
    const map = await world.client.map({ of: world.address("wren/porch") });
    expect(JSON.stringify(map)).toContain(`button:${slug}/2`);
    expect(JSON.stringify(await world.client.map({ of: world.address("wren/path") }))).not.toContain(
      `button:${slug}/4`,
    );
  });
});

function until(isSo: () => boolean) {
  return poll(async () => isSo(), Boolean);
}

function stateOf(item: PanelView["items"][number]): unknown {
  return item.is === "channel" ? item.channel.observed?.value : null;
}
