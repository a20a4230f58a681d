/** Group commit and migrations, against the real database and against one that misbehaves on demand. */
import { RelayError, type Value } from "@bold-relay/core";
import fc from "fast-check";
import pg from "pg";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { Backlog } from "../src/delivery/backlog.ts";
import { createLog, migrate } from "../src/index.ts";
import { GroupCommit, LeaseWriter } from "../src/store/group-commit.ts";
import { preparePartitions } from "../src/store/partitions.ts";
import { createWorld, type World } from "./support/world.ts";

const log = createLog("silent");

type Fail = (turn: number, rows: readonly number[], epochs: readonly number[]) => unknown;

/** @param fail what the nth write (from 1) throws, if anything */
function group(options: { queueLimit?: number; batchRows?: number; fail?: Fail } = {}) {
  const batches: number[][] = [];
  let turn = 0;
  const commit = new GroupCommit<number, number>({
    name: "test",
    queueLimit: options.queueLimit ?? 1_000,
    batchRows: options.batchRows ?? 100,
    log,
    write: async (rows, _, epochs) => {
      turn += 1;
      const failure = options.fail?.(turn, rows, epochs);
      await new Promise(setImmediate);
      if (failure) throw failure;
      batches.push([...rows]);
      return rows.map((row) => row * 2);
    },
  });
  const lost: number[] = [];
  const under = (epoch: number) => new LeaseWriter(commit, epoch, () => lost.push(epoch));
  return { group: commit, batches, lost, under };
}

function writer(options: Parameters<typeof group>[0] = {}) {
  const { under, ...rest } = group(options);
  return { ...rest, commit: under(1) };
}

describe("group commit", () => {
  it("answers every row with its own result, in order, in few batches", async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.integer(), { minLength: 1, maxLength: 300 }), async (rows) => {
        const { commit, batches } = writer();
        const results = await Promise.all(rows.map((row) => commit.enqueue(row)));
        expect(results).toEqual(rows.map((row) => row * 2));
        expect(batches.flat()).toEqual(rows);
        expect(batches.length).toBeLessThanOrEqual(Math.ceil(rows.length / 100));
      }),
      { numRuns: 50 },
    );
  });

  it("tries again after a lost connection, and then nothing is missing", async () => {
    const { commit, batches } = writer({ fail: (turn) => (turn <= 2 ? new Error("Connection terminated") : null) });
    expect(await Promise.all([commit.enqueue(1), commit.enqueue(2)])).toEqual([2, 4]);
    expect(batches).toEqual([[1, 2]]);
  });

  it("lets one bad row fail alone", async () => {
    const bad = Object.assign(new pg.DatabaseError("bad", 3, "error"), { code: "22P02" });
    const { commit } = writer({ fail: (_turn, rows) => (rows.includes(13) ? bad : null) });
    const results = await Promise.allSettled(Array.from({ length: 30 }, (_, row) => commit.enqueue(row)));
    expect(results.map((result) => result.status).filter((status) => status === "rejected")).toHaveLength(1);
    expect(results[13]?.status).toBe("rejected");
  });

  it.each([
    "08006",
    "25006",
    "28P01",
    "3D000",
    "42501",
    "42P01",
    "40001",
    "53300",
    "55000",
    "55P03",
    "57014",
    "57P03",
    "XX000",
  ])("takes %s for the state of the database, and tries again", async (code) => {
    const away = Object.assign(new pg.DatabaseError("away", 4, "error"), { code });
    const { commit, batches } = writer({ fail: (turn) => (turn <= 2 ? away : null) });
    expect(await commit.enqueue(7)).toBe(14);
    expect(batches).toEqual([[7]]);
  });

  it.each(["22001", "22P02", "23503", "23505", "54000"])("takes %s for the row's own fault", async (code) => {
    const bad = Object.assign(new pg.DatabaseError("bad", 3, "error"), { code });
    const { commit } = writer({ fail: () => bad });
    await expect(commit.enqueue(7)).rejects.toBe(bad);
  });

  it("keeps of what it has no room for the newest form of each command, and of each channel what it was before and is now", () => {
    const backlog = new Backlog();
    const change = (id: string, from: Value | null, to: Value) =>
      backlog.addChange({ id, channelId: 1, at: 0, from, to, cause: "hand", commandId: null });
    change("a", "off", "on");
    change("b", "on", "off");
    change("c", "off", "pulse");
    expect(backlog.size).toBe(1);
    expect(backlog.take()).toMatchObject({ change: { id: "c", from: "off", to: "pulse" } });
    expect(backlog.take()).toBeNull();
  });

  it("refuses what does not fit, and what comes after the stop", async () => {
    const { commit } = writer({ queueLimit: 2 });
    const taken = [commit.enqueue(1), commit.enqueue(2)];
    await expect(commit.enqueue(3)).rejects.toBeInstanceOf(RelayError);
    await commit.stop();
    expect(await Promise.all(taken)).toEqual([2, 4]);
    await expect(commit.enqueue(4)).rejects.toMatchObject({ code: "service-busy" });
  });
});

describe("a lease that another instance has taken", () => {
  const gone = Object.assign(new pg.DatabaseError("taken over", 10, "error"), { code: "BL001" });

  it("ends the writing: nothing is kept, everybody is told, nothing more is taken", async () => {
    const { commit, batches, lost } = writer({ batchRows: 1, fail: () => gone });
    const told = await Promise.allSettled([commit.enqueue(1), commit.enqueue(2)]);
    expect(told.map((one) => one.status === "rejected" && one.reason.code)).toEqual(["service-busy", "service-busy"]);
    await expect(commit.enqueue(3)).rejects.toMatchObject({ code: "service-busy" });
    expect([batches, lost]).toEqual([[], [1]]);
  });

  it("after a try that nobody knows the end of, claims nothing", async () => {
    const { commit } = writer({ fail: (turn) => (turn === 1 ? new Error("Connection terminated") : gone) });
    await expect(commit.enqueue(1)).rejects.toMatchObject({ code: "holder-lost" });
  });
});

describe("writers under several leases", () => {
  const gone = Object.assign(new pg.DatabaseError("taken over", 10, "error"), { code: "BL001" });
  const codesOf = async (all: readonly Promise<number>[]) =>
    (await Promise.allSettled(all)).map((one) => (one.status === "fulfilled" ? one.value : one.reason.code));

  it("share their groups, and each proves the leases of its rows, in the order of their shards", async () => {
    const proven: (readonly number[])[] = [];
    const { under, batches } = group({ fail: (_turn, _rows, epochs) => void proven.push(epochs) });
    // Of the shards 2, 0 and 1.
    const [third, first, second] = [under(1_026), under(5_120), under(2_049)];
    await Promise.all([third.enqueue(1), first.enqueue(2), second.enqueue(3), third.enqueue(4)]);
    expect(batches).toEqual([[1, 2, 3, 4]]);
    expect(proven).toEqual([[5_120, 2_049, 1_026]]);
  });

  it("lose their own lease only: whatever the others have in the same group is written once", async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.integer({ min: 1, max: 4 }), { minLength: 1, maxLength: 60 }),
        fc.subarray([1, 2, 3, 4]),
        async (owners, taken) => {
          const { under, batches, lost } = group({
            batchRows: 16,
            fail: (_turn, _rows, epochs) => (epochs.some((epoch) => taken.includes(epoch)) ? gone : null),
          });
          const writers = new Map([1, 2, 3, 4].map((epoch) => [epoch, under(epoch)]));
          const results = await codesOf(
            owners.map((owner, row) => writers.get(owner)?.enqueue(row) as Promise<number>),
          );
          expect(results).toEqual(owners.map((owner, row) => (taken.includes(owner) ? "service-busy" : row * 2)));
          const kept = owners.flatMap((owner, row) => (taken.includes(owner) ? [] : [row]));
          expect(batches.flat().sort((one, other) => one - other)).toEqual(kept);
          expect([...lost].sort()).toEqual(taken.filter((epoch) => owners.includes(epoch)));
        },
      ),
      { numRuns: 100 },
    );
  });

  it("after a try that nobody knows the end of, claim nothing for the lost one, and write the others", async () => {
    const { under } = group({
      fail(turn, _rows, epochs) {
        if (turn === 1) return new Error("Connection terminated");
        return epochs.includes(1) ? gone : null;
      },
    });
    const [one, two] = [under(1), under(2)];
    expect(await codesOf([one.enqueue(1), two.enqueue(2)])).toEqual(["holder-lost", 4]);
  });

  it("end on their own: one that stops or is given up leaves the rows of the others", async () => {
    let isAway = true;
    const { under, group: commit } = group({ fail: () => (isAway ? new Error("Connection terminated") : null) });
    const [stays, leaves] = [under(1), under(2)];
    const [kept, tried] = [stays.enqueue(1), leaves.enqueue(2)];
    while (commit.queued > 0) await new Promise(setImmediate);
    const [late, given] = [stays.enqueue(4), codesOf([tried, leaves.enqueue(3)])];
    const stopped = leaves.stop();
    leaves.abandon();
    isAway = false;
    await stopped;
    // The first was on its way when the connection broke.
    expect(await given).toEqual(["holder-lost", "service-busy"]);
    expect(await Promise.all([kept, late])).toEqual([2, 8]);
    await expect(leaves.enqueue(5)).rejects.toMatchObject({ code: "service-busy" });
  });

  it("are settled once what they had asked for until then is durable, however much comes after", async () => {
    const { under, batches } = group({ batchRows: 2 });
    const [one, two] = [under(1), under(2)];
    void one.enqueue(1);
    for (let row = 2; row < 20; row += 1) void two.enqueue(row);
    await one.settled();
    expect(batches.flat()).toContain(1);
    expect(batches.flat()).not.toContain(19);
    await two.stop();
    expect(batches.flat()).toHaveLength(19);
  });
});

describe("the database", () => {
  let world: World;
  beforeAll(async () => {
    world = await createWorld();
    await world.board("wren");
  });
  afterAll(() => world.stop());

  it("is brought up to date by any number of starters at once, and only once", async () => {
    const ran = await Promise.all([migrate(world.pool), migrate(world.pool), migrate(world.pool)]);
    expect(ran).toEqual([[], [], []]);
    // Months that nobody has prepared so far, by all of them at once.
    const later = Date.now() + 400 * 86_400_000;
    await Promise.all([later, later, later].map((at) => preparePartitions(world.pool, at)));
  });

  it("made by a newer version is refused", async () => {
    await world.pool.query("insert into migration (name) values ('9999_from_the_future.sql')");
    await expect(migrate(world.pool)).rejects.toThrow(/newer version/);
    await world.pool.query("delete from migration where name like '9999%'");
  });

  it("cutting every connection under load loses nothing that was accepted", async () => {
    const kept: string[] = [];
    let on = true;
    const asker = async (channel: string) => {
      for (let turn = 0; on; turn += 1) {
        const request = await world.client.ask({ target: channel, action: turn % 2 ? "on" : "off" }).catch(() => null);
        if (request) kept.push(request.id);
      }
    };
    const load = ["wren/porch", "wren/hall", "wren/path"].map(asker);
    for (let cuts = 0; cuts < 3; cuts += 1) {
      const before = kept.length;
      while (kept.length < before + 20) await new Promise(setImmediate);
      const killer = new pg.Client(world.config.databaseUrl);
      await killer.connect();
      await killer.query(
        "select pg_terminate_backend(pid) from pg_stat_activity where usename = current_user and datname = current_database() and pid <> pg_backend_pid()",
      );
      await killer.end();
    }
    on = false;
    await Promise.all(load);
    for (const id of kept) {
      let request = await world.client.request(id);
      while (request.outcome === "open") request = await world.client.request(id);
      // Of two for the same channel the newer may have replaced the older: which, the load decides.
      expect(["delivered", "replaced"]).toContain(request.outcome);
    }
    const { rows } = await world.pool.query(
      "select count(*)::int as twice from (select id from command group by id having count(*) > 1) t",
    );
    expect(rows[0].twice).toBe(0);
  });
});
