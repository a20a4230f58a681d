/** The log of a large site is looked for among the newest of all first: it finds what looking at each channel finds. */
import type { ChannelId } from "@bold-relay/core";
import { afterAll, beforeAll, expect, it } from "vitest";
import { findLog, type LogFilter } from "../src/store/find-log.ts";
import { describePlover, PLOVER, ploverProfiles } from "./support/plover.ts";
import { untilChannel } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld({ describe: describePlover, profiles: ploverProfiles });
  await world.board("plover", PLOVER);
  await untilChannel(world.client, world.address("plover/sign"), (one) => one.observed !== null);
  for (let turn = 0; turn < 12; turn += 1)
    await world.ask(turn % 3 === 0 ? "plover/vent-up" : "plover/sign", turn % 2 === 0 ? "on" : "off");
});
afterAll(() => world.stop());

it.each([1, 3, 8, 50])("pages of %i are the same, from the newest on and from the middle", async (limit) => {
  const { rows } = await world.pool.query<{ id: number }>("select id from channel where slug = 'sign'");
  const few = rows.map(({ id }) => id as ChannelId);
  // Channels of which nothing was ever asked make it a large site.
  const many = [...few, ...Array.from({ length: 40 }, (_, n) => (900_000 + n) as ChannelId)];
  const page = (channels: readonly ChannelId[], before: string | null, result: LogFilter["result"]) => {
    const scope = { channels, open: [], sites: [], member: null };
    return findLog(world.pool, { limit, before, channel: null, scope, asker: null, result, open: [], words: null });
  };
  const middle = (await page(few, null, null)).at(-1)?.id ?? null;
  for (const before of [null, middle])
    for (const result of [null, "delivered", "not-delivered"] as const)
      expect(await page(many, before, result)).toEqual(await page(few, before, result));
  expect(await page(many, null, null)).toHaveLength(Math.min(limit, 8));
});
