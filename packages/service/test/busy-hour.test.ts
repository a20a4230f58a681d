/** Statistics of an hour in which very much was asked: they are counted, however the database guesses at ranges of ids. */
import { buildSnapshot, HOUR_MS } from "@bold-relay/core";
import { afterAll, beforeAll, expect, it } from "vitest";
import { createLog } from "../src/index.ts";
import { Statistics } from "../src/reporting/statistics.ts";
import { RecentStatistics } from "../src/state/recent-statistics.ts";
import { findChannels, findSites } from "../src/store/model.ts";
import { createWorld, type World } from "./support/world.ts";

const NOW = Date.parse("2026-11-20T12:30:00Z");
/** Six a second. Comparing each with each would take far longer than the service lets a statement run. */
const REQUESTS = 21_600;

let world: World;

beforeAll(async () => {
  world = await createWorld({ environment: { BOLD_RELAY_ZONE: "UTC" } });
  await world.service.stop();
  await fill(NOW - 2.5 * HOUR_MS, HOUR_MS, REQUESTS);
  await fill(NOW - 26 * HOUR_MS, 23 * HOUR_MS, 10);
  await fill(NOW - 1.4 * HOUR_MS, HOUR_MS, 10);
  // In a journal of a year, an hour lies between two of the moments that the database remembers of it; here it remembers no more.
  await world.pool.query("set default_statistics_target = 1; analyze request, command");
}, 60_000);
afterAll(() => world.stop());

/** Requests with a command each, evenly. */
async function fill(from: number, lastsMs: number, requests: number): Promise<void> {
  await world.pool.query(
    `with made as (
       select i, to_timestamp($1::float8 / 1000) + i * $2::float8 / $3::int * interval '1 ms' as at from generate_series(0, $3::int - 1) i
     ), asked as (
       insert into request (id, asked_at, inlet, asker, target, action)
       select (substr(uuid_at(at)::text, 1, 24) || substr(md5(i::text), 1, 12))::uuid, at, 'board', 'Ana', 'x', 'on' from made returning id, asked_at
     )
     insert into command (id, request_id, channel_id, seq, to_value, target_stage, stage, ended, attempts, asked_at, hops)
     select gen_random_uuid(), id, (select min(id) from channel), 1, 'on', 'published', 'published', 'delivered', 1, asked_at, '[]' from asked`,
    [from, lastsMs, requests],
  );
}

it("every request of a busy hour is counted", async () => {
  const clock = { now: () => NOW, monotonic: () => NOW } as never;
  const snapshot = buildSnapshot(await findChannels(world.pool), await findSites(world.pool));
  const log = createLog("silent");
  const statistics = new Statistics({
    clock,
    log,
    pool: world.pool,
    board: { snapshot },
    recent: new RecentStatistics(clock),
    zone: "UTC",
  });
  const read = await statistics.view({ days: 1 }, null, new Map());
  expect(read.all.commands).toBeGreaterThanOrEqual(REQUESTS);
  await statistics.count();
  const { rows } = await world.pool.query("select sum(count)::int as count from statistic where what = 'delivered'");
  expect(rows[0].count).toBeGreaterThanOrEqual(REQUESTS);
}, 60_000);
