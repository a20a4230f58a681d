/** Closed by default: who gets in, what a cookie may do, what nobody may do without one. */
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { createWorld, OWNER, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld();
});
afterAll(() => world.stop());

const url = (path: string) => `${world.service.url}${path}`;
const same = () => ({ origin: world.service.url });

async function signIn(body: object = OWNER, headers: Record<string, string> = same()): Promise<Response> {
  return fetch(url("/api/v1/session"), {
    method: "POST",
    headers: { "content-type": "application/json", ...headers },
    body: JSON.stringify(body),
  });
}

function cookieOf(response: Response): string {
  return (response.headers.get("set-cookie") ?? "").split(";")[0] ?? "";
}

describe("without signing in", () => {
  it.each([
    ["GET", "/api/v1/session"],
    ["DELETE", "/api/v1/session"],
    ["GET", "/api/v1/board"],
    ["GET", "/api/v1/status"],
    ["GET", "/api/v1/live"],
    ["GET", "/api/v1/requests"],
    ["POST", "/api/v1/requests"],
    ["GET", "/api/v1/requests/00000000-0000-7000-8000-000000000000"],
    ["GET", "/api/v1/requests/00000000-0000-7000-8000-000000000000/trace"],
  ])("%s %s is 401", async (method, path) => {
    const response = await fetch(url(path), { method });
    expect(response.status).toBe(401);
    expect(await response.json()).toMatchObject({ code: "not-signed-in" });
  });

  it("health is open and tells nothing of the sites", async () => {
    expect(await (await fetch(url("/health/live"))).json()).toEqual({
      alive: true,
      version: expect.stringMatching(/^\d+\.\d+\.\d+$/),
      build: null,
    });
    expect(await (await fetch(url("/health/ready"))).json()).toEqual({ ready: true, waitsFor: [] });
  });

  it("an unknown API address is 404 in problem details", async () => {
    const response = await fetch(url("/api/v2/anything"));
    expect([response.status, (await response.json()).code]).toEqual([404, "not-found"]);
  });
});

describe("signing in", () => {
  it("sets a cookie that scripts and other sites cannot use, and ends with signing out", async () => {
    const response = await signIn({ ...OWNER, name: OWNER.name.toUpperCase() });
    expect(response.status).toBe(200);
    expect(response.headers.get("set-cookie")).toMatch(/HttpOnly/);
    expect(response.headers.get("set-cookie")).toMatch(/SameSite=Strict/);
    const cookie = cookieOf(response);
    const session = await fetch(url("/api/v1/session"), { headers: { cookie } });
    expect(await session.json()).toEqual({
      id: expect.any(Number),
      name: "Ines",
      role: "owner",
      sites: null,
      by: "session",
      recent: true,
      mustEnrol: false,
    });
    await fetch(url("/api/v1/session"), { method: "DELETE", headers: { cookie, ...same() } });
    expect((await fetch(url("/api/v1/session"), { headers: { cookie } })).status).toBe(401);
  });

  it("a cookie from another site's page changes nothing", async () => {
    const cookie = cookieOf(await signIn());
    const ask = (headers: Record<string, string>) =>
      fetch(url("/api/v1/requests"), {
        method: "POST",
        headers: { cookie, "content-type": "application/json", ...headers },
        body: JSON.stringify({ target: "wren/porch", action: "on" }),
      });
    expect((await ask({})).status).toBe(403);
    expect((await ask({ origin: "https://elsewhere.example" })).status).toBe(403);
    expect((await ask({ "sec-fetch-site": "cross-site", ...same() })).status).toBe(403);
    expect((await ask(same())).status).toBe(202);
    expect((await signIn(OWNER, { origin: "https://elsewhere.example" })).status).toBe(403);
  });

  it("passwords are argon2id, tokens are kept as SHA-256 only", async () => {
    const { rows } = await world.pool.query("select password_hash from member");
    expect(rows[0].password_hash).toMatch(/^\$argon2id\$/);
    const { rows: keys } = await world.pool.query("select * from api_key");
    expect(JSON.stringify(keys)).not.toContain(world.key);
  });

  it("a wrong name and a wrong password are told alike, and slowed down", async () => {
    const wrongName = await (await signIn({ name: "Nobody", password: "x" })).json();
    const wrongPassword = await (await signIn({ ...OWNER, password: "x" })).json();
    expect(wrongName).toEqual(wrongPassword);
    expect(wrongName).toMatchObject({ status: 401, code: "wrong-password" });
    let last = 0;
    for (let turn = 0; turn < 12 && last !== 429; turn += 1) last = (await signIn({ ...OWNER, password: "x" })).status;
    expect(last).toBe(429);
  });
});

describe("an address", () => {
  it("that a caller only claims makes no new caller of them", async () => {
    let last = 0;
    for (let turn = 0; turn < 40 && last !== 429; turn += 1) {
      const response = await fetch(url("/api/v1/session"), {
        method: "POST",
        headers: {
          "content-type": "application/json",
          origin: world.service.url,
          "x-forwarded-for": `198.51.100.${turn}`,
        },
        body: JSON.stringify({ name: `Guess ${turn}`, password: "a guess of mine" }),
      });
      last = response.status;
    }
    expect(last).toBe(429);
  });
});

describe("every answer", () => {
  it("carries a strict content policy and says not to keep what is private", async () => {
    const response = await fetch(url("/api/v1/board"), { headers: { authorization: `Bearer ${world.key}` } });
    const policy = response.headers.get("content-security-policy") ?? "";
    expect(policy).toContain("script-src 'self'");
    expect(policy).not.toContain("unsafe");
    expect(response.headers.get("cache-control")).toBe("no-store");
    expect(response.headers.get("x-powered-by")).toBeNull();
  });

  it.each([
    "/api/v1/board",
    "/in/nobody",
    "/in/hall-tablet",
    "/health/live",
    "/nothing",
    "/metrics",
    "/api/v1/nothing",
  ])("of %s is taken for what it says that it is, and asks for nothing on plain HTTP", async (path) => {
    const { headers } = await fetch(url(path));
    expect([headers.get("x-content-type-options"), headers.get("strict-transport-security")]).toEqual([
      "nosniff",
      null,
    ]);
  });

  it("behind TLS asks browsers for nothing but TLS, and keeps its cookie to this host", async () => {
    const secure = await createWorld({ environment: { BOLD_RELAY_SECURE_COOKIES: "true" } });
    const response = await fetch(`${secure.service.url}/api/v1/session`, {
      method: "POST",
      headers: { "content-type": "application/json", origin: secure.service.url },
      body: JSON.stringify(OWNER),
    });
    expect(response.headers.get("strict-transport-security")).toBe("max-age=31536000");
    expect(response.headers.get("set-cookie")).toMatch(
      /^__Host-relay_desk=[^;]+; .*Path=\/; .*HttpOnly; Secure; SameSite=Strict/,
    );
    await secure.stop();
  });
});
