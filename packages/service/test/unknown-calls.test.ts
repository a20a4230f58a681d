/** Calls that there are not, and mistakes of ours: each is told for what it is, and never for something else. */
import { readFile } from "node:fs/promises";
import type { SiteListView } from "@bold-relay/api";
import pg from "pg";
import { afterAll, beforeAll, describe, expect, inject, it } from "vitest";
import { methodsAt } from "../src/http/unknown-call.ts";
import { asRelayError } from "../src/http-exchange/problem.ts";
import { createLog } from "../src/index.ts";
import { createPool } from "../src/store/pool.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld();
});
afterAll(() => world.stop());

async function call(method: string, path: string) {
  const headers = { authorization: `Bearer ${world.key}` };
  const response = await fetch(world.service.url + path, { method, headers });
  const body = response.headers.get("content-type")?.includes("problem") ? await response.json() : null;
  const { code, detail } = (body ?? {}) as { code?: string; detail?: string };
  return { status: response.status, allow: response.headers.get("allow"), code, detail };
}

describe("an address of the API", () => {
  it.each([
    ["POST", "/api/v1/status", "GET, HEAD"],
    ["DELETE", "/api/v1/requests", "GET, HEAD, POST"],
    ["PUT", "/api/v1/sites", "GET, HEAD"],
    ["POST", "/api/v1/inlets/anything", "GET, HEAD, PUT, PATCH, DELETE"],
  ])("%s %s is answered with the methods that it has", async (method, path, allow) => {
    const answer = await call(method, path);
    expect(answer).toMatchObject({ status: 405, code: "wrong-method" });
    expect(answer.allow?.split(", ").sort()).toEqual(allow.split(", ").sort());
    // The sentence names the same methods, and has no place left unfilled.
    expect(answer.detail).toContain(`takes ${answer.allow}.`);
    expect(answer.detail).not.toMatch(/[{}]/);
  });

  it.each([
    ["GET", "/api"],
    ["GET", "/api/"],
    ["GET", "/api/v2/status"],
    ["GET", "/api/v1"],
    ["GET", "/api/v1/nope"],
    ["POST", "/api/v1/nope"],
    ["GET", "/docs"],
    ["GET", "/docs/start.md"],
    ["GET", "/docs/reference/errors"],
  ])("%s %s that there is not is a problem", async (method, path) => {
    expect(await call(method, path)).toMatchObject({ status: 404, code: "not-found" });
  });

  it("is found by what stands in its place of names", () => {
    expect(methodsAt("/sites/alder-row/check")).toEqual(["POST"]);
    expect(methodsAt("/requests.csv")).toEqual(["GET", "HEAD"]);
    expect(methodsAt("/status/more")).toBeNull();
  });
});

it("lists sites with their size", async () => {
  const headers = { authorization: `Bearer ${world.key}` };
  const sites = (await (await fetch(`${world.service.url}/api/v1/sites`, { headers })).json()) as SiteListView[];
  const { sites: board } = await world.client.board();
  expect(sites.map(({ slug }) => slug)).toEqual(board.map(({ slug }) => slug));
  const [first] = sites;
  const devices = new Set(board[0]?.channels.map(({ device }) => device.address));
  expect(first).toMatchObject({ channels: board[0]?.channels.length, devices: devices.size, version: 1 });
});

it("records who calls by the console's session, the command line, and any other program", async () => {
  const ask = async (agent: string) => {
    const headers = { authorization: `Bearer ${world.key}`, "content-type": "application/json", "user-agent": agent };
    const body = JSON.stringify({ target: "nobody/knows", action: "on" });
    await fetch(`${world.service.url}/api/v1/requests`, { method: "POST", headers, body });
    const [last] = (await world.client.log({ limit: 1 })).requests;
    return last?.inlet;
  };
  expect(await ask("bold-relay-cli/0.2.0")).toBe("command line");
  expect(await ask("node")).toBe("API");
  // Its name must be the first of the field, as ours is.
  expect(await ask("mine bold-relay-cli/0.2.0")).toBe("API");
});

describe("trouble that the database has nothing to do with is not told as its", () => {
  const log = createLog("silent");
  const told = (error: unknown) => {
    const { code, facts } = asRelayError(error, log);
    return { code, why: String(facts.why ?? "") };
  };

  it.each([
    ["a missing file", () => readFile("/nowhere/openapi.json")],
    ["a folder that is read as a file", () => readFile("/")],
    ["an outside service that is not there", () => fetch("http://127.0.0.1:1/")],
    ["an outside service that resets", () => Promise.reject(Object.assign(new Error("read ECONNRESET"), RESET))],
    ["one that times out", () => Promise.reject(new Error("connect timeout"))],
    ["a bug", () => Promise.resolve().then(() => (undefined as unknown as { x: { y: 1 } }).x.y)],
  ])("%s", async (_what, work) => {
    const error = await (work() as Promise<unknown>).catch((one: unknown) => one);
    expect(error).toBeInstanceOf(Error);
    expect(told(error)).toMatchObject({ code: "internal", why: expect.not.stringContaining("atabase") });
  });

  it("and what is the database's still is", async () => {
    const gone = createPool("postgresql://nobody:x@127.0.0.1:1/x", () => {}, 1);
    const refused = await gone.query("select 1").catch((error: unknown) => error);
    expect(told(refused).code).toBe("service-busy");
    const connected = await gone.connect().catch((error: unknown) => error);
    expect(told(connected).code).toBe("service-busy");
    await gone.end();
    const there = createPool(inject("databaseUrl"), () => {}, 1);
    const wrong = await there.query("select from no_such_table").catch((error: unknown) => error);
    expect(wrong).toBeInstanceOf(pg.DatabaseError);
    expect(told(wrong).code).toBe("service-busy");
    const client = await there.connect();
    const cut = client.query("select pg_terminate_backend(pg_backend_pid())").catch((error: unknown) => error);
    client.on("error", () => {});
    expect(told(await cut).code).toBe("service-busy");
    client.release(true);
    await there.end();
  });
});

const RESET = { code: "ECONNRESET", syscall: "read", errno: -104 };
