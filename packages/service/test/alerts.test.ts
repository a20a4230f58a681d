/** Alerts: one comes, is assigned, noted, snoozed, resolved, survives a restart, and resolves itself when its cause is fixed. */
import type { AlertView } from "@bold-relay/api";
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

const until = (isSo: (alerts: AlertView[]) => boolean) => poll(() => world.client.alerts(), isSo);
const about = (subject: string) => ({ kind: "failing" as const, subject: world.address(subject) });

it("tells of what does not get there, for as long as it does not", async () => {
  const finch = await world.board("finch");
  await finch.setFault("silent");
  await world.ask("finch/porch", "on");
  const [alert] = await until((alerts) => alerts.length === 1);
  expect(alert).toMatchObject({
    ...about("finch/porch"),
    title: "Commands to Porch lantern, Finch fail",
    text: expect.stringMatching(/^Stopped at the device\. The broker has the command/),
    assignedTo: null,
    resolved: false,
  });
});

it("is assigned and noted, and that outlives a restart", async () => {
  await world.client.changeAlert({ ...about("finch/porch"), assign: true, note: "fuse ordered" });
  await world.restart();
  const [alert] = await until((alerts) => alerts.length === 1);
  expect(alert).toMatchObject({ assignedTo: OWNER.name, note: "fuse ordered" });
  expect((await world.client.audit()).entries[0]).toMatchObject({ action: "alert changed", after: { assign: true } });
});

it("is snoozed, resolved, and comes back when it happens again", async () => {
  const snoozed = await world.client.changeAlert({ ...about("finch/porch"), snoozeHours: 1 });
  expect(Date.parse(snoozed.snoozedUntil ?? "")).toBeGreaterThan(Date.now());
  expect(await world.client.alerts()).toEqual([]);
  expect(await world.client.alerts(true)).toHaveLength(1);
  await world.client.changeAlert({ ...about("finch/porch"), snoozeHours: 0, resolve: true });
  expect(await world.client.alerts()).toEqual([]);
  await world.ask("finch/porch", "off");
  await until((alerts) => alerts.length === 1 && alerts[0]?.resolved === false);
});

it("resolves itself when its cause is fixed, and can be changed no more", async () => {
  const finch = await world.board("finch");
  await finch.setFault("none");
  await world.ask("finch/porch", "on", 20);
  await until((alerts) => alerts.length === 0);
  expect(await refusal(world.client.changeAlert({ ...about("finch/porch"), assign: true }))).toBe("not-found");
  expect((await world.pool.query("select * from alert_state")).rows).toEqual([]);
});

it("tells of a key that expires soon, and of nothing to who may not see it", async () => {
  await world.client.addKey({ name: "short", expiresInDays: 3 });
  const [alert] = await until((alerts) => alerts.length === 1);
  expect(alert).toMatchObject({ kind: "key-expiring", title: `The key “short” of ${OWNER.name} expires in 2 days` });
});
