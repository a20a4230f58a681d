/** The set-up program: sites from files, secrets shown once, and history that stays where it was. */
import { execFile } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { createClient } from "@bold-relay/api";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { createWorld, type World } from "./support/world.ts";

const SETUP = fileURLToPath(new URL("../dist/setup.js", import.meta.url));

let world: World;
let folder: string;

beforeAll(async () => {
  world = await createWorld();
  folder = mkdtempSync(path.join(tmpdir(), "bold-relay-setup-"));
});
afterAll(async () => {
  await world.stop();
  rmSync(folder, { recursive: true, force: true });
});

interface Said {
  readonly code: number;
  readonly out: Record<string, string>;
  readonly err: string;
}

function setup(...words: string[]): Promise<Said> {
  const env = { PATH: process.env.PATH ?? "", BOLD_RELAY_DATABASE_URL: world.config.databaseUrl };
  return new Promise((resolve) => {
    execFile(process.execPath, [SETUP, ...words], { env }, (error, out, err) => {
      resolve({ code: typeof error?.code === "number" ? error.code : 0, out: out ? JSON.parse(out) : {}, err });
    });
  });
}

function file(name: string, content: unknown): string {
  const target = path.join(folder, name);
  writeFileSync(target, typeof content === "string" ? content : JSON.stringify(content));
  return target;
}

const site = (channels: { slug: string; name: string; kind: string }[]) => ({
  slug: world.site,
  name: "Alder Row",
  rooms: [{ slug: "wren", name: "Wren", devices: [{ slug: "wren", name: "board", profile: "reporting", channels }] }],
});

describe("sites", () => {
  it("loaded again keep their channels and history; what is gone is marked, and comes back as itself", async () => {
    const idOf = async (slug: string) =>
      (
        await world.pool.query(
          "select c.id, c.removed_at is null as used from channel c join device d on d.id = c.device_id where c.slug = $1 and d.slug = 'wren'",
          [slug],
        )
      ).rows[0];
    const before = await idOf("porch");
    const without = file("without.json", site([{ slug: "hall", name: "Hall lamp", kind: "light" }]));
    expect((await setup("site", without)).code).toBe(0);
    expect(await idOf("porch")).toEqual({ id: before.id, used: false });
    const again = file("again.json", site([{ slug: "porch", name: "Porch lamp", kind: "light" }]));
    expect((await setup("site", again)).out).toEqual({ site: world.site });
    expect(await idOf("porch")).toEqual({ id: before.id, used: true });
    await world.restart();
    const { sites } = await world.client.board();
    expect(sites[0]?.channels.map((channel) => `${channel.number} ${channel.name}`)).toEqual(["1 Porch lamp"]);
  });

  it.each([
    ["what is not JSON", "{", /JSON/],
    ["a wildcard in a slug", { slug: "a+b", name: "x", rooms: [] }, /"slug" may hold small letters/],
    ["an unknown field", { slug: "a", name: "x", rooms: [], colour: "red" }, /"colour" is not allowed/],
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
  ])("%s is refused, and nothing is changed", async (_title, content, message) => {
    const { code, err } = await setup("site", file("bad.json", content));
    expect([code, err]).toEqual([1, expect.stringMatching(message)]);
    expect((await world.pool.query("select count(*)::int as n from site where slug = 'a'")).rows[0].n).toBe(0);
  });
});

describe("secrets", () => {
  it("a new key replaces the one of the same name, at once", async () => {
    const first = await setup("key", "ines", "terminal");
    const second = await setup("key", "Ines", "terminal");
    const call = (key = "") => createClient({ baseUrl: world.service.url, key }).session();
    expect(await call(second.out.key)).toMatchObject({ name: "Ines", by: "key" });
    await expect(call(first.out.key)).rejects.toMatchObject({ problem: { code: "wrong-key" } });
  });

  it("an owner's new password ends that member's sessions", async () => {
    const { out } = await setup("owner", "Tomas");
    const signIn = (password = "") =>
      fetch(`${world.service.url}/api/v1/session`, {
        method: "POST",
        headers: { "content-type": "application/json", origin: world.service.url },
        body: JSON.stringify({ name: "tomas", password }),
      });
    const response = await signIn(out.password);
    const cookie = (response.headers.get("set-cookie") ?? "").split(";")[0] ?? "";
    const anew = await setup("owner", "Tomas");
    expect((await fetch(`${world.service.url}/api/v1/session`, { headers: { cookie } })).status).toBe(401);
    expect((await signIn(out.password)).status).toBe(401);
    expect((await signIn(anew.out.password)).status).toBe(200);
  });

  it("an inlet of a site that does not exist is refused, and so is a key for nobody", async () => {
    expect(await setup("inlet", "x", "--name", "X", "--site", "nowhere")).toMatchObject({
      code: 1,
      err: expect.stringContaining("no site “nowhere”"),
    });
    expect(await setup("key", "nobody", "x")).toMatchObject({
      code: 1,
      err: expect.stringContaining("no member “nobody”"),
    });
  });
});
