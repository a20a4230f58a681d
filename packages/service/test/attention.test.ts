/** What needs attention: it comes, is taken, noted, muted, closed, survives a restart, and goes when it is cured. */
import type { MatterView } from "@bold-relay/api";
import { afterAll, beforeAll, expect, it } from "vitest";
import { poll, refusal } from "./support/until.ts";
import { createWorld, OWNER, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld({ delivery: { ackWithinMs: 100, attempts: 1 } });
  await world.board("wren");
  await world.board("finch");
});
afterAll(() => world.stop());

const until = (isSo: (matters: MatterView[]) => boolean) => poll(() => world.client.attention(), isSo);
const about = (subject: string) => ({ kind: "failing" as const, subject: world.address(subject) });

it("tells of what does not get there, for as long as it does not", async () => {
  const finch = await world.board("finch");
  await finch.setFault("silent");
  await world.ask("finch/porch", "on");
  const [matter] = await until((matters) => matters.length === 1);
  expect(matter).toMatchObject({
    ...about("finch/porch"),
    title: "Porch lantern, Finch does not get there",
    text: expect.stringMatching(/^Stopped at the device\. The broker has the command/),
    takenBy: null,
    closed: false,
  });
});

it("is taken and noted, and that outlives a restart", async () => {
  await world.client.care({ ...about("finch/porch"), take: true, note: "fuse ordered" });
  await world.restart();
  const [matter] = await until((matters) => matters.length === 1);
  expect(matter).toMatchObject({ takenBy: OWNER.name, note: "fuse ordered" });
  expect((await world.client.audit()).entries[0]).toMatchObject({ action: "attention", after: { take: true } });
});

it("is muted, closed, and comes back when it happens anew", async () => {
  const muted = await world.client.care({ ...about("finch/porch"), muteHours: 1 });
  expect(Date.parse(muted.mutedUntil ?? "")).toBeGreaterThan(Date.now());
  expect(await world.client.attention()).toEqual([]);
  expect(await world.client.attention(true)).toHaveLength(1);
  await world.client.care({ ...about("finch/porch"), muteHours: 0, close: true });
  expect(await world.client.attention()).toEqual([]);
  await world.ask("finch/porch", "off");
  await until((matters) => matters.length === 1 && matters[0]?.closed === false);
});

it("goes when it is cured, and can be cared for no more", async () => {
  const finch = await world.board("finch");
  await finch.setFault("none");
  await world.ask("finch/porch", "on", 20);
  await until((matters) => matters.length === 0);
  expect(await refusal(world.client.care({ ...about("finch/porch"), take: true }))).toBe("not-found");
  expect((await world.pool.query("select * from attention")).rows).toEqual([]);
});

it("tells of a key that expires soon, and of nothing to who may not see it", async () => {
  await world.client.addKey({ name: "short", expiresInDays: 3 });
  const [matter] = await until((matters) => matters.length === 1);
  expect(matter).toMatchObject({ kind: "key-expiring", title: `The key “short” of ${OWNER.name} expires in 2 days` });
});
