/** A fleet in which few channels have nearly everything that is kept: what is read of the others costs no more by that. */
import type { ChannelId } from "@bold-relay/core";
import { afterAll, beforeAll, expect, it } from "vitest";
import { findLastCommands, findObserved, findTaken } from "../src/store/channel-state.ts";
import { findLog } from "../src/store/find-log.ts";
import type { Db, Pool } from "../src/store/pool.ts";
import { createWorld, type World } from "./support/world.ts";

const IDLE = 400;
const KEPT = 20_000;
/** Blocks of 8 kB: each channel is looked for in the index of each of a handful of partitions. */
const BLOCKS_A_CHANNEL = 25;

let world: World;

beforeAll(async () => {
  world = await createWorld({
    start: false,
    describe: (slug) => ({
      slug,
      name: "Fleet",
      rooms: [
        {
          slug: "hall",
          name: "Hall",
          devices: Array.from({ length: IDLE / 4 }, (_, device) => ({
            slug: `board-${device}`,
            name: `board ${device}`,
            profile: "reporting",
            channels: ["one", "two", "three", "four"].map((name) => ({ slug: name, name, kind: "relay" as const })),
          })),
        },
      ],
    }),
  });
  // The newest month, of one channel alone; then the planner looks at what there is, as it does by itself sooner or later.
  await world.pool.query(
    `with busy as (
       select c.id from channel c join device d on d.id = c.device_id join site s on s.id = d.site_id
       where s.slug = $1 order by c.id limit 1
     ), asked as (
       insert into request (id, asked_at, requester, inlet, asker, target, action, outcome, site)
       select overlay(gen_random_uuid()::text placing substr(uuid_at(now() + n * interval '1 ms')::text, 1, 13) from 1)::uuid, now(), 'sender',
         'bench', 'somebody', 'one', 'on', case when n % 2 = 0 then 'refused' end, case when n % 2 = 0 then 'elsewhere' end
       from generate_series(1, $2) n returning id, outcome
     )
     insert into command (id, request_id, channel_id, seq, to_value, target_stage, stage, ended, attempts, asked_at, hops)
     select gen_random_uuid(), asked.id, busy.id, 1, 'on', 'confirmed', 'published', 'unanswered', 1, now(), '[]'
     from asked, busy where asked.outcome is null`,
    [world.site, KEPT],
  );
  await world.pool.query("analyze");
});
afterAll(() => world.stop());

/** The blocks that its statements read. */
async function blocksOf(read: (db: Db) => Promise<unknown>): Promise<number> {
  let blocks = 0;
  const query = async (text: string, values?: unknown[]) => {
    const { rows } = await world.pool.query(`explain (analyze, buffers, format json) ${text}`, values);
    const [{ Plan: plan }] = rows[0]["QUERY PLAN"];
    blocks += plan["Shared Hit Blocks"] + plan["Shared Read Blocks"];
    return { rows: [] };
  };
  await read({ query } as unknown as Db);
  return blocks;
}

it.each([
  ["the newest state of each channel", findObserved],
  ["the newest setpoint that each has taken", findTaken],
  ["the newest command of each channel", findLastCommands],
])("%s is found in a few blocks each", async (_what, find) => {
  expect(await blocksOf((db) => find(db, null))).toBeLessThan(IDLE * BLOCKS_A_CHANNEL);
});

it("a page of the log of channels that are idle, or of a site without refusals, is found in a few blocks each", async () => {
  const { rows } = await world.pool.query<{ id: ChannelId }>(
    "select c.id from channel c join device d on d.id = c.device_id join site s on s.id = d.site_id where s.slug = $1 order by c.id offset 1",
    [world.site],
  );
  const channels = rows.map(({ id }) => id);
  const filter = { before: null, channel: null, asker: null, result: null, open: [], words: null, limit: 50 };
  const scope = { channels, open: [], sites: [world.site], member: null };
  const blocks = await blocksOf((db) => findLog(db as unknown as Pool, { ...filter, scope }));
  expect(blocks).toBeLessThan(channels.length * BLOCKS_A_CHANNEL);
});
