/** Texts that are made to break something: in addresses, in bodies, at inlets. Each is refused in words, or does no harm. */
import { connect } from "node:net";
import { operations } from "@bold-relay/api/schema";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { createWorld, INLET, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld();
});
afterAll(() => world.stop());

const call = (method: string, path: string, body?: string, key = world.key) =>
  fetch(`${world.service.url}${path}`, {
    method,
    headers: { authorization: `Bearer ${key}`, "content-type": "application/json", "if-match": "*" },
    signal: AbortSignal.timeout(20_000),
    ...(body === undefined ? {} : { body }),
  });

const ODD = [
  "%00",
  "%",
  "%zz",
  "%ff%fe",
  "%E0%A4%A",
  "%0d%0aset-cookie:x",
  "..%2f..%2fetc",
  "%ed%a0%80",
  "x".repeat(3_000),
];

const addresses = Object.keys(operations).filter((name) => name.includes("/:"));

describe("an address", () => {
  it.each(addresses)("%s with odd parts is a mistake of the caller's, never ours", async (name) => {
    const [method = "GET", path = ""] = name.split(" ");
    for (const odd of ODD) {
      const address = `/api/v1${path.replace(/:\w+/g, odd)}`;
      const response = await call(method, address, method === "GET" || method === "DELETE" ? undefined : "{}");
      expect([address.slice(0, 80), response.status]).toEqual([
        address.slice(0, 80),
        expect.toSatisfy((status: number) => status >= 400 && status < 500),
      ]);
      await response.arrayBuffer();
    }
  });

  it.each([
    "/%00",
    "/%",
    "/in/%00",
    "/in/%",
    `/in/${INLET}/%ff`,
    "/assets/%00",
    "/assets/%ff",
    "/assets/..%2f..%2fpackage.json",
    "/health/%00",
    "/api/v1/%00",
    "/metrics?%00",
  ])("%s is no fault of ours", async (path) => {
    const response = await call("GET", path);
    expect(response.status).toBeLessThan(500);
    expect(await response.text()).not.toContain('"bold-relay-workspace"');
  });
});

describe("a query", () => {
  it.each(["/requests", "/requests.csv", "/audit", "/statistics", "/alerts", "/wire"])(
    "of %s with odd values",
    async (path) => {
      for (const name of ["before", "site", "channel", "asker", "words", "ended", "days", "filter", "limit"]) {
        for (const odd of ["%00", "%ff", "%5Cu0000", "'", "1;drop", "x".repeat(5_000)]) {
          const response = await call("GET", `/api/v1${path}?${name}=${odd}`);
          expect([path, name, odd.slice(0, 10), response.status < 500]).toEqual([path, name, odd.slice(0, 10), true]);
          await response.body?.cancel();
        }
      }
    },
  );
});

const TEXTS = ["\u0000", "a\u0000b", "\u001b[2J", "a\nb", "\u202etxt", "\ud800", "\u009b31m", "\u2028"];

describe("a name", () => {
  const bodies: [string, string, (text: string) => object][] = [
    ["POST", "/members", (name) => ({ name })],
    ["POST", "/keys", (name) => ({ name })],
    ["POST", "/lockouts", (reason) => ({ target: "wren/porch", reason })],
    ["POST", "/requests", (target) => ({ target, action: "on" })],
    ["POST", "/requests", (action) => ({ target: "wren/porch", action })],
    ["POST", "/wire", (topic) => ({ topic, payload: "x" })],
    ["PUT", "/inlets/odd", (name) => ({ slug: "odd", name, kind: "hook", site: null })],
    [
      "PUT",
      "/inlets/odd",
      (sender) => ({ slug: "odd", name: "Odd", kind: "chat", site: null, senders: [`${sender}/x`] }),
    ],
    [
      "PUT",
      "/inlets/odd",
      (word) => ({ slug: "odd", name: "Odd", kind: "hook", site: null, synonyms: { [word]: "porch" } }),
    ],
    [
      "PUT",
      "/notifications/odd",
      (topic) => ({ slug: "odd", name: "Odd", site: null, on: { changes: true }, to: { topic: `odd/${topic}` } }),
    ],
    [
      "PUT",
      "/profiles/odd",
      (name) => ({ slug: "odd", name, codec: "json", topics: { do: "a/do", done: null, is: null, here: null } }),
    ],
    ["PUT", "/sites/odd/description", (name) => ({ slug: "odd", name, rooms: [] })],
    [
      "PUT",
      "/sites/odd/description",
      (name) => ({
        slug: "odd",
        name: "Odd",
        rooms: [
          {
            slug: "r",
            name: "R",
            devices: [{ slug: "d", name, profile: "reporting", channels: [{ slug: "c", name: "C", kind: "relay" }] }],
          },
        ],
      }),
    ],
  ];
  it.each(bodies)("%s %s holds no control character", async (method, path, body) => {
    for (const text of TEXTS) {
      const response = await call(method, `/api/v1${path}`, JSON.stringify(body(`odd${text}odd`)));
      const { code } = (await response.json()) as { code?: string };
      expect([JSON.stringify(text), response.status, code]).toEqual([
        JSON.stringify(text),
        expect.toSatisfy((status: number) => status >= 400 && status < 500),
        expect.any(String),
      ]);
    }
  });
});

describe("an arrival", () => {
  it("with odd texts is taken or refused in words, and nothing of them reaches a terminal", async () => {
    await world.client.saveInlet(
      { slug: "odd-hook", name: "Odd", kind: "hook", site: world.site, settings: { text: "/text", sender: "/who" } },
      0,
    );
    const { key } = await world.client.addKey({ name: "k", inlet: "odd-hook" });
    for (const text of TEXTS) {
      const body = JSON.stringify({ text: `porch ${text} lantern on`, who: `An${text}a`, more: { [text]: text } });
      const response = await call("POST", "/in/odd-hook", body, key);
      expect(response.status).toBeLessThan(500);
      const said = await response.text();
      expect(said.replace(/[\t\r\n]/g, "")).not.toMatch(/[\p{Cc}\u202a-\u202e]/u);
    }
    const { requests } = await world.client.log({ limit: 50 });
    for (const { asker } of requests) expect(asker).not.toMatch(/[\p{Cc}\u202a-\u202e]/u);
  });

  it("with what looks like a key of ours is kept without it", async () => {
    const text = `my key is ${world.key} please`;
    const { key } = await world.client.addKey({ name: "k2", inlet: "odd-hook" });
    await call("POST", "/in/odd-hook", JSON.stringify({ text, who: "Ana", nested: { key: world.key } }), key);
    const { rows } = await world.pool.query("select * from request");
    expect(JSON.stringify(rows)).not.toContain(world.key);
    expect(JSON.stringify(rows)).toContain("(a key was here)");
  });

  it("with a key in whatever field is stored nowhere with it: request, reply, audit log", async () => {
    const secret = world.key;
    const asks = [
      { target: secret, action: "on" },
      { target: "wren/porch", action: secret.slice(0, 40) },
      { target: "wren/porch", action: "level", value: secret },
    ];
    for (const ask of asks) await call("POST", "/api/v1/requests", JSON.stringify(ask), world.key);
    await call("POST", "/api/v1/phrases", JSON.stringify({ text: `${secret} on` }), world.key);
    const { key } = await world.client.addKey({ name: "k4", inlet: "odd-hook" });
    await call("POST", "/in/odd-hook", JSON.stringify({ text: "porch", who: secret }), key);
    await call(
      "POST",
      "/in/hall-tablet",
      JSON.stringify({ target: secret, action: "on", sender: secret }),
      world.inletKey,
    );
    await world.client.lockOut({ target: "finch/path", reason: `see ${secret}` });
    await call("POST", "/api/v1/session", JSON.stringify({ name: secret, password: "x" }));
    const stored: string[] = [];
    for (const table of ["request", "reply", "audit", "inlet_way_use"]) {
      const { rows } = await world.pool.query(`select t::text as row from ${table} t`).catch(() => ({ rows: [] }));
      stored.push(...rows.map(({ row }: { row: string }) => row));
    }
    const [body] = [secret.slice(4, 30)];
    expect(stored.length).toBeGreaterThan(8);
    expect(stored.filter((row) => row.includes(body))).toEqual([]);
  });

  it("is kept without what no route looks at", async () => {
    const routes = [{ when: { fields: { "/type": "on", "/where": "{lamp}" } }, do: { phrase: "{lamp} on" } }];
    await world.client.saveInlet({ slug: "lean", name: "Lean", kind: "hook", site: world.site, routes }, 0);
    const { key } = await world.client.addKey({ name: "k3", inlet: "lean" });
    const body = { type: "on", where: "porch lantern in wren", guest: { name: "Rosa", card: "4111" } };
    const response = await call("POST", "/in/lean", JSON.stringify(body), key);
    expect(response.status).toBeLessThan(300);
    const { rows } = await world.pool.query("select said from request where inlet = 'lean'");
    expect(rows[0].said.arrival).toEqual({ fields: { type: "on", where: "porch lantern in wren" } });
  });
});

describe("what is read otherwise in two places is refused", () => {
  it.each(["br", "gzip", "deflate", "GZIP, br", "x-made-up"])("a body that says it is %s", async (encoding) => {
    for (const path of ["/api/v1/requests", `/in/${INLET}`]) {
      const response = await fetch(`${world.service.url}${path}`, {
        method: "POST",
        headers: {
          authorization: `Bearer ${path.startsWith("/in/") ? world.inletKey : world.key}`,
          "content-type": "application/json",
          "content-encoding": encoding,
        },
        body: JSON.stringify({ target: "wren/porch", action: "on" }),
      });
      expect([path, response.status, await response.json()]).toMatchObject([path, 415, { code: "wrong-encoding" }]);
    }
  });

  it.each(["/API/V1/board", "/api/V1/board", "/Api/v1/board", "/api/v1/BOARD", "/Health/live", "/METRICS"])(
    "the spelling %s",
    async (path) => {
      expect((await call("GET", path)).status).toBe(404);
    },
  );

  it.each([
    ["two Host headers", "host: a\r\nhost: b\r\n"],
    ["two that are the same", "host: a\r\nHOST: a\r\n"],
  ])("%s", async (_what, headers) => {
    const { hostname, port } = new URL(world.service.url);
    const socket = connect(Number(port), hostname);
    socket.write(`GET /health/live HTTP/1.1\r\n${headers}connection: close\r\n\r\n`);
    const chunks: Buffer[] = [];
    for await (const chunk of socket) chunks.push(chunk as Buffer);
    expect(Buffer.concat(chunks).toString()).toMatch(/^HTTP\/1\.1 400 /);
  });

  it.each([
    `{"slug":"x","name":"X","kind":"hook","site":null,"settings":{"__proto__":{"a":1}}}`,
    `{"slug":"x","name":"X","kind":"hook","site":null,"settings":{"\\u005f_proto__":{"a":1}}}`,
    `{"slug":"x","name":"X","kind":"hook","site":null,"settings":{"__\\u0070roto__":{"a":1}}}`,
    `{"slug":"x","name":"X","kind":"hook","site":null,"settings":{"__prot\\u006F__":{"a":1}}}`,
    `{"slug":"x","name":"X","kind":"hook","site":null,"routes":[{"when":{"__proto__":{}},"do":{"ignore":true}}]}`,
  ])("a name that is no name: %s", async (body) => {
    const response = await call("PUT", "/api/v1/inlets/x", body);
    expect([response.status, JSON.stringify(await response.json())]).toEqual([
      400,
      expect.stringContaining("__proto__"),
    ]);
  });

  it.each(["csv", "jsonl"])("an export of a site that is not there, as %s, is answered", async (form) => {
    const response = await call("GET", `/api/v1/requests.${form}?site=nowhere`);
    expect(response.status).toBeLessThan(500);
    await response.text();
  });
});
