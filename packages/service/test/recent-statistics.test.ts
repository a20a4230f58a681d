/** Statistics of the last hours: counted as requests go, they are what the database would tell. */
import { buildSnapshot, MINUTE_MS } from "@bold-relay/core";
import { afterAll, beforeAll, expect, it } from "vitest";
import { createLog, steadyClock } from "../src/index.ts";
import { Statistics } from "../src/reporting/statistics.ts";
import { RecentStatistics } from "../src/state/recent-statistics.ts";
import { findChannels, findSites } from "../src/store/model.ts";
import { describePlover, PLOVER, ploverProfiles } from "./support/plover.ts";
import { untilChannel } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
/** The service starts some minutes ago: it counts what is asked two minutes after its start. */
let aheadMs = -5 * MINUTE_MS;
const clock = { now: () => steadyClock.now() + aheadMs };

beforeAll(async () => {
  world = await createWorld({ describe: describePlover, profiles: ploverProfiles, clock });
  await world.board("plover", PLOVER);
  await untilChannel(world.client, world.address("plover/sign"), (one) => one.observed !== null);
  aheadMs = 0;
});
afterAll(() => world.stop());

it("what was delivered, replaced and refused is counted as the database counts it, without a look at its rows", async () => {
  for (const action of ["on", "off", "on"]) await world.ask("plover/sign", action);
  await Promise.all(["on", "off", "on", "off"].map((action) => world.ask("plover/vent-up", action)));
  await world.ask("plover/nowhere", "on").catch(() => {});
  const told = await world.client.statistics({});
  expect(told.all.delivered).toBeGreaterThanOrEqual(4);
  expect(told.all.refused + told.all.notUnderstood).toBe(1);
  expect(told).toEqual(await fromTheDatabase());
  await world.pool.query("delete from command");
  expect(await world.client.statistics({})).toEqual(told);
});

async function fromTheDatabase() {
  const snapshot = buildSnapshot(await findChannels(world.pool), await findSites(world.pool));
  const deps = { clock: clock as never, log: createLog("silent"), pool: world.pool, board: { snapshot } };
  // It has just started: there is nothing that it has counted itself.
  const statistics = new Statistics({ ...deps, recent: new RecentStatistics(clock as never), zone: "UTC" });
  const names = new Map((await world.client.inlets()).map(({ slug, name }) => [slug, name]));
  return statistics.view({}, null, names);
}
