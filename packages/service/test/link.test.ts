/** The broker comes and goes: what was accepted waits, goes out when it is back, or expires visibly. */
import { chmodSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { type Broker, findPrograms, freePort, startBroker } from "@bold-relay/rig";
import { afterAll, beforeAll, expect, it } from "vitest";
import { createLog, startService } from "../src/index.ts";
import { poll } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
let folder: string;
let port: number;

beforeAll(async () => {
  world = await createWorld({ start: false, delivery: { ttlMs: 1_500, ackWithinMs: 8_000 } });
  folder = mkdtempSync(path.join(tmpdir(), "bold-relay-link-"));
  chmodSync(folder, 0o755);
  port = await freePort();
});
afterAll(async () => {
  await world.stop();
  rmSync(folder, { recursive: true, force: true });
});

function broker(): Promise<Broker> {
  const users = [{ name: "tester", password: world.config.brokerPassword ?? "", topics: "service" as const }];
  return startBroker({ programs: findPrograms(), folder, port, users });
}

it("waits for a broker that is not there yet, expires what is too old, and sends what is not", async () => {
  const config = { ...world.config, brokerUrl: `mqtt://127.0.0.1:${port}` };
  world.service = await startService(config, createLog("silent"));
  const ready = await fetch(`${world.service.url}/health/ready`);
  expect([ready.status, await ready.json()]).toEqual([503, { ready: false, waitsFor: ["broker"] }]);

  const old = await world.ask("finch/porch", "on");
  expect(old).toMatchObject({
    outcome: "not-delivered",
    commands: [{ end: "expired", reason: "never-sent-in-time", attempts: 0 }],
  });
  expect((await world.client.status()).broker).toMatchObject({ up: false });

  const first = await broker();
  await world.service.linked;
  const board = await world.board("finch", { brokerUrl: config.brokerUrl });
  expect((await world.ask("finch/porch", "on")).outcome).toBe("delivered");

  await first.stop();
  await poll(
    () => world.client.status(),
    (status) => !status.broker.up,
  );
  const waiting = await world.client.ask({ target: "finch/porch", action: "off" });
  const second = await broker();
  const done = await poll(
    () => world.client.request(waiting.id),
    (request) => request.outcome !== "open",
  );
  // Whether it was back in time is the machine's to say; either way the end is stated and true.
  const heard = board.deeds.some((deed) => deed.id === done.commands[0]?.id);
  if (done.commands[0]?.end === "expired") expect(heard).toBe(false);
  else expect(["delivered", "failed"]).toContain(done.commands[0]?.end);
  await board.stop();
  await world.service.stop();
  await second.stop();
});
