/** Clocks that jump, disks that are full: what was accepted keeps its promise. */
import { HOUR_MS } from "@bold-relay/core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { steadyClock } from "../src/index.ts";
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

const shifted = (byMs: number) => ({ now: () => steadyClock.now() + byMs });

describe("a clock that was set while the service was away", () => {
  it("back: what must go off does so within its own time, not the difference later", async () => {
    await world.ask("plover/heat", "on", 20, { forMs: 900 });
    world.clock = shifted(-HOUR_MS);
    await world.restart();
    await untilChannel(world.client, world.address("plover/heat"), (one) => one.observed?.value === "off");
  });

  it.each([
    ["forward", HOUR_MS],
    ["back", -HOUR_MS],
  ])("%s: commands reach their targetStage, and the newest still wins", async (_name, byMs) => {
    world.clock = shifted(byMs);
    await world.restart();
    await world.ask("plover/vent-up", "on", 0);
    await world.ask("plover/vent-up", "off", 0);
    const newest = await world.ask("plover/vent-up", "on");
    expect(newest.outcome).toBe("delivered");
    const vent = await untilChannel(
      world.client,
      world.address("plover/vent-up"),
      (one) => one.observed?.value === "on" && one.agreement === "agreed",
    );
    expect(vent.lastCommand?.requestId).toBe(newest.id);
    world.clock = steadyClock;
    await world.restart();
  });
});

describe("a full disk", () => {
  it("takes nothing that it cannot keep, and what it has told goes on when there is room again", async () => {
    // The server's own error for it (SQLSTATE 53100), raised by a trigger: filling a real disk would hurt the neighbours.
    await world.pool.query(`
      create function no_room() returns trigger language plpgsql as
        $$ begin raise exception 'could not extend file: No space left on device' using errcode = '53100'; end $$;
      create trigger no_room before insert on request execute function no_room()`);
    const asked = world.ask("plover/sign", "on", 1, {}).then(
      () => "taken",
      (error: { problem?: { code: string } }) => error.problem?.code,
    );
    const trouble = await poll(
      () => world.client.status(),
      (status) => !status.database.up,
    );
    expect(trouble.database.trouble).toContain("No space left on device");
    expect(await asked).toBe("database-unavailable");
    await world.pool.query("drop function no_room cascade");
    // Nobody knew: the row waited, and is kept now that there is room.
    const { requests } = await poll(
      () => world.client.log({ channel: world.address("plover/sign"), limit: 1 }),
      (page) => page.requests[0]?.outcome === "delivered",
    );
    expect(requests[0]?.action).toBe("on");
    expect((await world.ask("plover/sign", "off")).outcome).toBe("delivered");
  });
});
