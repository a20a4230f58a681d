/** Notifications: outside services are told what happened, signed, tried until they take it, with a log; and only what they want. */
import { randomBytes } from "node:crypto";
import type { NotificationDescription } from "@bold-relay/core";
import { afterAll, beforeAll, expect, it } from "vitest";
import { signatureOf } from "../src/index.ts";
import { type Outside, startOutside } from "./support/outside.ts";
import { poll, refusal } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
let outside: Outside;

beforeAll(async () => {
  outside = await startOutside();
  world = await createWorld({
    delivery: { ackWithinMs: 200, attempts: 1 },
    environment: { BOLD_RELAY_SECRETS_KEY: randomBytes(32).toString("base64"), BOLD_RELAY_MAY_CALL: outside.place },
  });
  await world.board("wren");
  await world.board("finch");
});
afterAll(async () => {
  await world.stop();
  await outside.stop();
});

function notification(
  slug: string,
  on: NotificationDescription["on"],
  to: NotificationDescription["to"],
): NotificationDescription {
  return { slug, name: slug, site: world.site, on, to };
}

const hook = () => ({ url: `http://${outside.place}/told` });
const bodies = () =>
  outside.taken.map(({ body }) => JSON.parse(body) as { type: string; subject: string; data: Record<string, unknown> });

it("tells of outcomes that are wanted, signed, and of no others", async () => {
  await world.client.saveNotification(
    notification("stopped", { outcomes: ["not-delivered", "partly-delivered"] }, hook()),
    0,
  );
  const { secret } = await world.client.makeNotificationSecret("stopped");
  await world.ask("wren/porch", "on");
  const finch = await world.board("finch");
  await finch.setFault("silent");
  const lost = await world.ask("finch/porch", "on");
  await outside.untilTaken(1);
  expect(bodies()).toMatchObject([
    {
      specversion: "1.0",
      type: "bold-relay.outcome",
      subject: lost.id,
      data: { outcome: "not-delivered", commands: [{ channel: world.address("finch/porch"), end: "unanswered" }] },
    },
  ]);
  const [told] = outside.taken;
  const { "webhook-id": id, "webhook-timestamp": at, "webhook-signature": signature } = told?.headers ?? {};
  expect(signature).toBe(signatureOf(secret, String(id), Number(at), told?.body ?? ""));
  const log = await poll(
    () => world.client.notificationLog("stopped"),
    ([newest]) => newest?.deliveredAt !== null,
  );
  expect(log).toMatchObject([{ id, tries: 1, nextAt: null, trouble: null }]);
  await finch.setFault("none");
  await world.client.removeNotification("stopped");
});

it("tells of changes on a topic", async () => {
  const listener = await world.listener();
  const topic = `${world.site}-told`;
  const heard: string[] = [];
  listener.on("message", (_topic, payload) => heard.push(payload.toString()));
  await listener.subscribeAsync(topic, { qos: 1 });
  await world.client.saveNotification(notification("changes", { changes: true }, { topic }), 0);
  await (await world.board("wren")).flip("hall");
  const isTold = () =>
    heard
      .map((one) => JSON.parse(one) as { subject: string })
      .find(({ subject }) => subject === world.address("wren/hall"));
  await poll(async () => isTold(), Boolean);
  expect(isTold()).toMatchObject({
    type: "bold-relay.change",
    data: { value: "on", cause: "hand", name: "Hall light" },
  });
  await world.client.removeNotification("changes");
});

it("tells of alerts, when they open and when they are resolved", async () => {
  await world.client.saveNotification(notification("care", { alerts: true }, hook()), 0);
  const finch = await world.board("finch");
  await finch.setFault("refusing");
  await world.ask("finch/path", "on");
  await poll(
    async () => bodies(),
    (all) => all.some(({ type, data }) => type === "bold-relay.alert" && data.kind === "failing"),
  );
  await finch.setFault("none");
  await world.ask("finch/path", "on");
  await poll(
    async () => bodies(),
    (all) => all.some(({ type }) => type === "bold-relay.alert.resolved"),
  );
  await world.client.removeNotification("care");
  // All times are RFC 3339, and nothing of ours that means nothing to others is told.
  const alerts = bodies().filter(({ type }) => type.startsWith("bold-relay.alert"));
  for (const { data } of alerts) {
    expect(Object.keys(data).sort()).toEqual(["kind", "since", "site", "subject", "text", "title"]);
    expect(data.since).toMatch(/^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d{3}Z$/);
  }
});

it("keeps what is not taken, with the reason, and never calls a host that is not named", async () => {
  await world.client.saveNotification(
    notification("far", { outcomes: ["delivered"] }, { url: "http://127.0.0.1:9/x" }),
    0,
  );
  await world.ask("wren/porch", "off");
  const [told] = await poll(
    () => world.client.notificationLog("far"),
    ([newest]) => (newest?.tries ?? 0) > 0,
  );
  expect(told).toMatchObject({
    tries: 1,
    deliveredAt: null,
    trouble: expect.stringMatching(/127\.0\.0\.1:9 is not among the hosts/),
  });
  expect(Date.parse(told?.nextAt ?? "")).toBeGreaterThan(Date.now());
  expect((await world.client.notifications()).map(({ notification: { slug }, signed }) => [slug, signed])).toEqual([
    ["far", false],
  ]);
});

it("is refused where devices would obey it, or where two change it at once", async () => {
  const loop = notification("loop", { changes: true }, { topic: `${world.site}/wren/porch/do` });
  expect(await refusal(world.client.saveNotification(loop, 0))).toBe("bad-request");
  expect(await refusal(world.client.saveNotification(notification("far", { changes: true }, hook()), 7))).toBe(
    "changed-meanwhile",
  );
  expect(await refusal(world.client.saveNotification(notification("none", {}, hook()), 0))).toBe("bad-request");
});

it("sends nothing unsigned that should be signed, and starts all the same", async () => {
  await world.client.saveNotification(notification("sealed", { outcomes: ["delivered"] }, hook()), 0);
  await world.client.makeNotificationSecret("sealed");
  await world.pool.query("update notification set secret = '\\x00' where slug = 'sealed'");
  await world.restart();
  const before = outside.taken.length;
  await world.ask("wren/porch", "on");
  const [told] = await poll(
    () => world.client.notificationLog("sealed"),
    ([newest]) => (newest?.tries ?? 0) > 0,
  );
  expect(told).toMatchObject({ deliveredAt: null, trouble: expect.stringMatching(/^its secret cannot be read/) });
  expect(outside.taken).toHaveLength(before);
});
