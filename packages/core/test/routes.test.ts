/** Routes: the index finds what looking at one after the other would find, and what is said is mapped exactly. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  type Arrival,
  buildRouter,
  buildVocabulary,
  checkInlet,
  covers,
  defaultReplies,
  fillReply,
  type InletDescription,
  isPermitted,
  mapped,
  matchRoute,
  NO_ARRIVAL,
  newOrders,
  type Route,
  type RouteInput,
  roleAt,
  scalarAt,
  shadowedRoutes,
  sheetOrders,
  tokensOf,
  understand,
} from "../src/index.ts";
import { phraseSnapshot } from "./support/phrases.ts";

const level = fc.constantFrom("a", "b", "c");
const word = fc.constantFrom("on", "Off", "lamp one");
const doing = { ignore: true } as const;

const when = fc.oneof(
  fc.record({ words: word }),
  fc.record({ digits: fc.constantFrom("1", "2", "12") }),
  fc
    .array(fc.oneof(level, fc.constantFrom("+", "{x}")), { minLength: 1, maxLength: 3 })
    .chain((levels) => fc.constantFrom({ topic: levels.join("/") }, { topic: [...levels, "#"].join("/") })),
  fc
    .dictionary(fc.constantFrom("/k", "/v", "/d/e"), fc.constantFrom("x", "y", 1, true, "{z}"), { minKeys: 1 })
    .map((fields) => ({ fields })),
  fc
    .array(fc.oneof(level, fc.constantFrom("+", "{x}")), { minLength: 2, maxLength: 3 })
    .chain((levels) =>
      fc.constantFrom(
        { channel: levels.join("/"), pressed: "twice" as const },
        { channel: levels.join("/"), becomes: "off" as const },
      ),
    ),
);
const route: fc.Arbitrary<Route> = when.map((one) => ({ when: one, do: doing }));

const arrival: fc.Arbitrary<Arrival> = fc.record({
  text: fc.oneof(fc.constant(null), fc.constantFrom("ON!", "off", "lamp, one", "other", "twice")),
  fields: fc.oneof(
    fc.constant(null),
    fc.record({ k: fc.constantFrom("x", "Y", 1, true, null), v: fc.constantFrom("x", 2), d: fc.record({ e: level }) }),
  ),
  topic: fc.oneof(
    fc.constant(null),
    fc.array(level, { minLength: 1, maxLength: 4 }).map((all) => all.join("/")),
  ),
  digits: fc.oneof(fc.constant(null), fc.constantFrom("1", "12", "3")),
  channel: fc.oneof(
    fc.constant(null),
    fc.array(level, { minLength: 3, maxLength: 3 }).map((all) => all.join("/")),
  ),
  hex: fc.constant(null),
  sender: fc.constant(null),
  room: fc.constant(null),
});

function catchesInput(one: Extract<Route["when"], { channel: string }>, { channel, text }: Arrival): boolean {
  const address = one.channel.replaceAll("{x}", "+");
  const filter = address.split("/").length === 2 ? `+/${address}` : address;
  return channel !== null && covers(filter, channel) && ("pressed" in one ? one.pressed : one.becomes) === text;
}

/** One after the other, by the words of the documentation. */
function naive(routes: readonly Route[], come: Arrival): number | null {
  const words = (text: string) =>
    tokensOf(text)
      .map((token) => token.text)
      .filter((one) => /[\p{L}\p{N}]/u.test(one))
      .join(" ");
  const catches = ({ when: one }: Route) => {
    if ("words" in one) return come.text !== null && words(one.words) === words(come.text);
    if ("digits" in one) return one.digits === come.digits;
    if ("topic" in one) return come.topic !== null && covers(one.topic.replaceAll("{x}", "+"), come.topic);
    if ("channel" in one) return catchesInput(one, come);
    if (!("fields" in one)) return true;
    return Object.entries(one.fields).every(([pointer, wanted]) => {
      const is = scalarAt(come.fields, pointer);
      return is !== null && (wanted === "{z}" || is.toLowerCase() === String(wanted).toLowerCase());
    });
  };
  const place = routes.findIndex(catches);
  return place < 0 ? null : place + 1;
}

describe("the first route that fits", () => {
  it("is the one that looking at each would find", () => {
    fc.assert(
      fc.property(fc.array(route, { maxLength: 12 }), arrival, (routes, come) => {
        const found = matchRoute(buildRouter(routes), come, () => true);
        expect(found?.place ?? null).toBe(naive(routes, come));
      }),
      { numRuns: 2_000 },
    );
  });

  it("is never one that is said to be shadowed", () => {
    fc.assert(
      fc.property(fc.array(route, { maxLength: 12 }), arrival, (routes, come) => {
        const found = matchRoute(buildRouter(routes), come, () => true);
        expect(shadowedRoutes(routes).map(({ place }) => place)).not.toContain(found?.place);
      }),
    );
  });

  it("gives what stands in its holes", () => {
    const routes: Route[] = [{ when: { topic: "{site}/want/{lamp}" }, do: doing }];
    const found = matchRoute(buildRouter(routes), { ...NO_ARRIVAL, topic: "wren/want/porch" }, () => true);
    expect(found?.holes).toEqual({ site: "wren", lamp: "porch" });
  });
});

describe("values on their way", () => {
  it.each([
    ["512", { scale: { from: [0, 1023], to: [0, 100] } }, 50],
    ["0", { scale: { from: [0, 255], to: [100, 0] } }, 100],
    ["9999", { scale: { from: [0, 255], to: [0, 100] } }, 100],
    ["-5", { scale: { from: [0, 255], to: [0, 100] } }, 0],
    ["ten", { scale: { from: [0, 255], to: [0, 100] } }, null],
    [" On ", { table: { on: "open", off: "close" } }, "open"],
    ["up", { table: { on: "open" } }, null],
    [
      "10",
      {
        steps: {
          below: [
            [20, "left"],
            [80, "centre"],
          ],
          otherwise: "right",
        },
      },
      "left",
    ],
    [
      "20",
      {
        steps: {
          below: [
            [20, "left"],
            [80, "centre"],
          ],
          otherwise: "right",
        },
      },
      "centre",
    ],
    [
      "80",
      {
        steps: {
          below: [
            [20, "left"],
            [80, "centre"],
          ],
          otherwise: "right",
        },
      },
      "right",
    ],
    ["1e3", { steps: { below: [[20, "left"]], otherwise: "right" } }, null],
  ] as const)("%s becomes by %j: %s", (value, mapping, means) => {
    expect(mapped(value, mapping as unknown as Parameters<typeof mapped>[1])).toBe(means);
  });
});

describe("what an arrival means", () => {
  const vocabulary = buildVocabulary(phraseSnapshot, null);
  const input: RouteInput = {
    observed: (channel) => (channel.address.endsWith("/towel") ? "on" : null),
    roleOf: (come) => roleAt({ "hall/ana": "engineer", "*": "operator" }, come),
  };
  const meaning = (routes: Route[], come: Partial<Arrival>) =>
    understand({ ...NO_ARRIVAL, ...come }, { router: buildRouter(routes), vocabulary, input });

  it("depends on what a channel is, where the route says so", () => {
    const routes: Route[] = [
      {
        when: { words: "button" },
        only: { channel: { address: "wren/towel", is: "on" } },
        do: { phrase: "towel rail off" },
      },
      { when: { words: "button" }, do: { phrase: "towel rail on" } },
    ];
    expect(meaning(routes, { text: "Button" })).toMatchObject({ route: 1, asks: [{ action: "off" }] });
    const turned = routes.map((one) => ({
      ...one,
      ...(one.only ? { only: { channel: { address: "wren/towel", is: "off" } } } : {}),
    }));
    expect(meaning(turned, { text: "button" })).toMatchObject({ route: 2 });
  });

  it("depends on who says it, where the route says so", () => {
    const routes: Route[] = [{ when: { any: true }, only: { senders: ["ana"] }, do: { phrase: "towel rail on" } }];
    expect(meaning(routes, { text: "x", sender: "ana" })).toMatchObject({ asks: [{ action: "on" }] });
    expect(meaning(routes, { text: "towel rail on", sender: "bo" })).toEqual({ noRoute: true });
  });

  it("fills holes with what came, and nothing that came becomes a pattern", () => {
    const routes: Route[] = [{ when: { fields: { "/n": "{n}" } }, do: { target: "wren/{n}", action: "on" } }];
    expect(meaning(routes, { fields: { n: "{sender}$&" } })).toMatchObject({ asks: [{ target: "wren/{sender}$&" }] });
  });

  it("is named by its route", () => {
    const routes: Route[] = [
      { name: "bell", when: { any: true }, do: { target: "wren/dining", action: "level", value: "{text}" } },
    ];
    expect(meaning(routes, { text: "35" })).toMatchObject({
      asks: [{ value: 35 }],
      used: [{ words: "bell", gave: "level of wren/dining: 35" }],
    });
  });
});

describe("who may ask", () => {
  it.each([
    [["porch/ana"], "porch", "ana", true],
    [["porch/ana"], "hall", "ana", false],
    [["porch/*"], "porch", null, true],
    [["*/ana"], null, "ana", true],
    [["ana"], "anywhere", "ana", true],
    [["ana"], "anywhere", "Ana", false],
    [["*"], null, null, true],
    [[], "porch", "ana", false],
  ])("%j: %s, %s → %s", (senders, room, sender, may) => {
    expect(isPermitted(senders, room, sender)).toBe(may);
  });
});

describe("a sheet", () => {
  const rows = (...wants: string[]) =>
    sheetOrders(
      wants.map((want, place) => ({ channel: `c${place}`, want })),
      "rows",
    );
  const ordersOf = (read: ReturnType<typeof sheetOrders>) => ("orders" in read ? read.orders : []);

  it("acts once on each change, and on nothing at the first look", () => {
    const looks = [
      ["on", "off"],
      ["on", "off"],
      ["on", "on"],
      ["", "on"],
      ["on", "on"],
    ].map((wants) => ordersOf(rows(...wants)));
    let seen: ReadonlyMap<string, string> | null = null;
    const acted = looks.map((orders) => {
      const { fresh, seen: now } = newOrders(seen, orders);
      seen = now;
      return fresh.map(({ phrase }) => phrase);
    });
    expect(acted).toEqual([[], [], ['"c1" on'], [], ['"c0" on']]);
  });

  it("acts on a cell by its id", () => {
    const cell = (id: string) => ordersOf(sheetOrders([{ id, say: "all off" }], "cell"));
    const { seen } = newOrders(null, cell("1"));
    expect(newOrders(seen, cell("1")).fresh).toEqual([]);
    expect(newOrders(seen, cell("2")).fresh).toMatchObject([{ mark: "2", phrase: "all off" }]);
  });

  it("says which column is missing", () => {
    expect(sheetOrders([{ chanel: "x", want: "on" }], "rows")).toEqual({ wrong: "it has no column “channel”." });
  });
});

describe("replies", () => {
  it("fill what they know, and only that", () => {
    expect(fillReply("Hello {sender}, {odd}  {result}.", { sender: "", result: "{sender}" })).toBe(
      "Hello, {odd} {sender}.",
    );
    expect(fillReply("x".repeat(3_000), {})).toHaveLength(2_000);
    expect(Object.values(defaultReplies).every((text) => text.length > 5)).toBe(true);
  });
});

describe("an inlet that is saved", () => {
  const inlet: InletDescription = { slug: "i", name: "I", kind: "hook", site: null };
  const texts = (more: Partial<InletDescription>, others: InletDescription[] = []) =>
    checkInlet({ ...inlet, ...more }, phraseSnapshot, others).map(({ level, at, text }) => `${level} ${at} ${text}`);

  it.each<[Partial<InletDescription>, RegExp]>([
    [{ site: "moon" }, /wrong site There is no site “moon”/],
    [{ replies: { refused: "No: {why}, {choices}" } }, /wrong replies\.refused has a hole \{choices\}/],
    [
      { routes: [{ when: { any: true }, do: doing, reply: "{cottage} is lit" }] },
      /wrong routes\[0\]\.reply has a hole \{cottage\}/,
    ],
    [
      {
        routes: [
          { when: { any: true }, do: doing },
          { when: { words: "x" }, do: doing },
        ],
      },
      /doubt routes\[1\] never acts: route 1/,
    ],
    [
      {
        routes: [
          { when: { words: "A b" }, do: doing },
          { when: { words: "a, B" }, do: doing },
        ],
      },
      /doubt routes\[1\] never acts/,
    ],
    [
      { routes: [{ when: { any: true }, do: { target: "porch lantern", action: "on" } }] },
      /Several are called “porch lantern”/,
    ],
    [
      { kind: "topic", routes: [{ when: { topic: "alder-row/{d}/+/do" }, do: doing }] },
      /overlaps alder-row\/\+\/\+\/do/,
    ],
    [{ routes: [{ when: { digits: "1" }, do: doing }] }, /kind hook has no keys/],
    [
      { routes: [{ when: { any: true }, only: { channel: { address: "x", is: "on" } }, do: doing }] },
      /No channel here is called “x”/,
    ],
    [{ kind: "chat" }, /doubt senders no sender is permitted yet/],
  ])("%j", (more, words) => {
    expect(texts(more).join("\n")).toMatch(words);
  });

  it("does not take another one's port", () => {
    const other: InletDescription = { ...inlet, slug: "o", kind: "line", settings: { port: 2_000 } };
    expect(texts({ kind: "line", settings: { port: 2_000 } }, [other]).join()).toMatch(
      /The inlet o listens on port 2000/,
    );
    expect(texts({ slug: "o", kind: "line", settings: { port: 2_000 } }, [other])).toEqual([]);
  });
});
