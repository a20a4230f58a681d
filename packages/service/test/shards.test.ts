/** Sites are spread over shards: one instance leads several, and a site moves between them while it is asked. */

import { RelayBoard } from "@bold-relay/standins";
import { afterAll, beforeAll, expect, inject, it } from "vitest";
import { brokerUrl } from "./support/servers.ts";
import { poll, refusal } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
let other: string;
let otherBoard: RelayBoard;

beforeAll(async () => {
  world = await createWorld();
  other = `${world.site}-b`;
  const { site } = await world.client.site(world.site);
  await world.client.saveSite({ ...site, slug: other, name: "Fennel Hall" }, null);
  await world.board("wren");
  const access = { brokerUrl: brokerUrl(), username: "tester", password: inject("brokerPassword") };
  otherBoard = new RelayBoard({ ...access, site: other, device: "wren", channels: ["porch", "hall", "path"] });
  await otherBoard.start();
});
afterAll(async () => {
  await otherBoard.stop();
  await world.stop();
});

const switched = (site: string, action: string) =>
  world.client.ask({ target: `${site}/wren/porch`, action }, { waitS: 20 });

const shardOf = async (site: string) => {
  const { shards } = await world.client.cluster();
  return shards.find(({ sites }) => sites.includes(site))?.shard;
};

const led = (count: number) =>
  poll(
    () => world.client.cluster(),
    ({ shards }) => shards.length === count && shards.every(({ leader }) => leader !== null),
  );

it("one shard is all there is at first, and has every site", async () => {
  const { shards, leader } = await world.client.cluster();
  expect(shards).toMatchObject([{ shard: 0, leader, sites: [world.site, other], chosen: null }]);
});

it("more shards are led as soon as they are there, and a site moves to one of them", async () => {
  await world.client.changeShardCount(3);
  await led(3);
  await world.client.moveSite(other, 2);
  expect([await shardOf(world.site), await shardOf(other)]).toEqual([0, 2]);
  expect(await switched(world.site, "on")).toMatchObject({ outcome: "delivered" });
  expect(await switched(other, "on")).toMatchObject({ outcome: "delivered" });
});

it("what is known of a site is the same after it has moved, and its device is heard", async () => {
  await switched(other, "on");
  await world.client.moveSite(other, 1);
  const stateOf = async () => {
    const { sites } = await world.client.board();
    return sites.find(({ slug }) => slug === other)?.channels.find(({ address }) => address === `${other}/wren/porch`);
  };
  const after = await poll(stateOf, (channel) => channel?.observed?.stale === null);
  expect(after).toMatchObject({ observed: { value: "on" }, commanded: { value: "on" } });
  await otherBoard.flip("porch");
  expect((await poll(stateOf, (channel) => channel?.observed?.value === "off"))?.observed?.cause).toBe("hand");
});

it("a command that is open when its site moves is told its end by its new shard", async () => {
  await otherBoard.setFault("silent");
  const open = await world.client.ask({ target: `${other}/wren/hall`, action: "on" });
  await world.client.moveSite(other, 2);
  await otherBoard.setFault("none");
  const ended = await poll(
    () => world.client.request(open.id),
    ({ outcome }) => outcome !== "open",
  );
  expect(ended).toMatchObject({ outcome: "delivered" });
});

it("nothing that is asked while a site moves is lost, doubled or refused", async () => {
  const asked: string[] = [];
  let asking = true;
  const askers = [0, 1, 2].map(async (turn) => {
    for (let count = 0; asking; count += 1) {
      const channel = ["porch", "hall", "path"][turn];
      const body = { target: `${other}/wren/${channel}`, action: count % 2 ? "on" : "off" };
      asked.push((await world.client.ask(body)).id);
    }
  });
  for (const to of [1, 0, 2, 1]) {
    const before = asked.length;
    await poll(
      async () => asked.length,
      (count) => count >= before + 10,
    );
    await world.client.moveSite(other, to);
  }
  asking = false;
  await Promise.all(askers);
  await poll(
    async () => (await world.pool.query("select from open_command")).rowCount,
    (count) => count === 0,
  );
  const { rows } = await world.pool.query(
    "select count(*)::int as ends, count(distinct request_id)::int as requests from command where request_id = any($1::uuid[])",
    [asked],
  );
  expect(rows[0]).toEqual({ ends: asked.length, requests: asked.length });
});

it("a lock-out binds a site that has moved", async () => {
  const lockout = await world.client.lockOut({ target: `${other}/wren/porch` });
  await world.client.moveSite(other, 0);
  expect(await refusal(switched(other, "on"))).toBe("locked-out");
  await world.client.moveSite(other, 2);
  expect(await refusal(switched(other, "on"))).toBe("locked-out");
  await world.client.release(lockout.id);
  expect(await switched(other, "on")).toMatchObject({ outcome: "delivered" });
});

/** Nobody's lock-out becomes durable while this lasts; what is known can be read. @returns ends it */
async function lockOutsWait(): Promise<() => Promise<void>> {
  const db = await world.pool.connect();
  await db.query("begin");
  await db.query("lock table lockout in share row exclusive mode");
  return async () => {
    await db.query("rollback");
    db.release();
  };
}

/** It binds from the moment in which somebody takes it, long before it is durable. */
async function lockedOut(target: string): Promise<void> {
  await poll(
    () => refusal(world.client.ask({ target, action: "on" })),
    (code) => code === "locked-out",
  );
}

it("a lock-out that is not durable so far binds while another shard is taken up", async () => {
  const target = `${world.site}/wren/porch`;
  const go = await lockOutsWait();
  const locked = world.client.lockOut({ target });
  await lockedOut(target);
  await world.client.changeShardCount(4);
  await led(4);
  expect(await refusal(world.client.ask({ target, action: "on" }))).toBe("locked-out");
  await go();
  const { id } = await locked;
  expect(await refusal(world.client.ask({ target, action: "on" }))).toBe("locked-out");
  await world.client.release(id);
  await world.client.changeShardCount(3);
  await led(3);
});

it("a site does not move before a lock-out there is durable, so that its new shard knows of it", async () => {
  const target = `${other}/wren/porch`;
  const go = await lockOutsWait();
  const locked = world.client.lockOut({ target });
  await lockedOut(target);
  const moved = world.client.moveSite(other, 1);
  await go();
  const { id } = await locked;
  await moved;
  expect(await refusal(world.client.ask({ target, action: "on" }))).toBe("locked-out");
  await world.client.release(id);
  await world.client.moveSite(other, 2);
});

it("a move that the database refuses leaves the site where it was, and it goes on there", async () => {
  await world.pool.query(
    "create function refuse_move() returns trigger language plpgsql as $$ begin raise exception 'no'; end $$",
  );
  await world.pool.query(
    "create trigger refuse_move before update of shard on site for each row execute function refuse_move()",
  );
  expect(await refusal(world.client.moveSite(other, 1))).not.toBe("taken");
  await world.pool.query("drop trigger refuse_move on site");
  expect(await shardOf(other)).toBe(2);
  expect(await switched(other, "off")).toMatchObject({ outcome: "delivered" });
});

it("no epoch is given twice, also of a shard that was taken away in between", async () => {
  const epochs = async () => {
    const { rows } = await world.pool.query<{ shard: number; epoch: number }>("select shard, epoch from lease");
    return new Map(rows.map(({ shard, epoch }) => [shard, epoch]));
  };
  await world.client.changeShardCount(5);
  await led(5);
  const before = await epochs();
  await world.client.changeShardCount(3);
  await led(3);
  await world.client.changeShardCount(5);
  await led(5);
  const after = await epochs();
  for (const shard of [3, 4]) {
    expect(after.get(shard)).toBeGreaterThan(before.get(shard) ?? Number.NaN);
    expect((after.get(shard) ?? 0) % 1024).toBe(shard);
  }
  await world.client.changeShardCount(3);
  await led(3);
});

it("after a restart every site is where it was", async () => {
  await world.restart();
  await led(3);
  expect(await shardOf(other)).toBe(2);
  expect(await switched(other, "off")).toMatchObject({ outcome: "delivered" });
});

it("what somebody changes by hand leaves no site without a shard", async () => {
  const byHand = (sql: string, values: unknown[] = []) =>
    world.pool.query(sql, values).then(
      () => "done",
      (error: Error) => error.message,
    );
  expect(await byHand("delete from lease where shard = 2")).toContain("site_shard_exists");
  expect(await byHand("update site set shard = 77 where slug = $1", [other])).toContain("site_shard_exists");
  expect(await byHand("update lease set shard = 9 where shard = 2")).toContain("site_shard_exists");
  expect(await byHand("delete from lease where shard = 0")).toContain("Shard 0 cannot be deleted");
  expect(await byHand("insert into lease (name, shard) values ('more', 1024)")).toContain("lease_shard_number");
  // One without sites in the middle: the numbers of the others stay as they are.
  expect(await byHand("delete from lease where shard = 1")).toBe("done");
  await led(2);
  expect(await switched(other, "on")).toMatchObject({ outcome: "delivered" });
  expect(await switched(world.site, "on")).toMatchObject({ outcome: "delivered" });
  await world.client.moveSite(other, 0);
  await world.client.moveSite(other, 2);
  // One more, whoever made it.
  expect(await byHand("insert into lease (name, shard) values ('by hand', 5)")).toBe("done");
  await led(3);
  await world.client.moveSite(other, 5);
  expect(await switched(other, "off")).toMatchObject({ outcome: "delivered" });
  await world.client.moveSite(other, 2);
  await world.client.changeShardCount(3);
  await led(3);
  expect((await world.client.cluster()).shards.map(({ shard }) => shard)).toEqual([0, 1, 2]);
});

it("a shard that a site belongs to is not taken away", async () => {
  expect(await refusal(world.client.changeShardCount(1))).toBe("bad-request");
  await world.client.moveSite(other, 0);
  await world.client.changeShardCount(1);
  await led(1);
  expect(await switched(other, "on")).toMatchObject({ outcome: "delivered" });
  expect(await refusal(world.client.moveSite(other, 5))).toBe("not-found");
});
