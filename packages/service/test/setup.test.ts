/** From an empty database to somebody who can sign in: by the one-time link, or from a file. */
import { randomBytes } from "node:crypto";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { createClient } from "@bold-relay/api";
import { createServiceDatabase, findPrograms } from "@bold-relay/rig";
import { afterAll, beforeAll, describe, expect, inject, it } from "vitest";
import { createPool } from "../src/index.ts";
import { runServerProgram } from "./support/server-program.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
let folder: string;

beforeAll(async () => {
  world = await createWorld();
  folder = mkdtempSync(path.join(tmpdir(), "bold-relay-setup-test-"));
});
afterAll(async () => {
  await world.stop();
  rmSync(folder, { recursive: true, force: true });
});

function file(content: unknown): string {
  const target = path.join(folder, `${randomBytes(4).toString("hex")}.json`);
  writeFileSync(target, typeof content === "string" ? content : JSON.stringify(content));
  return target;
}

const server = (...words: string[]) =>
  runServerProgram({ BOLD_RELAY_DATABASE_URL: world.config.databaseUrl }, ...words);

async function setupFrom(plan: unknown, ...more: string[]) {
  const { code, out, err } = await server("setup", "--from", file(plan), ...more);
  return { code, err, made: code === 0 ? JSON.parse(out) : null };
}

describe("a set-up file", () => {
  it("makes what is missing, shows its secrets once, and leaves what is there", async () => {
    const plan = {
      owner: "Tomas",
      keys: [{ member: "tomas", name: "terminal" }],
      inlets: [{ slug: "porch", name: "Porch", site: world.site }],
    };
    const first = await setupFrom(plan);
    expect(first.made).toEqual({
      owner: { owner: "Tomas", password: expect.stringMatching(/^.{16}$/) },
      keys: [{ member: "Tomas", name: "terminal", key: expect.stringMatching(/^brk_/) }],
      inlets: [{ slug: "porch", key: expect.stringMatching(/^brk_/) }],
    });
    expect((await setupFrom(plan)).made).toEqual({ owner: null, keys: [], inlets: [] });
    const session = (key: string) => createClient({ baseUrl: world.service.url, key }).session();
    expect(await session(first.made.keys[0].key)).toMatchObject({ name: "Tomas", role: "owner", by: "key" });
    const anew = await setupFrom(plan, "--new-secrets");
    await expect(session(first.made.keys[0].key)).rejects.toMatchObject({ problem: { code: "wrong-key" } });
    expect(await session(anew.made.keys[0].key)).toMatchObject({ name: "Tomas" });
  });

  it.each([
    ["what is not YAML", "{", /Flow map|flow collection/i],
    ["an unknown field", { owners: [] }, /"owners" is not allowed/],
    ["a file that is not there", { sites: ["nowhere.json"] }, /nowhere\.json: ENOENT/],
    ["a key for nobody", { keys: [{ member: "nobody", name: "x" }] }, /no member “nobody”/],
    [
      "an inlet of a site that does not exist",
      { inlets: [{ slug: "x", name: "X", site: "nowhere" }] },
      /no site “nowhere”/,
    ],
  ])("with %s is refused", async (_title, content, message) => {
    const { code, err } = await setupFrom(content);
    expect([code, err]).toEqual([1, expect.stringMatching(message)]);
  });

  it.each([
    ["a wildcard in an identifier", { slug: "a+b", name: "x", rooms: [] }, /“slug” may hold small letters/],
    [
      "a profile that does not exist",
      {
        slug: "a",
        name: "x",
        rooms: [
          {
            slug: "r",
            name: "R",
            devices: [{ slug: "d", name: "D", profile: "none", channels: [{ slug: "c", name: "C", kind: "light" }] }],
          },
        ],
      },
      /names the profile “none”, which does not exist/,
    ],
  ])("whose site has %s is refused, and nothing of the file is done", async (_title, site, message) => {
    const { code, err } = await setupFrom({ owner: "Nobody", sites: [file(site)] });
    expect([code, err]).toEqual([1, expect.stringMatching(message)]);
    const { rows } = await world.pool.query(
      "select from member where name = 'Nobody' union all select from site where slug = 'a'",
    );
    expect(rows).toEqual([]);
  });
});

describe("an owner's new password", () => {
  it("ends that member's sessions", async () => {
    const reset = async () => /\n\n {2}(\S+)\n$/.exec((await server("owner", "Marta")).out)?.[1] ?? "";
    const signIn = (password: string) => post(world.service.url, "/session", { name: "marta", password });
    const first = await reset();
    const response = await signIn(first);
    const cookie = (response.headers.get("set-cookie") ?? "").split(";")[0] ?? "";
    const anew = await reset();
    expect((await fetch(`${world.service.url}/api/v1/session`, { headers: { cookie } })).status).toBe(401);
    expect((await signIn(first)).status).toBe(401);
    expect((await signIn(anew)).status).toBe(200);
  });
});

describe("the one-time link", () => {
  const GOOD = "four lanterns stand beside water";

  it("is printed for an empty installation only", async () => {
    const said = await server("setup");
    expect(said.out).toContain("This installation has an owner: ");
    expect(said.out).not.toContain("/setup#");
  });

  it("makes the first owner and signs them in; after that no link is valid", async () => {
    const empty = await emptyWorld();
    const first = await linkToken(empty);
    const second = await linkToken(empty);
    expect(await (await fetch(`${empty.service.url}/api/v1/setup`)).json()).toEqual({ hasOwner: false });
    const weak = await post(empty.service.url, "/setup", { token: first, name: "Ines", password: "short" });
    expect([weak.status, (await weak.json()).code]).toEqual([422, "weak-password"]);
    const done = await post(empty.service.url, "/setup", { token: first, name: "Ines", password: GOOD });
    expect([done.status, await done.json()]).toEqual([200, expect.objectContaining({ name: "Ines", role: "owner" })]);
    const cookie = (done.headers.get("set-cookie") ?? "").split(";")[0] ?? "";
    const members = await fetch(`${empty.service.url}/api/v1/members`, { headers: { cookie } });
    expect((await members.json()).map(({ name }: { name: string }) => name)).toEqual(["Ines"]);
    for (const token of [first, second]) {
      const again = await post(empty.service.url, "/setup", { token, name: "Mallory", password: GOOD });
      expect([again.status, (await again.json()).code]).toEqual([401, "wrong-setup-link"]);
    }
    expect(await (await fetch(`${empty.service.url}/api/v1/setup`)).json()).toEqual({ hasOwner: true });
    await empty.stop();
  });

  it("makes one owner of two who open it at once", async () => {
    const empty = await emptyWorld();
    const token = await linkToken(empty);
    const names = ["Ines", "Mallory"];
    const answers = await Promise.all(
      names.map((name) => post(empty.service.url, "/setup", { token, name, password: GOOD })),
    );
    expect(answers.map(({ status }) => status).sort()).toEqual([200, 401]);
    const { rows } = await empty.pool.query("select name from member where role = 'owner'");
    expect(rows).toHaveLength(1);
    await empty.stop();
  });

  it("is of no use to who guesses it, whose pages are elsewhere, or when it has expired", async () => {
    const empty = await emptyWorld();
    const token = await linkToken(empty);
    const body = { token, name: "Mallory", password: GOOD };
    const guessed = await post(empty.service.url, "/setup", { ...body, token: `${token.slice(0, -1)}x` });
    expect(guessed.status).toBe(401);
    const elsewhere = await post(empty.service.url, "/setup", body, "http://pages.example");
    expect(elsewhere.status).toBe(403);
    await empty.pool.query("update setup_link set expires_at = now() - interval '1 second'");
    expect((await post(empty.service.url, "/setup", body)).status).toBe(401);
    expect((await empty.pool.query("select from member")).rows).toEqual([]);
    await empty.stop();
  });

  async function linkToken({ config }: World): Promise<string> {
    const { out } = await runServerProgram({ BOLD_RELAY_DATABASE_URL: config.databaseUrl }, "setup");
    return /\/setup#([\w-]{43})\n/.exec(out)?.[1] ?? "";
  }

  async function emptyWorld(): Promise<World> {
    const empty = await createWorld();
    await empty.pool.query("delete from api_key; delete from member");
    return empty;
  }
});

function post(url: string, address: string, body: object, origin = url): Promise<Response> {
  return fetch(`${url}/api/v1${address}`, {
    method: "POST",
    headers: { "content-type": "application/json", origin },
    body: JSON.stringify(body),
  });
}

describe("an empty database", () => {
  it("is prepared by the set-up, and its link leads to the address that is given", async () => {
    const name = `empty_${randomBytes(4).toString("hex")}`;
    const databaseUrl = await createServiceDatabase(findPrograms(), inject("databaseUrl"), name);
    const { out } = await runServerProgram(
      { BOLD_RELAY_DATABASE_URL: databaseUrl },
      "setup",
      "--url",
      "https://relay.example",
    );
    expect(out).toMatch(/\n {2}https:\/\/relay\.example\/setup#[\w-]{43}\n$/);
    const pool = createPool(databaseUrl, () => {});
    const { rows } = await pool.query("select count(*)::int as profiles from profile");
    expect(rows[0].profiles).toBeGreaterThan(3);
    await pool.end();
  });
});
