/** The map of a running service: what can switch a channel, how often it did, what stands in the way, and who may see how much of it. */
import { createClient, type MapReachPageView, ProblemError } from "@bold-relay/api";
import { connectAsync } from "mqtt";
import { afterAll, beforeAll, describe, expect, inject, it } from "vitest";
import { createInletWorld, type InletWorld } from "./support/inlets.ts";
import { createNeighbours, type Neighbours, OTHER_SITE } from "./support/neighbours.ts";
import { brokerUrl } from "./support/servers.ts";
import { poll } from "./support/until.ts";
import type { World } from "./support/world.ts";

let inlets: InletWorld;
let world: World;

beforeAll(async () => {
  inlets = await createInletWorld();
  world = inlets.world;
});
afterAll(() => inlets.stop());

const PORCH = "wren/porch";

async function reach(of: string): Promise<MapReachPageView> {
  return world.client.mapReach({ of });
}

describe("everything that can switch a channel", () => {
  it("is told with how often each did, and who did so last", async () => {
    const key = await inlets.make({
      slug: "porch-words",
      kind: "hook",
      settings: { text: "/text" },
      routes: [
        { when: { words: "light" }, do: { target: PORCH, action: "on" } },
        { when: { words: "dark" }, do: { target: PORCH, action: "off" } },
      ],
    });
    for (let turn = 0; turn < 3; turn += 1) await inlets.post("porch-words", key, { text: "light" });
    const { rows, channel, days } = await reach(world.address(PORCH));
    expect(channel).toMatchObject({ address: world.address(PORCH), obstacles: [], others: [] });
    const used = Object.fromEntries(rows.map(({ caught, used: one }) => [caught.id, one?.count ?? null]));
    expect(used).toMatchObject({ "route:porch-words/1": 3, "route:porch-words/2": 0 });
    // What was used comes first.
    expect(rows[0]).toMatchObject({
      caught: { id: "route:porch-words/1" },
      action: "on",
      used: { lastBy: "Inlet porch-words" },
    });
    expect(days).toBe(30);
  });

  it("counts what members do by their right, also after a restart", async () => {
    await world.ask(PORCH, "on");
    await world.restart();
    const { rows } = await reach(world.address(PORCH));
    const right = rows.find(({ caught }) => caught.kind === "right");
    expect(right).toMatchObject({ used: { count: 1, lastBy: "Ines" } });
    expect(right?.askers.map(({ name }) => name)).toContain("Ines");
  });

  it("keeps the counts of a route that is moved, and tells of one that is gone", async () => {
    const { inlet, version } = await world.client.inlet("porch-words");
    const [light, dark] = inlet.routes ?? [];
    if (!light || !dark) throw new Error("The inlet has lost its routes.");
    await world.client.saveInlet({ ...inlet, routes: [dark, { ...light, name: "moved" }] }, version);
    const moved = (await reach(world.address(PORCH))).rows.find(({ caught }) => caught.id === "route:porch-words/2");
    expect(moved).toMatchObject({ caught: { name: "Route 2 “moved” of Inlet porch-words" }, used: { count: 3 } });
    await world.client.saveInlet({ ...inlet, routes: [dark] }, version + 1);
    expect((await reach(world.address(PORCH))).channel?.others).toMatchObject([
      { way: "a route of Inlet porch-words that is not there any more", count: 3 },
    ]);
  });

  it("says what stands in the way: a lock-out, an inlet that is paused", async () => {
    const { id } = await world.client.lockOut({ target: world.address(PORCH), reason: "hands in the panel" });
    const { inlet } = await world.client.inlet("porch-words");
    await world.client.saveInlet({ ...inlet, paused: true }, null);
    const locked = await reach(world.address(PORCH));
    expect(locked.channel?.obstacles).toEqual(["Locked out by Ines: hands in the panel."]);
    expect(locked.rows.find(({ caught }) => caught.inlet === "porch-words")?.caught.paused).toBe(true);
    await world.client.release(id);
    await world.client.removeInlet("porch-words");
  });
});

describe("a route that ignores what it catches", () => {
  it("is used all the same, and one that never caught anything is not", async () => {
    await inlets.make({
      slug: "beats",
      kind: "topic",
      routes: [
        { name: "heartbeat", when: { topic: `${world.site}-beats/alive` }, do: { ignore: true } },
        { name: "never", when: { topic: `${world.site}-beats/never` }, do: { target: PORCH, action: "on" } },
      ],
    });
    await inlets.untilUp("beats");
    // Nothing is called unused in the first week of counting.
    await world.pool.query("update way_use set last_at = now() - interval '8 days' where way = ''");
    const access = { username: "tester", password: inject("brokerPassword"), protocolVersion: 5 } as const;
    const client = await connectAsync(brokerUrl(), access);
    await client.publishAsync(`${world.site}-beats/alive`, "1", { qos: 1 });
    const unused = await poll(
      async () =>
        (await world.client.mapFindings()).filter(({ kind, name }) => kind === "unused" && name.includes("beats")),
      (found) => found.length === 1,
    );
    expect(unused).toMatchObject([{ element: "route:beats/2", text: expect.stringContaining("when counting began") }]);
    await client.endAsync();
    await world.client.removeInlet("beats");
  });
});

describe("an element", () => {
  it("is found by name, and what is not there is offered what comes near", async () => {
    expect((await reach("porch lantern, wren")).of).toMatchObject({ id: `channel:${world.address(PORCH)}` });
    expect((await reach("Ines")).of).toMatchObject({ id: "member:Ines" });
    const refused = await reach("porch lanterm, wren").catch((error: unknown) => error);
    expect(refused).toBeInstanceOf(ProblemError);
    expect((refused as ProblemError).problem).toMatchObject({ code: "not-on-map", status: 404 });
    expect((refused as ProblemError).problem.detail).toContain(world.address(PORCH));
  });

  it("is drawn with what leads to it, and as a table for a spreadsheet", async () => {
    const { columns, lines } = await world.client.map({ of: world.address(PORCH) });
    expect(columns.channels.map(({ id }) => id)).toEqual([`channel:${world.address(PORCH)}`]);
    const ids = new Set(Object.values(columns).flatMap((elements) => elements.map(({ id }) => id)));
    expect(lines.every(({ from, to }) => ids.has(from) && ids.has(to))).toBe(true);
    const [head, ...rows] = (await world.client.mapTable({ of: world.address(PORCH) })).trim().split("\n");
    expect(head).toBe("asked by,caught by,what it catches,target,action,channel,name,topic");
    expect(rows.every((row) => row.includes(world.address(PORCH)))).toBe(true);
  });
});

describe("who may see one site", () => {
  let near: Neighbours;

  beforeAll(async () => {
    near = await createNeighbours();
    const routes = [{ when: { words: "on" }, do: { target: `${near.own}/wren/porch`, action: "on" } }];
    for (const [slug, site] of [
      ["own-words", near.own],
      ["other-words", OTHER_SITE],
      ["team-words", null],
    ] as const) {
      const heat = [{ when: { words: "on" }, do: { target: `${OTHER_SITE}/plover/heat`, action: "on" } }];
      const own = slug === "other-words" ? heat : routes;
      await near.world.client.saveInlet({ slug, name: slug, kind: "hook", site, routes: own }, 0);
      await near.world.client.addKey({ name: "secret name", inlet: slug });
    }
  });
  afterAll(() => near.stop());

  async function seenBy(role: "operator" | "engineer") {
    return createClient({ baseUrl: near.world.service.url, key: await near.keyOf(role, near.own) });
  }

  it("sees nothing of other sites or of the team, and how many inlets more there are", async () => {
    const client = await seenBy("operator");
    const text = JSON.stringify([await client.map(), await client.mapReach(), await client.mapFindings()]);
    expect(text).toContain("own-words");
    expect(text).not.toContain("other-words");
    expect(text).not.toContain("team-words");
    expect(text).not.toContain(OTHER_SITE);
    expect((await client.mapReach({ of: `${near.own}/wren/porch` })).hiddenInlets).toBe(1);
  });

  it("cannot choose what belongs to others by its id", async () => {
    const client = await seenBy("operator");
    for (const of of [
      "inlet:team-words",
      "route:other-words/1",
      `channel:${OTHER_SITE}/plover/heat`,
      `place:${OTHER_SITE}`,
    ])
      await expect(client.mapReach({ of })).rejects.toMatchObject({ problem: { code: "not-on-map" } });
    await expect(client.map({ site: OTHER_SITE })).rejects.toMatchObject({ problem: { status: 404 } });
  });

  it("sees names of keys only as an engineer", async () => {
    const names = async (role: "operator" | "engineer") => JSON.stringify(await (await seenBy(role)).mapReach());
    expect(await names("operator")).not.toContain("secret name");
    expect(await names("operator")).toContain("shown to engineers");
    expect(await names("engineer")).toContain("secret name");
  });
});

describe("a change that is not saved", () => {
  const routes = [
    { name: "all", when: { words: "all" }, do: { target: "pair", action: "on" } },
    { name: "one", when: { words: "one" }, do: { target: PORCH, action: "on" } },
  ];

  it("of a group tells which route reaches what no more, and what it reaches now", async () => {
    const group = (channels: readonly string[]) =>
      ({ edit: "put", part: "groups", name: "pair", fields: { name: "Pair", channels } }) as const;
    await world.client.changeSite(world.site, group([PORCH, "wren/hall"]), null);
    await world.client.saveInlet({ slug: "pair-words", name: "Pair words", kind: "hook", site: world.site, routes }, 0);
    const moved = await world.client.changeSite(world.site, group([PORCH, "finch/porch"]), null, true);
    expect(moved.reach).toEqual([
      {
        element: "route:pair-words/1",
        name: "Route 1 “all” of Pair words",
        inlet: "pair-words",
        lost: [world.address("wren/hall")],
        gained: [world.address("finch/porch")],
        lostCount: 1,
        gainedCount: 1,
      },
    ]);
    const gone = await world.client.changeSite(
      world.site,
      { edit: "delete", part: "groups", name: "pair" },
      null,
      true,
    );
    expect(gone.reach).toMatchObject([{ element: "route:pair-words/1", lostCount: 2, gained: [] }]);
  });

  it("of an inlet tells what its routes would reach", async () => {
    const { inlet } = await world.client.inlet("pair-words");
    const { reach: changed } = await world.client.checkDescription("inlet", { ...inlet, routes: routes.slice(1) });
    // The second route stands where the first one was, and is the same.
    expect(changed).toMatchObject([
      { name: "Route 1 “all” of Pair words", lost: [world.address(PORCH), world.address("wren/hall")], gained: [] },
    ]);
    await world.client.removeInlet("pair-words");
  });

  it("of a device that is added tells who will reach it", async () => {
    const { site } = await world.client.site(world.site);
    await inlets.make({ slug: "any-words", kind: "hook", routes: [{ when: { any: true }, do: { phrase: "{text}" } }] });
    const [room, ...rooms] = site.rooms;
    const channels = [1, 2].map((n) => ({ slug: `new-${n}`, name: `New lamp ${n}`, kind: "light" as const }));
    const device = { slug: "added", name: "new board", profile: "reporting", channels };
    const more = {
      ...site,
      rooms: [{ ...room, devices: [...(room?.devices ?? []), device] }, ...rooms],
    } as typeof site;
    const { reach: changed } = await world.client.checkSite(more);
    expect(changed.find(({ inlet }) => inlet === "any-words")).toMatchObject({
      lost: [],
      gained: [world.address("added/new-1"), world.address("added/new-2")],
    });
    await world.client.removeInlet("any-words");
  });
});
