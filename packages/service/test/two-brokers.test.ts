/** Users of devices at two brokers, of which one is in use: whoever takes over lets the same devices in, and nobody who was taken back. */
import { chmodSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { type Broker, findPrograms, freePort, startBroker } from "@bold-relay/rig";
import { connectAsync } from "mqtt";
import { afterAll, beforeAll, expect, it } from "vitest";
import { poll } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

const ADMIN = "an admin's password";
const SERVICE = "the service's password";
const ports = { inUse: 0, second: 0 };

let folder: string;
let inUse: Broker;
let second: Broker;
let world: World;

/** Set up anew each time: it has its own users and nothing else. */
async function start(name: keyof typeof ports): Promise<Broker> {
  rmSync(path.join(folder, name), { recursive: true, force: true });
  return startAgain(name);
}

beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), "bold-relay-two-brokers-"));
  chmodSync(folder, 0o755);
  ports.inUse = await freePort();
  ports.second = await freePort();
  inUse = await start("inUse");
  second = await start("second");
  world = await createWorld({
    environment: {
      BOLD_RELAY_BROKER_URL: inUse.url,
      BOLD_RELAY_BROKER_USER: "service",
      BOLD_RELAY_BROKER_PASSWORD: SERVICE,
      BOLD_RELAY_BROKER_ADMIN_USER: "admin",
      BOLD_RELAY_BROKER_ADMIN_PASSWORD: ADMIN,
      BOLD_RELAY_BROKER_ADMIN_URLS: `${inUse.url},${second.url}`,
      BOLD_RELAY_SECRETS_KEY: Buffer.alloc(32, 7).toString("base64"),
    },
  });
});
afterAll(async () => {
  await world.stop();
  await Promise.all([inUse.stop(), second.stop()]);
  rmSync(folder, { recursive: true, force: true });
});

interface Shown {
  readonly username: string;
  readonly clientId: string;
  readonly password: string;
}

async function letsIn({ url }: Broker, shown: Shown): Promise<boolean> {
  try {
    const client = await connectAsync(url, { ...shown, protocolVersion: 5, reconnectPeriod: 0 });
    await client.endAsync(true);
    return true;
  } catch {
    return false;
  }
}

const until = (isSo: () => Promise<boolean>) => poll(isSo, Boolean);

let device: Shown;

it("the one in use lets a new user of a device in at once, and the other one a moment later", async () => {
  device = await world.client.makeCredentials(world.address("wren"));
  expect(await letsIn(inUse, device)).toBe(true);
  await until(() => letsIn(second, device));
});

it("one that is set up anew lets it in again, with its own topics only", async () => {
  await second.stop();
  await world.client.makeCredentials(world.address("dunlin"));
  second = await start("second");
  await until(() => letsIn(second, device));
  const client = await connectAsync(second.url, { ...device, protocolVersion: 5, reconnectPeriod: 0 });
  client.on("error", () => {});
  await client.publishAsync(`${world.site}/wren/porch/is`, "{}", { qos: 1 });
  await expect(client.publishAsync(`${world.site}/finch/porch/is`, "{}", { qos: 1 })).rejects.toThrow();
  await client.endAsync(true);
});

/** With its memory of before. */
async function startAgain(name: keyof typeof ports): Promise<Broker> {
  return startBroker({
    programs: findPrograms(),
    folder: path.join(folder, name),
    port: ports[name],
    users: [{ name: "service", password: SERVICE, topics: "service" }],
    adminPassword: ADMIN,
  });
}

async function mayWrite({ url }: Broker, topic: string): Promise<boolean> {
  const client = await connectAsync(url, { ...device, protocolVersion: 5, reconnectPeriod: 0 });
  client.on("error", () => {});
  try {
    await client.publishAsync(topic, "{}", { qos: 1 });
    return true;
  } catch {
    return false;
  } finally {
    await client.endAsync(true);
  }
}

it("one that was away while a device lost a channel takes the right from it when it is back", async () => {
  const lost = `${world.site}/wren/porch/is`;
  expect(await mayWrite(second, lost)).toBe(true);
  await second.child.stop();
  const { site, version } = await world.client.site(world.site);
  const without = {
    ...site,
    rooms: site.rooms.map((room) => ({
      ...room,
      devices: room.devices.map((one) =>
        one.slug === "wren" ? { ...one, channels: one.channels.filter(({ slug }) => slug !== "porch") } : one,
      ),
    })),
  };
  await world.client.saveSite(without, version);
  await until(async () => !(await mayWrite(inUse, lost)));
  second = await startAgain("second");
  await until(async () => !(await mayWrite(second, lost)));
});

it("what the one in use has not done is not told as done, whatever the other one can do", async () => {
  await inUse.child.stop();
  await expect(world.client.revokeCredentials(world.address("wren"))).rejects.toMatchObject({
    problem: { code: "broker-admin-failed" },
  });
  inUse = await startAgain("inUse");
  // It was asked for, and is carried out once it can be.
  await until(async () => !(await letsIn(inUse, device)));
  device = await world.client.makeCredentials(world.address("wren"));
  await until(() => letsIn(second, device));
});

it("one that was away while a user was taken back does not let it in when it is back", async () => {
  await second.child.stop();
  await world.client.revokeCredentials(world.address("wren"));
  expect(await letsIn(inUse, device)).toBe(false);
  second = await startAgain("second");
  await until(async () => !(await letsIn(second, device)));
});

it("what a user shows is in the database only sealed", async () => {
  const shown = await world.client.makeCredentials(world.address("finch"));
  const { rows } = await world.pool.query<{ password: Buffer | null }>(
    "select password from device_user where username = $1",
    [shown.username],
  );
  expect(rows[0]?.password?.length).toBeGreaterThan(shown.password.length);
  expect(rows[0]?.password?.toString("latin1")).not.toContain(shown.password);
});
