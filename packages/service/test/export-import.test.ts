/** A whole installation in one archive: to a second machine as it was, without secrets; all of it, or nothing. */
import { randomBytes } from "node:crypto";
import { createWriteStream, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { pipeline } from "node:stream/promises";
import { createGzip, gunzipSync, gzipSync } from "node:zlib";
import { createServiceDatabase, findPrograms } from "@bold-relay/rig";
import { pack } from "tar-stream";
import { afterAll, beforeAll, describe, expect, inject, it } from "vitest";
import { parse, stringify } from "yaml";
import { createPool } from "../src/index.ts";
import { readArchive } from "../src/program/installation-archive.ts";
import { runServerProgram } from "./support/server-program.ts";
import { createWorld, type World } from "./support/world.ts";

const PIN = "471199";

let world: World;
let folder: string;
let archive: string;

beforeAll(async () => {
  world = await createWorld();
  folder = mkdtempSync(path.join(tmpdir(), "bold-relay-export-"));
  archive = path.join(folder, "office.tar.gz");
  const menu = { say: "Press 1.", keys: { "1": { say: "On.", phrase: "porch lantern in wren on" } } };
  const keypad = {
    slug: "keypad",
    name: "Keypad",
    kind: "keypad",
    site: world.site,
    settings: { menu, pin: PIN },
  } as const;
  await world.client.saveInlet(keypad, 0);
  const to = { topic: `${world.site}-desk/told` };
  await world.client.saveNotification({ slug: "desk", name: "Desk", site: world.site, on: { alerts: true }, to }, 0);
  await world.client.addMember({ name: "Tomas", role: "operator" });
  await world.client.addMember({ name: "Pilar", sites: [{ site: world.site, role: "user" }] });
});
afterAll(async () => {
  await world.stop();
  rmSync(folder, { recursive: true, force: true });
});

const on = (databaseUrl: string, ...words: string[]) =>
  runServerProgram({ BOLD_RELAY_DATABASE_URL: databaseUrl }, ...words);

async function emptyDatabase(): Promise<{ url: string; count: (table: string) => Promise<number> }> {
  const url = await createServiceDatabase(
    findPrograms(),
    inject("databaseUrl"),
    `import_${randomBytes(4).toString("hex")}`,
  );
  const count = async (table: string) => {
    const pool = createPool(url, () => {}, 1);
    const { rows } = await pool.query(`select count(*)::int as n from ${table}`).finally(() => pool.end());
    return rows[0].n as number;
  };
  return { url, count };
}

/** An archive that somebody made by hand. */
async function archiveOf(
  files: readonly (readonly [name: string, body: string])[],
  name = "made.tar.gz",
): Promise<string> {
  const file = path.join(folder, name);
  const tar = pack();
  for (const [entry, body] of files) tar.entry({ name: entry }, body);
  tar.finalize();
  await pipeline(tar, createGzip(), createWriteStream(file));
  return file;
}

const ABOUT = ["installation.yaml", "format: 1\n"] as const;

describe("an export", () => {
  it("holds all descriptions and members and no secret, and only its owner may read it", async () => {
    const { code, out } = await on(world.config.databaseUrl, "export", archive);
    expect([code, out]).toEqual([
      0,
      expect.stringMatching(/1 site, \d+ profiles, 2 inlets, 1 notification, 3 members/),
    ]);
    expect(statSync(archive).mode & 0o777).toBe(0o600);
    const text = gunzipSync(readFileSync(archive)).toString("utf8");
    expect(text).not.toMatch(new RegExp(`${PIN}|argon2|pinHash|brk_|whsec_`));
    expect(text).toContain("Porch lantern");
    expect((await on(world.config.databaseUrl, "export", archive)).err).toContain("exists already");
  });

  it("makes a second installation of the same descriptions; its members get a link each", async () => {
    const second = await emptyDatabase();
    const { code, out } = await on(second.url, "import", archive, "--url", "https://relay.example");
    expect(code).toBe(0);
    expect(out).toMatch(/ {2}Tomas: https:\/\/relay\.example\/reset#\S+/);
    const again = path.join(folder, "again.tar.gz");
    await on(second.url, "export", again);
    const [first, other] = [await readArchive(archive), await readArchive(again)];
    expect(other.descriptions).toEqual(first.descriptions);
    expect(other.members).toEqual(first.members);
    expect(await second.count("api_key")).toBe(0);
    expect(await on(second.url, "import", archive)).toMatchObject({
      code: 0,
      out: expect.stringContaining("0 new members"),
    });
  });
});

describe("an import", () => {
  it("is refused while an instance runs", async () => {
    expect((await on(world.config.databaseUrl, "import", archive)).err).toContain("Stop all instances first");
  });

  it("changes nothing that is here otherwise, unless it is asked to", async () => {
    const second = await emptyDatabase();
    await on(second.url, "import", archive);
    const { descriptions } = await readArchive(archive);
    const site = descriptions.find((one) => one.folder === "sites");
    const renamed = await archiveOf([
      ABOUT,
      [site?.file ?? "", stringify({ ...(site?.body as object), name: "Renamed" })],
    ]);
    const refused = await on(second.url, "import", renamed);
    expect(refused.code).toBe(1);
    expect(refused.err).toMatch(/has these otherwise: site site-\w+\. Nothing was imported/);
    expect((await on(second.url, "import", renamed, "--replace")).code).toBe(0);
    const later = path.join(folder, "later.tar.gz");
    await on(second.url, "export", later);
    expect(gunzipSync(readFileSync(later)).toString()).toContain("name: Renamed");
  });

  it("that fails at its last file has changed nothing", async () => {
    const second = await emptyDatabase();
    const { descriptions } = await readArchive(archive);
    const files = descriptions.map(({ file, body }) => [file, stringify(body)] as const);
    const bad = [
      "inlets/zz-last.yaml",
      stringify({ slug: "zz-last", name: "Last", kind: "web", site: "no-such-site" }),
    ] as const;
    const { code, err } = await on(second.url, "import", await archiveOf([ABOUT, ...files, bad]));
    expect(code).toBe(1);
    expect(err).toMatch(/inlets\/zz-last\.yaml: .*There is no site/);
    for (const table of ["site", "inlet", "member", "notification", "description_version"])
      expect(await second.count(table)).toBe(0);
  });

  it.each([
    ["no archive", async () => "text", "it is no gzipped archive"],
    ["another archive", () => archiveOf([["readme.txt", "hello"]]), "does not belong in it"],
    ["a path out of it", () => archiveOf([ABOUT, ["../etc/passwd", "x"]]), "does not belong in it"],
    ["an absolute path", () => archiveOf([ABOUT, ["/etc/passwd", "x"]]), "does not belong in it"],
    ["no word about itself", () => archiveOf([["members.yaml", "[]"]]), "is no export"],
    ["another format", () => archiveOf([["installation.yaml", "format: 99\n"]]), "has the format 99"],
    ["a file twice", () => archiveOf([ABOUT, ABOUT]), "stands in it twice"],
    [
      "a name with a control character",
      () => archiveOf([ABOUT, ["sites/a.yaml", 'slug: a\nname: "A\\x07"\nrooms: []\n']]),
      "control character",
    ],
    ["an alias bomb", () => archiveOf([ABOUT, ["sites/a.yaml", bomb()]]), "alias"],
    ["long flat lists", () => archiveOf([ABOUT, ["sites/a.yaml", `[${"1,".repeat(600_000)}1]`]]), "values"],
    ["lists in lists", () => archiveOf([ABOUT, ["sites/a.yaml", "[".repeat(1_000_000)]]), "nested more than 50 deep"],
    [
      "lists in lists that texts hide",
      () => archiveOf([ABOUT, ["sites/a.yaml", '["]",'.repeat(200_000)]]),
      "sites/a.yaml",
    ],
    [
      "more lists in lists that texts hide",
      () => archiveOf([ABOUT, ["sites/a.yaml", '["]",'.repeat(600_000)]]),
      "values",
    ],
    ["an extended header in the content of a folder", () => archiveWith("5", 1_024), "folder with content"],
    ["a file that is called like a folder", () => archiveWith("0", 1_024, "sites/"), "folder with content"],
    ["a file without a name below its prefix", () => archiveWith("0", 1_024, ""), "folder with content"],
    ["lists in lists by dashes", () => archiveOf([ABOUT, ["sites/a.yaml", "- ".repeat(2_000_000)]]), "values"],
    ["an extended header of 300 MB", () => archiveWith("x", 300_000_000), "type “x”"],
    ["a global header of 300 MB", () => archiveWith("g", 300_000_000), "type “g”"],
    ["a long name of 300 MB", () => archiveWith("L", 300_000_000), "type “L”"],
    ["a link", () => archiveWith("2", 0), "type “2”"],
    ["a size that is no number", () => archiveWith("0", "zzzzzzzzzzz"), "size of an entry"],
    ["a size in base 256", () => archiveWith("0", "\x80\0\0\0\0\0\0\x01\0\0\0"), "size of an entry"],
    [
      "a member whose name looks like another one's",
      () => archiveOf([ABOUT, ["members.yaml", '- { name: "In\\u200Bes" }\n']]),
      "members.yaml",
    ],
    ["a file that is too big", () => archiveOf([ABOUT, ["sites/a.yaml", " ".repeat(11_000_000)]]), "are allowed"],
    [
      "a member who owns without a right to",
      () => archiveOf([ABOUT, ["members.yaml", "- { name: Eve, role: king }\n"]]),
      "must be one of",
    ],
  ])("of %s is refused with the reason", async (_what, make, why) => {
    const made = await make();
    const file = made === "text" ? path.join(folder, "text.tar.gz") : made;
    if (made === "text") writeFileSync(file, "no archive at all");
    const second = await emptyDatabase();
    const { code, err } = await on(second.url, "import", file);
    expect([code, err]).toEqual([1, expect.stringContaining(why)]);
  });
});

/** An archive whose first entry is of this type and claims this size, in bytes or as it stands. */
async function archiveWith(type: string, size: number | string, name = "sites/a.yaml"): Promise<string> {
  const header = Buffer.alloc(512);
  header.write(name, 0, "latin1");
  header.write(typeof size === "string" ? size : size.toString(8).padStart(11, "0"), 124, "latin1");
  header.write(type, 156, "latin1");
  header.write("ustar\x0000", 257, "latin1");
  header.write("        ", 148, "latin1");
  const sum = header.reduce((total, byte) => total + byte, 0);
  header.write(`${sum.toString(8).padStart(6, "0")}\0 `, 148, "latin1");
  const file = path.join(folder, `odd-${type}-${String(size).length}-${name.length}.tar.gz`);
  const content = Buffer.alloc(typeof size === "number" ? Math.ceil(size / 512) * 512 : 512, "x");
  writeFileSync(file, gzipSync(Buffer.concat([header, content]), { level: 1 }));
  return file;
}

/** Aliases of aliases: a few lines that would grow into millions. */
function bomb(): string {
  const lines = ["a0: &a0 [x, x, x, x, x, x, x, x, x, x]"];
  for (let level = 1; level < 9; level += 1)
    lines.push(`a${level}: &a${level} [${Array.from({ length: 10 }, () => `*a${level - 1}`).join(", ")}]`);
  expect(parse(lines[0] ?? "")).toBeDefined();
  return lines.join("\n");
}
