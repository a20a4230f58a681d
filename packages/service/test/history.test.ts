/** The journal over months and after a restore: old months go whole, what is known stays, nothing old switches anything. */

import { createClient } from "@bold-relay/api";
import pg from "pg";
import { afterAll, beforeAll, describe, expect, inject, it } from "vitest";
import { createLog, startService } from "../src/index.ts";
import { dropHistory, preparePartitions } from "../src/store/partitions.ts";
import { describePlover, PLOVER, ploverProfiles } from "./support/plover.ts";
import { poll, untilChannel } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld({ describe: describePlover, profiles: ploverProfiles });
  await world.board("plover", PLOVER);
  await untilChannel(world.client, world.address("plover/sign"), (one) => one.observed !== null);
});
afterAll(() => world.stop());

const partitions = async (parent: string) => {
  const { rows } = await world.pool.query<{ name: string }>(
    "select c.relname as name from pg_inherits i join pg_class c on c.oid = i.inhrelid where i.inhparent = $1::regclass order by 1",
    [parent],
  );
  return rows.map((row) => row.name);
};

describe("months", () => {
  it("have their partitions before they begin, made again without harm", async () => {
    const before = await partitions("command");
    expect(before.length).toBeGreaterThanOrEqual(4);
    await preparePartitions(world.pool, Date.now());
    expect(await partitions("command")).toEqual(before);
    await preparePartitions(world.pool, Date.now() + 70 * 86_400_000);
    expect((await partitions("command")).length).toBeGreaterThan(before.length);
  });

  it("go whole when they are old; what every channel is stays known", async () => {
    const old = await world.ask("plover/sign", "on");
    const dropped = await dropHistory(world.pool, Date.now() + 32 * 86_400_000);
    expect(dropped.some((name) => name.startsWith("request"))).toBe(true);
    await expect(world.client.request(old.id)).rejects.toMatchObject({ problem: { code: "not-found" } });
    // What comes now lands in the months that are left, or in the one for odd ids: it is kept all the same.
    const next = await world.ask("plover/heat", "on");
    expect((await world.client.request(next.id)).outcome).toBe("delivered");
    await world.restart();
    const { sites } = await world.client.board();
    const sign = sites[0]?.channels.find((one) => one.address.endsWith("/sign"));
    expect(sign?.observed?.value).toBe("on");
  });
});

describe("a backup that is restored", () => {
  it("ends what was open, fires no overdue deadline, and switches nothing", async () => {
    const board = await world.board("plover");
    await world.ask("plover/heat", "on", 20, { forMs: 60_000 });
    await board.setFault("silent");
    const open = await world.ask("plover/vent-up", "on", 0);
    await poll(
      async () => board.deeds.some((one) => one.channel === "vent-up" && one.deed === "heard"),
      (heard) => heard,
    );
    await world.service.stop();
    await world.pool.query("update deadline set due_at = now() - interval '1 day'");
    const restored = await copyDatabase(world.config.databaseUrl);
    await board.setFault("none");
    const heard = board.deeds.length;
    const service = await startService({ ...world.config, databaseUrl: restored, restored: true }, createLog("silent"));
    await service.linked;
    const client = createClient({ baseUrl: service.url, key: world.key });
    const request = await poll(
      () => client.request(open.id),
      (one) => one.outcome !== "open",
    );
    expect(request.commands[0]).toMatchObject({ end: "unanswered", reason: "restored" });
    // Whatever would have been written by itself would have gone before this one.
    await client.ask({ target: world.address("plover/sign"), action: "off" }, { waitS: 10 });
    const since = board.deeds.slice(heard).filter((one) => one.deed === "heard");
    expect(since.map((one) => one.channel)).toEqual(["sign"]);
    await service.stop();
  });
});

async function copyDatabase(databaseUrl: string): Promise<string> {
  const url = new URL(databaseUrl);
  const name = url.pathname.slice(1);
  // The service's own role makes no databases.
  const client = new pg.Client(inject("databaseUrl"));
  await client.connect();
  await client.query("select pg_terminate_backend(pid) from pg_stat_activity where datname = $1", [name]);
  await client.query(`create database ${name}_restored template ${name} owner bold_relay`);
  await client.end();
  url.pathname = `/${name}_restored`;
  return url.href;
}
