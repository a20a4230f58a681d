/** The map: who can reach what, and by which way. */
import { describe, expect, it } from "vitest";
import {
  buildMap,
  buildSnapshot,
  caughtTwice,
  compareMaps,
  drawMap,
  findElement,
  type InletDescription,
  inletWay,
  type MapInput,
  type MapMember,
  mapFindings,
  mapWithin,
  type Profile,
  profileChange,
  type RelayMap,
  type Route,
  routeWays,
  selectAround,
} from "../src/index.ts";
import { record, snapshot } from "./support/site.ts";

const GATE = "alder-row/plover/gate";
const PORCH = "alder-row/wren/porch-lantern";

function inlet(slug: string, more: Partial<InletDescription>, keys: readonly string[] = []) {
  const description: InletDescription = { slug, name: slug, kind: "hook", site: "alder-row", ...more };
  return { inlet: description, keys: keys.map((name) => ({ name, expiresAt: null })), signed: false };
}

function member(id: number, name: string, standing: MapMember["standing"]): MapMember {
  return { id, name, standing, keys: [] };
}

function map(more: Partial<MapInput>): RelayMap {
  return buildMap({ snapshot, inlets: [], members: [], links: [], ...more });
}

/** The ids of the catches that lead to a channel. */
function waysTo(of: RelayMap, address: string): string[] {
  return [...new Set(selectAround(of, `channel:${address}`, null)?.links.map(({ caught }) => caught.id))];
}

function reachedFrom(of: RelayMap, id: string): string[] {
  const channels = selectAround(of, id, null)?.links.flatMap((link) => link.channels) ?? [];
  return [...new Set(channels.map(({ address }) => address))].sort();
}

const route = (when: Route["when"], deed: Route["do"], more: Partial<Route> = {}): Route => ({
  when,
  do: deed,
  ...more,
});

describe("what a route reaches", () => {
  it.each<[string, Route["do"], readonly string[]]>([
    ["a name", { target: "gate in plover", action: "pulse" }, []],
    ["an address", { target: GATE, action: "pulse" }, [GATE]],
    ["a name of another site", { target: "fennel-hall/foyer/outdoor-sign", action: "on" }, []],
    ["a phrase", { phrase: "porch lantern in wren on" }, [PORCH]],
    ["nothing on purpose", { ignore: true }, []],
    ["a name with a hole", { target: "{room}/porch-lantern", action: "on" }, ["alder-row/finch/porch-lantern", PORCH]],
    [
      "a hole whose table has one value",
      { target: "{room}/porch-lantern", action: "on", map: { room: { table: { "1": "wren" } } } },
      [PORCH],
    ],
  ])("is by %s just that", (_how, deed, reached) => {
    const of = map({ inlets: [inlet("hall", { routes: [route({ words: "x" }, deed)] }, ["panel"])] });
    expect(reachedFrom(of, "route:hall/1")).toEqual([...reached].sort());
  });

  it("is everything of its site where a phrase has a hole", () => {
    const of = map({ inlets: [inlet("hall", { routes: [route({ any: true }, { phrase: "{text}" })] })] });
    const all = snapshot.channels.filter(({ site }) => site.slug === "alder-row").map(({ address }) => address);
    expect(reachedFrom(of, "route:hall/1")).toEqual(all.sort());
  });

  it("is told as lost where it names nothing", () => {
    const of = map({
      inlets: [inlet("hall", { routes: [route({ words: "x" }, { target: "nobody", action: "on" })] })],
    });
    expect(of.lost).toMatchObject([{ target: "nobody", catch: { id: "route:hall/1" } }]);
  });
});

describe("everything that can switch a channel", () => {
  const of = map({
    members: [
      member(1, "Ines", { team: "owner", sites: {} }),
      member(2, "Ana", { team: null, sites: { "alder-row": "user" } }),
      member(3, "Bo", { team: null, sites: { "alder-row": "reader" } }),
      member(4, "Cy", { team: null, sites: { "fennel-hall": "engineer" } }),
    ],
    inlets: [
      inlet("gate-keys", {
        kind: "topic",
        routes: [route({ topic: "gate/{who}" }, { target: GATE, action: "pulse" })],
      }),
      inlet("other", { site: "fennel-hall", routes: [route({ any: true }, { phrase: "{text}" })] }, ["k"]),
      inlet("porches", { routes: [route({ words: "x" }, { target: PORCH, action: "on" })] }, ["k"]),
    ],
  });

  it("is the members with a right, the routes that name it, and nothing else", () => {
    expect(waysTo(of, GATE).sort()).toEqual(["right:alder-row", "route:gate-keys/1", "wire:alder-row"]);
  });

  it("names the members by their right, not those who may only look, nor those of another site", () => {
    const right = of.catches.find(({ id }) => id === "right:alder-row");
    expect(right?.askers.map(({ name }) => name)).toEqual(["Ines", "Ana"]);
  });

  it("has the rules of the channel", () => {
    expect(waysTo(of, "alder-row/finch/pump")).toContain("rule:auto-off");
    expect(waysTo(of, GATE)).not.toContain("rule:auto-off");
  });

  it("holds nothing of the team or of other sites for who may see one site", () => {
    const within = mapWithin(of, ["fennel-hall"], ["fennel-hall"]);
    expect(within.catches.map(({ site }) => site)).not.toContain("alder-row");
    expect(within.askers.map(({ name }) => name)).not.toContain("Ana");
    expect(within.channels.map(({ site }) => site.slug)).toEqual(["fennel-hall"]);
  });
});

describe("an element", () => {
  const of = map({
    members: [member(1, "Ines", { team: "owner", sites: {} })],
    inlets: [
      inlet("hall-keys", {
        name: "Hall keys",
        kind: "topic",
        routes: [route({ topic: "keys/{room}/{n}" }, { target: GATE, action: "pulse" })],
      }),
    ],
  });
  it.each([
    ["a channel's name", "gate in  PLOVER", null],
    ["a channel's address", GATE, `channel:${GATE}`],
    ["another name of it", "Plover gate", `channel:${GATE}`],
    ["an inlet's identifier", "hall-keys", "inlet:hall-keys"],
    ["an inlet's name", "hall keys", "inlet:hall-keys"],
    ["a topic that a route catches", "keys/finch/2", "route:hall-keys/1"],
    ["a member's name", "ines", "member:Ines"],
    ["a site's name", "Alder Row", "place:alder-row"],
    ["an id", "rule:auto-off", "rule:auto-off"],
    ["the id of a group of elements", "askers:member", "askers:member"],
  ])("is found by %s", (_how, text, id) => {
    const found = findElement(of, snapshot, text, null);
    expect("element" in found ? found.element.id : null).toBe(id);
  });

  it("that is not there is offered what comes near, within the caller's sites", () => {
    expect(findElement(of, snapshot, "plover gaet", null)).toEqual({ nearest: expect.arrayContaining([GATE]) });
    expect(findElement(of, snapshot, "plover gaet", ["fennel-hall"])).toEqual({ nearest: [] });
  });
});

describe("names of keys", () => {
  const of = map({
    inlets: [inlet("porches", { routes: [route({ words: "x" }, { target: PORCH, action: "on" })] }, ["secret name"])],
  });
  it("are told to engineers; to others it is told that there are keys", () => {
    const seen = (built: readonly string[] | null) =>
      mapWithin(of, null, built)
        .catches.find(({ id }) => id === "route:porches/1")
        ?.askers.map(({ name }) => name);
    expect(seen(["alder-row"])).toEqual(["Key “secret name”"]);
    expect(seen([])).toEqual(["Keys"]);
    expect(findElement(mapWithin(of, null, []), snapshot, "holder:porches/secret name", null)).toHaveProperty(
      "nearest",
    );
  });
});

describe("who may ask at a route", () => {
  const senders = ["porch-room/ana", "porch-room/*", "bo"];
  const chat = (only: Route["only"]) =>
    map({
      inlets: [
        inlet("chat", {
          kind: "chat",
          senders,
          roles: { bo: "operator" },
          routes: [route({ phrase: true }, { phrase: "{text}" }, only ? { only } : {})],
        }),
      ],
    })
      .catches.find(({ id }) => id === "route:chat/1")
      ?.askers.map(({ name }) => name);

  it("is every permitted sender, or those of its condition", () => {
    expect(chat(undefined)).toEqual(["ana", "Any sender", "bo"]);
    expect(chat({ senders: ["ana"] })).toEqual(["ana", "Any sender"]);
    expect(chat({ role: "operator" })).toEqual(["Any sender", "bo"]);
  });
});

describe("the way under which a route is counted", () => {
  const first = route({ fields: { "/a": 1, "/b": 2 } }, { ignore: true });
  it("stays when it is moved, renamed or does something else, and the order of fields changes", () => {
    const moved = route({ fields: { "/b": 2, "/a": 1 } }, { phrase: "x" }, { name: "new" });
    expect(inletWay("hall", moved)).toBe(inletWay("hall", first));
    expect(routeWays({ slug: "hall", routes: [moved, first] })[0]).toBe(inletWay("hall", first));
  });

  it("is another when it catches something else, or at another inlet", () => {
    expect(inletWay("hall", route({ words: "y" }, { ignore: true }))).not.toBe(inletWay("hall", first));
    expect(inletWay("other", first)).not.toBe(inletWay("hall", first));
  });
});

describe("findings", () => {
  const inlets = [
    inlet("open", { kind: "chat", senders: ["*"], routes: [route({ phrase: true }, { phrase: "{text}" })] }),
    inlet("one", { kind: "topic", routes: [route({ topic: "buttons/+/2" }, { target: GATE, action: "pulse" })] }),
    inlet("two", { kind: "topic", routes: [route({ topic: "buttons/finch/{n}" }, { target: PORCH, action: "on" })] }),
    inlet(
      "twice",
      { routes: [route({ words: "on" }, { target: PORCH, action: "on" }), route({ words: "On" }, { ignore: true })] },
      ["panel"],
    ),
  ];
  const of = map({ inlets });
  const found = mapFindings(of, {
    inlets: inlets.map((one) => one.inlet),
    uses: new Map([[inletWay("one", inlets[1]?.inlet.routes?.[0] ?? null), { count: 3, lastAt: 1 }]]),
    counted: "in 90 days",
    countedMs: 90 * 86_400_000,
  });
  const about = (kind: string) => found.filter((one) => one.kind === kind).map(({ element }) => element);

  it("name what anybody can switch, two routes that one message reaches, and keys without an end", () => {
    expect(about("open-to-anyone")).toEqual(["route:open/1"]);
    expect(about("caught-twice")).toEqual(["route:two/1"]);
    expect(found.find(({ kind }) => kind === "caught-twice")?.text).toContain("Route 1 of one catches the same");
    expect(about("no-expiry")).toEqual(["holder:twice/panel"]);
  });

  it("name routes that never act, and those that caught nothing", () => {
    expect(about("shadowed")).toEqual(["route:twice/2"]);
    expect(about("unused")).toEqual(["route:open/1", "route:two/1", "route:twice/1", "route:twice/2"]);
  });

  it("call nothing unused before uses have been counted for a week", () => {
    const kinds = (countedMs: number) =>
      mapFindings(of, { inlets: inlets.map((one) => one.inlet), uses: new Map(), counted: "", countedMs }).map(
        ({ kind }) => kind,
      );
    expect(kinds(6 * 86_400_000)).not.toContain("unused");
    expect(kinds(7 * 86_400_000)).toContain("unused");
  });

  it("name channels that nobody can switch", () => {
    expect(about("unreachable")).toEqual(["channel:fennel-hall/foyer/outdoor-sign"]);
  });
});

describe("a drawing", () => {
  const many = Array.from({ length: 60 }, (_, n) =>
    route({ words: `word ${n}` }, { target: n % 2 === 0 ? GATE : PORCH, action: "on" }),
  );
  const of = map({
    inlets: [inlet("hall", { routes: many }, ["panel"]), inlet("few", { routes: many.slice(0, 2) }, ["k"])],
  });
  const all = selectAround(of, null, null);

  it("puts routes together by their inlet where there are too many, and adds up their lines", () => {
    const { columns, lines } = drawMap(of, all ?? { links: [], idle: [] });
    expect(columns.catches.map(({ id, count }) => [id, count])).toEqual(
      expect.arrayContaining([
        ["inlet:hall", 60],
        ["inlet:few", 2],
      ]),
    );
    expect(lines).toContainEqual({ from: "inlet:hall", to: `channel:${GATE}`, weight: 30 });
  });

  it("opens what was put together when it is chosen", () => {
    const few = selectAround(of, "inlet:few", null);
    const { columns } = drawMap(of, few ?? { links: [], idle: [] });
    expect(columns.catches.map(({ id }) => id)).toEqual(["route:few/1", "route:few/2"]);
    expect(columns.channels).toHaveLength(2);
  });

  it("has no line to or from what is not drawn", () => {
    for (const most of [1, 3, 24]) {
      const { columns, lines } = drawMap(of, all ?? { links: [], idle: [] }, most);
      const ids = new Set(Object.values(columns).flatMap((elements) => elements.map(({ id }) => id)));
      for (const { from, to } of lines) expect(ids.has(from) && ids.has(to)).toBe(true);
    }
  });

  it("is of nothing for an id that nothing has", () => {
    expect(selectAround(of, "route:hall/99", null)).toBeNull();
  });
});

describe("a change", () => {
  const before = map({
    inlets: [inlet("hall", { routes: [route({ words: "x" }, { target: GATE, action: "pulse" })] }, ["k"])],
  });
  it("tells what a catch reaches no more, and what it reaches now", () => {
    const after = map({
      inlets: [inlet("hall", { routes: [route({ words: "x" }, { target: PORCH, action: "on" })] }, ["k"])],
    });
    expect(compareMaps(before, after)).toEqual([
      {
        element: "route:hall/1",
        name: "Route 1 of hall",
        inlet: "hall",
        lost: [GATE],
        gained: [PORCH],
        lostCount: 1,
        gainedCount: 1,
      },
    ]);
    expect(compareMaps(before, before)).toEqual([]);
  });

  it("tells all that a removed inlet reached", () => {
    expect(compareMaps(before, map({}))).toMatchObject([{ element: "route:hall/1", lost: [GATE], gained: [] }]);
  });
});

describe("a change of a profile", () => {
  const { profile } = snapshot.channels[0] as { profile: Profile };
  const withTopics = (topics: Partial<Profile["topics"]>) => ({ ...profile, topics: { ...profile.topics, ...topics } });

  it("tells which command topics it leaves and which it takes up", () => {
    const [change] = profileChange(profile, withTopics({ do: "new/{device}/{channel}" }), snapshot);
    expect(change?.lost).toContain(`${PORCH}/do`);
    expect(change?.gained).toContain("new/wren/porch-lantern");
    expect(change?.lostCount).toBe(snapshot.channels.length);
  });

  it("of anything else tells nothing", () => {
    expect(profileChange(profile, withTopics({ is: null }), snapshot)).toEqual([]);
    expect(profileChange({ ...profile, slug: "other" }, withTopics({ do: "x/{channel}" }), snapshot)).toEqual([]);
  });
});

describe("a phrase with a hole", () => {
  const reached = (phrase: string, synonyms: Record<string, string> = {}) =>
    reachedFrom(
      map({ inlets: [inlet("hall", { synonyms, routes: [route({ any: true }, { phrase })] }, ["k"])] }),
      "route:hall/1",
    );
  const porches = ["alder-row/finch/porch-lantern", PORCH];

  it.each([
    ["reaches what has all its other words", "porch lantern in {cottage} on", porches],
    ["reaches one room where it names that", "{lamp} in wren off", snapshotOf("wren")],
    [
      "reaches what is of the kind, or has the noun in its name",
      "lights in wren {how}",
      ["alder-row/wren/hall-dimmer", "alder-row/wren/hall-light", PORCH],
    ],
    ["reaches by “everything” what that means", "everything in {cottage} off", inAll()],
    ["may be several asks", "porch in {a} on, gate lock {b}", ["alder-row/plover/gate-lock", ...porches]],
    ["reaches everything where its words say nothing", "please switch {what} on", allOf()],
    ["reaches everything where nothing has its words", "fountain {how}", allOf()],
  ])("%s", (_what, phrase, channels) => {
    expect(reached(phrase)).toEqual([...channels].sort());
  });

  it("does not count words that stand for others at its inlet", () => {
    expect(reached("fountain in {cottage} on", { fountain: "porch lantern" })).toEqual(allOf().sort());
  });

  /** Without the gate, the held motors and what is interlocked. */
  function inAll(): string[] {
    return allOf().filter((address) => !/gate$|skylight|winch|vent/.test(address));
  }

  function allOf(): string[] {
    return snapshot.channels.filter(({ site }) => site.slug === "alder-row").map(({ address }) => address);
  }

  function snapshotOf(room: string): string[] {
    return snapshot.channels.filter((channel) => channel.room.slug === room).map(({ address }) => address);
  }
});

describe("a panel", () => {
  it("reaches what its buttons switch, and not what it only shows", () => {
    const items = [{ heading: "Gate" }, { show: GATE }, { show: PORCH, acts: false }];
    const of = map({ inlets: [inlet("wall", { kind: "panel", settings: { items } }, ["tablet"])] });
    expect(waysTo(of, GATE)).toContain("button:wall/2");
    expect(waysTo(of, PORCH)).not.toContain("button:wall/3");
    expect(reachedFrom(of, "inlet:wall")).toEqual([GATE]);
  });
});

describe("an input of a device", () => {
  const site = buildSnapshot([
    record(1, "Wren", "Porch lantern"),
    record(2, "Finch", "Wall button", { kind: "contact" }),
    record(3, "Finch", "Other button", { kind: "contact" }),
  ]);
  const address = "alder-row/finch/wall-button";
  const buttons = (when: Route["when"]) => {
    const routes = [route(when, { target: PORCH, action: "toggle" })];
    return map({ snapshot: site, inlets: [inlet("buttons", { kind: "device", site: null, routes })] });
  };
  const of = buttons({ channel: address, pressed: "once" });

  it("is found by its address and name, with what it switches", () => {
    const found = findElement(of, site, address, null);
    expect(found).toMatchObject({ element: { id: `input:${address}` } });
    expect(reachedFrom(of, `input:${address}`)).toEqual([PORCH]);
    expect(findElement(of, site, "wall button, finch", null)).toEqual(found);
    expect(findElement(of, site, "other button, finch", null)).not.toHaveProperty("element");
  });

  it("that two inlets act on is told of, and not where one of them ignores it or waits for something else", () => {
    const device = (slug: string, when: Route["when"], deed: Route["do"] = { target: PORCH, action: "on" }) =>
      inlet(slug, { kind: "device", routes: [route(when, deed)] }).inlet;
    const once = device("one", { channel: "finch/wall-button", pressed: "once" });
    const shared = (other: InletDescription) =>
      caughtTwice([once, other]).map(
        ({
          route: {
            inlet: { slug },
          },
        }) => slug,
      );
    expect(shared(device("two", { channel: "alder-row/{board}/wall-button", pressed: "once" }))).toEqual(["two"]);
    expect(shared(device("two", { channel: "finch/wall-button", pressed: "twice" }))).toEqual([]);
    expect(shared(device("two", { channel: "finch/wall-button", pressed: "once" }, { ignore: true }))).toEqual([]);
    expect(shared(device("two", { channel: "fennel-hall/finch/wall-button", pressed: "once" }))).toEqual([]);
  });

  it("that a hole stands for is found too", () => {
    const wide = buttons({ channel: "{room}/wall-button", becomes: "on" });
    expect(reachedFrom(wide, `input:${address}`)).toEqual([PORCH]);
  });
});
