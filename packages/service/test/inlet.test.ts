/** The web inlet, as somebody else's program meets it: closed until told who may ask, exact about every mistake. */

import { once } from "node:events";
import { connect } from "node:net";
import type { Problem, RequestView } from "@bold-relay/api";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { createWorld, INLET, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld();
  await world.board("wren");
});
afterAll(() => world.stop());

interface Call {
  readonly body?: string | object;
  readonly key?: string | null;
  readonly inlet?: string;
  readonly method?: string;
  readonly headers?: Record<string, string>;
}

function call({ body, key = world.inletKey, inlet = INLET, method = "POST", headers = {} }: Call): Promise<Response> {
  return fetch(`${world.service.url}/in/${inlet}`, {
    method,
    headers: {
      "content-type": "application/json",
      ...(key === null ? {} : { authorization: `Bearer ${key}` }),
      ...headers,
    },
    ...(body === undefined ? {} : { body: typeof body === "string" ? body : JSON.stringify(body) }),
  });
}

async function problem(
  options: Call,
): Promise<{ status: number; code: string; detail: string; request?: string; nearest?: string[] }> {
  const response = await call(options);
  expect(response.headers.get("content-type")).toBe("application/problem+json");
  const body = (await response.json()) as Problem;
  expect(body.status).toBe(response.status);
  return body;
}

const ask = { target: "porch lantern, wren", action: "on" };
const requestCount = async () => (await world.pool.query("select count(*)::int as n from request")).rows[0].n as number;

describe("a permitted asker", () => {
  it("is told 202 with a place to look, or 200 with the outcome when it waits", async () => {
    const accepted = await call({ body: ask });
    expect(accepted.status).toBe(202);
    const open = (await accepted.json()) as RequestView;
    expect(accepted.headers.get("location")).toBe(`/api/v1/requests/${open.id}`);
    const waited = await call({ body: { ...ask, sender: "Wren guest book" }, headers: { prefer: "wait=20" } });
    expect(waited.status).toBe(200);
    expect(await waited.json()).toMatchObject({ outcome: "delivered", asker: "Wren guest book", inlet: INLET });
  });

  it("is told how it went and nothing else when it prefers that", async () => {
    const brief = (prefer: string, body: object = ask) => call({ body, headers: { prefer } });
    const waited = await brief("wait=20, return=minimal");
    expect(waited.status).toBe(200);
    expect(waited.headers.get("preference-applied")).toBe("return=minimal");
    const answer = (await waited.json()) as RequestView;
    expect(answer).toEqual({ id: expect.stringMatching(/^[0-9a-f-]{36}$/), outcome: "delivered" });
    expect(waited.headers.get("location")).toBe(`/api/v1/requests/${answer.id}`);
    const open = await brief("return=minimal");
    expect([open.status, await open.json()]).toEqual([202, { id: expect.any(String), outcome: "open" }]);
    const early = await brief("return=minimal, wait=20", { ...ask, until: "published" });
    expect([early.status, Object.keys((await early.json()) as object)]).toEqual([200, ["id", "outcome"]]);
    // A refusal is told in full: without its reason it would be of no use.
    const refused = await brief("wait=20, return=minimal", { ...ask, target: "porhc" });
    expect([refused.status, ((await refused.json()) as Problem).code]).toEqual([422, "unknown-channel"]);
  });

  it("names channels as people do", async () => {
    for (const target of [
      "  PORCH   Lantern,wren ",
      "Wren Porch lantern",
      "wren/porch",
      world.address("wren/porch"),
      "Alder Row Wren porch lantern",
    ]) {
      const response = await call({ body: { target, action: "off" }, headers: { prefer: "wait=20" } });
      const { commands } = (await response.json()) as RequestView;
      expect(commands[0]?.channel).toBe(world.address("wren/porch"));
    }
  });
});

describe("what is refused is journaled with its reason, and nothing is sent", () => {
  it.each([
    [
      "an unknown name, with the nearest",
      { target: "porch lantern wern", action: "on" },
      "unknown-channel",
      "wren/porch",
    ],
    ["a name of several channels", { target: "porch lantern", action: "on" }, "ambiguous-name", "wren/porch"],
    ["a wildcard", { target: "wren/+", action: "on" }, "wildcard-in-name", null],
    ["an action that it does not take", { target: "wren/porch", action: "explode" }, "unknown-action", null],
    ["a built-in name as action", { target: "wren/porch", action: "constructor" }, "unknown-action", null],
  ])("%s", async (_title, body, code, nearest) => {
    const refused = await problem({ body });
    expect(refused).toMatchObject({ status: 422, code });
    if (nearest) expect(refused.nearest).toContain(world.address(nearest));
    const kept = await world.client.request(refused.request ?? "");
    expect(kept).toMatchObject({ target: body.target, refusal: { code }, commands: [] });
    expect(kept.outcome).toBe(code === "unknown-action" ? "refused" : "not-understood");
  });

  it("a channel of another site does not exist for this inlet", async () => {
    const other = await createWorld();
    expect(await problem({ body: { target: other.address("wren/porch"), action: "on" } })).toMatchObject({
      code: "unknown-channel",
    });
    await other.stop();
  });
});

describe("what is malformed is not journaled, and says every mistake", () => {
  it.each([
    ["not JSON", "{", 400, "bad-json"],
    ["nothing", "", 400, "bad-json"],
    ["an array", "[]", 400, "bad-request"],
    ["wrong types and unknown fields", { target: 7, action: ["on"], colour: "red" }, 400, "bad-request"],
    ["a prototype", '{"__proto__":{"target":"x"},"target":"wren/porch","action":"on"}', 400, "bad-request"],
    ["a control character", { target: "wren/porch\u0007", action: "on" }, 400, "bad-request"],
    ["a NUL", { target: "wren/porch\u0000", action: "on" }, 400, "bad-json"],
    ["a name that is too long", { target: "x".repeat(300), action: "on" }, 400, "bad-request"],
    ["too much", { target: "x".repeat(20_000), action: "on" }, 413, "body-too-large"],
  ] as const)("%s", async (_title, body, status, code) => {
    const before = await requestCount();
    expect(await problem({ body })).toMatchObject({ status, code });
    expect(await requestCount()).toBe(before);
  });

  it("names every wrong field at once", async () => {
    const { detail } = await problem({ body: { target: 7, colour: "red" } });
    for (const word of ["target", "action", "colour"]) expect(detail).toContain(`“${word}”`);
  });

  it("a body that is not declared as JSON, and another method", async () => {
    expect(
      await problem({ body: "target=x", headers: { "content-type": "application/x-www-form-urlencoded" } }),
    ).toMatchObject({ status: 415 });
    expect(await problem({ method: "GET" })).toMatchObject({ status: 405, code: "wrong-method" });
  });

  it("a body in pieces that grows past the limit is cut off", async () => {
    const socket = connect(Number(new URL(world.service.url).port), "127.0.0.1");
    socket.write(
      `POST /in/${INLET} HTTP/1.1\r\nhost: x\r\nauthorization: Bearer ${world.inletKey}\r\ncontent-type: application/json\r\ntransfer-encoding: chunked\r\n\r\n`,
    );
    socket.write(`5000\r\n${"x".repeat(0x5000)}\r\n`);
    const [answer] = await once(socket, "data");
    expect(String(answer)).toContain("413");
    socket.destroy();
  });
});

describe("who may not ask", () => {
  it.each([
    ["no key", null],
    ["a wrong key", "brk_wrong"],
    ["not even a token", "a b c"],
  ])("%s: 401, nothing journaled, nothing learnt", async (_title, key) => {
    const before = await requestCount();
    const real = await problem({ key, body: ask });
    const invented = await problem({ key, body: ask, inlet: "no-such-inlet" });
    expect(real).toEqual(invented);
    expect(real).toMatchObject({ status: 401, code: "wrong-key" });
    expect(await requestCount()).toBe(before);
  });

  it("a member's key does not open an inlet, nor an inlet's key the API", async () => {
    expect(await problem({ key: world.key, body: ask })).toMatchObject({ code: "wrong-key" });
    const board = await fetch(`${world.service.url}/api/v1/board`, {
      headers: { authorization: `Bearer ${world.inletKey}` },
    });
    expect(board.status).toBe(401);
  });

  it("a key that is revoked while it is remembered stops at once, in the journal itself", async () => {
    expect((await call({ body: ask })).status).toBe(202);
    await world.pool.query("update api_key set revoked_at = now() where inlet_id is not null");
    const before = await requestCount();
    expect(await problem({ body: ask })).toMatchObject({ status: 401, code: "wrong-key" });
    expect(await requestCount()).toBe(before);
  });

  it("guessing is slowed down", async () => {
    const statuses = [];
    for (let turn = 0; turn < 40; turn += 1) statuses.push((await call({ key: `guess-${turn}`, body: ask })).status);
    expect(statuses.at(-1)).toBe(429);
    const response = await call({ key: "again", body: ask });
    expect(Number(response.headers.get("retry-after"))).toBeGreaterThan(0);
  });
});
