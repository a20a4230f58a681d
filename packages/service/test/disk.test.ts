/** A disk that is really full: a file system of a few megabytes with nothing else on it than the journal's database. */
import { execFileSync } from "node:child_process";
import { chmodSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { ProblemError } from "@bold-relay/api";
import { findPrograms, freePort, type Postgres, startPostgres } from "@bold-relay/rig";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
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

/** Writes until nothing more fits. */
function fill(file: string): void {
  for (const bytes of [1_048_576, 4_096])
    try {
      for (;;) writeFileSync(file, Buffer.alloc(bytes), { flag: "a" });
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== "ENOSPC") throw error;
    }
  chmodSync(file, 0o600);
}
