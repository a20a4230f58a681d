/** A disk that is really full: a file system of a few megabytes with nothing else on it than the journal's database. */
import { execFileSync } from "node:child_process";
import { chmodSync, mkdtempSync, rmSync, statSync, truncateSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { gzipSync } from "node:zlib";
import { ProblemError } from "@bold-relay/api";
import { createServiceDatabase, findPrograms, freePort, type Postgres, startPostgres } from "@bold-relay/rig";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { createPool } from "../src/index.ts";
import { runServerProgram } from "./support/server-program.ts";
import { poll } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

/** Room for a cluster and little more. */
const MEGABYTES = 110;
const mayMount = process.getuid?.() === 0;

describe.runIf(mayMount)("a disk without room", () => {
  let disk: string;
  let open: () => Promise<Postgres>;
  let postgres: Postgres;
  let world: World;

  beforeAll(async () => {
    disk = mkdtempSync(path.join(tmpdir(), "bold-relay-disk-"));
    execFileSync("mount", ["-t", "tmpfs", "-o", `size=${MEGABYTES}m,mode=755`, "tmpfs", disk]);
    const server = { programs: findPrograms(), folder: path.join(disk, "database"), port: await freePort() };
    open = () => startPostgres({ ...server, password: "disk", fsync: false });
    postgres = await open();
    world = await createWorld({ server: postgres.url("postgres") });
    await world.board("wren");
  });
  afterAll(async () => {
    await world.stop();
    await postgres.stop();
    execFileSync("umount", ["--lazy", disk]);
    rmSync(disk, { recursive: true, force: true });
  });

  it("loses nothing that was accepted, says so while it lasts, and goes on when there is room", async () => {
    expect((await world.ask("wren/porch", "on")).outcome).toBe("delivered");
    const ballast = path.join(disk, "ballast");
    fill(ballast);

    const accepted: string[] = [];
    let refused: string[] = [];
    // What is left within the server's own files is used up before it has to ask for more.
    for (let turn = 0; refused.length === 0; turn += 1) refused = await askMany(turn % 2 ? "on" : "off", accepted);
    expect(accepted.length).toBeGreaterThan(0);
    expect(new Set(refused)).toEqual(new Set(["database-unavailable"]));
    const ready = await fetch(`${world.service.url}/health/ready`);
    expect([ready.status, await ready.json()]).toMatchObject([503, { ready: false, waitsFor: ["database"] }]);

    rmSync(ballast);
    // Without room for its log the server may have ended itself; whatever keeps it running starts it again.
    if (postgres.child.hasEnded()) postgres = await open();
    await poll(
      () => fetch(`${world.service.url}/health/ready`),
      ({ ok }) => ok,
    );
    expect((await world.ask("wren/porch", "off")).outcome).toBe("delivered");
    const ends = await poll(
      () =>
        world.pool.query<{ id: string; ends: number }>(
          `select r.id, count(c.id)::int as ends from request r left join command c on c.request_id = r.id
           where r.id = any($1::uuid[]) group by r.id`,
          [accepted],
        ),
      ({ rows }) => rows.every(({ ends }) => ends === 1),
      { what: "an end for each accepted command", withinMs: 100_000 },
    );
    expect(ends.rows).toHaveLength(accepted.length);
    expect((await world.pool.query("select from open_command")).rowCount).toBe(0);
  }, 120_000);

  it("imports an installation whole or not at all", async () => {
    const url = await createServiceDatabase(findPrograms(), postgres.url("postgres"), "second");
    const server = (...words: string[]) => runServerProgram({ BOLD_RELAY_DATABASE_URL: url }, ...words);
    const archive = path.join(disk, "..", `${path.basename(disk)}.tar.gz`);
    await server("migrate");
    // More than the disk has room for: 16 sites of 400 channels, with a long name each.
    writeFileSync(archive, bigExport(16, 400));
    const ballast = path.join(disk, "ballast");
    fill(ballast, 1);
    const { code, err } = await server("import", archive);
    expect(code).toBe(1);
    expect(err).toMatch(/disk|space|room/i);
    rmSync(ballast);
    rmSync(archive);
    if (postgres.child.hasEnded()) postgres = await open();
    const pool = createPool(url, () => {}, 1);
    for (const table of ["site", "channel", "description_version", "member"]) {
      const count = await poll(
        () => pool.query(`select count(*)::int as n from ${table}`).catch(() => null),
        (answer) => answer !== null,
      );
      expect([table, count?.rows[0].n]).toEqual([table, 0]);
    }
    await pool.end();
  }, 120_000);

  /** @returns the problems of those that were not accepted */
  async function askMany(action: string, accepted: string[]): Promise<string[]> {
    const targets = Array.from({ length: 50 }, (_, index) => world.address(index % 2 ? "wren/hall" : "wren/path"));
    const asked = await Promise.allSettled(targets.map((target) => world.client.ask({ target, action })));
    return asked.flatMap((one) => {
      if (one.status === "rejected")
        return one.reason instanceof ProblemError ? one.reason.problem.code : `${one.reason}`;
      accepted.push(one.value.id);
      return [];
    });
  }
});

/** An export of sites with many channels. */
function bigExport(sites: number, channels: number): Buffer {
  const described = (site: number) => ({
    slug: `site-${site}`,
    name: `Site ${site}`,
    rooms: [
      {
        slug: "room",
        name: "Room",
        devices: [
          {
            slug: "board",
            name: "board",
            profile: "new-device",
            channels: Array.from({ length: channels }, (_, at) => ({
              slug: `lamp-${at}`,
              name: `${"Lamp ".repeat(13)}${at}`,
              kind: "light",
            })),
          },
        ],
      },
    ],
  });
  const files = Array.from({ length: sites }, (_, at): [string, string] => [
    `sites/site-${at}.yaml`,
    JSON.stringify(described(at)),
  ]);
  return gzipSync(tarOf([["installation.yaml", "format: 1"], ...files]));
}

/** A tar archive (POSIX.1-1988) of small files. */
function tarOf(files: readonly (readonly [name: string, body: string])[]): Buffer {
  const blocks = files.flatMap(([name, body]) => {
    const bytes = Buffer.from(body);
    const header = Buffer.alloc(512);
    header.write(name, 0);
    header.write(`${bytes.length.toString(8).padStart(11, "0")} `, 124);
    header.write("        ", 148);
    header.write("0", 156);
    header.write("ustar\u000000", 257);
    const sum = header.reduce((all, byte) => all + byte, 0);
    header.write(`${sum.toString(8).padStart(6, "0")}\u0000 `, 148);
    return [header, bytes, Buffer.alloc((512 - (bytes.length % 512)) % 512)];
  });
  return Buffer.concat([...blocks, Buffer.alloc(1_024)]);
}

/** Writes until nothing more fits. @param left megabytes that stay free */
function fill(file: string, left = 0): void {
  for (const bytes of [1_048_576, 4_096])
    try {
      for (;;) writeFileSync(file, Buffer.alloc(bytes), { flag: "a" });
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== "ENOSPC") throw error;
    }
  truncateSync(file, Math.max(0, statSync(file).size - left * 1_048_576));
  chmodSync(file, 0o600);
}
