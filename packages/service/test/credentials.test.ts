/** Users at a real broker, made by the service: for a device's own topics only, turned over, taken back, changed with the device. */
import { chmodSync, mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { withDevice, withoutDevice } from "@bold-relay/core";
import { type Broker, findPrograms, freePort, startBroker } from "@bold-relay/rig";
import { connectAsync, type MqttClient } from "mqtt";
import { afterAll, beforeAll, expect, it } from "vitest";
import { poll, refusal, untilChannel } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

const ADMIN = "an admin's password";
const SERVICE = "the service's password";

let broker: Broker;
let folder: string;
let world: World;
const clients: MqttClient[] = [];

beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), "bold-relay-users-"));
  chmodSync(folder, 0o755);
  const users = [{ name: "service", password: SERVICE, topics: "service" as const }];
  broker = await startBroker({
    programs: findPrograms(),
    folder: path.join(folder, "broker"),
    port: await freePort(),
    users,
    devicePort: await freePort(),
    adminPassword: ADMIN,
  });
  world = await createWorld({
    environment: {
      BOLD_RELAY_BROKER_URL: broker.url,
      BOLD_RELAY_BROKER_USER: "service",
      BOLD_RELAY_BROKER_PASSWORD: SERVICE,
      BOLD_RELAY_BROKER_ADMIN_USER: "admin",
      BOLD_RELAY_BROKER_ADMIN_PASSWORD: ADMIN,
    },
  });
});
afterAll(async () => {
  for (const client of clients) await client.endAsync(true);
  await world.stop();
  await broker.stop();
  rmSync(folder, { recursive: true, force: true });
});

interface Shown {
  readonly username: string;
  readonly clientId: string;
  readonly password: string;
}

/** @param at the port for devices; that of the service unless it is told */
async function connect(shown: Shown, at: Broker["devices"] = null): Promise<MqttClient> {
  const tls = at ? { ca: readFileSync(at.ca ?? "") } : {};
  const client = await connectAsync(at?.url ?? broker.url, {
    ...shown,
    ...tls,
    protocolVersion: 5,
    reconnectPeriod: 0,
  });
  client.on("error", () => {});
  clients.push(client);
  return client;
}

const users = async (device: string) =>
  (await world.client.devices()).find(({ address }) => address === world.address(device))?.users;

/** Whether the broker lets it write there: reason code 135 says no (MQTT 5, 3.4.2.1). */
async function mayWrite(client: MqttClient, topic: string): Promise<boolean> {
  try {
    await client.publishAsync(topic, '{"to":"on"}', { qos: 1 });
    return true;
  } catch {
    return false;
  }
}

let first: Shown;

it("a device hears and says its own, and nothing of its neighbour's", async () => {
  first = await world.client.makeCredentials(world.address("wren"));
  expect(first.username).toBe(`${world.site}.wren.1`);
  const device = await connect(first);
  const heard: string[] = [];
  device.on("message", (topic) => heard.push(topic));
  const own = await device.subscribeAsync(`${world.site}/wren/porch/do`, { qos: 1 });
  expect(own[0]?.qos).toBe(1);
  for (const topic of [
    `${world.site}/finch/porch/do`,
    `${world.site}/+/+/do`,
    "#",
    "$CONTROL/#",
    `${world.site}/wren/porch/is`,
  ]) {
    // A broker may grant what it will not deliver: what counts is what is heard.
    await device.subscribeAsync(topic, { qos: 1 }).catch(() => {});
  }
  expect(await mayWrite(device, `${world.site}/wren/porch/is`)).toBe(true);
  await untilChannel(world.client, world.address("wren/porch"), (one) => one.observed?.value === "on");
  for (const topic of [`${world.site}/finch/porch/is`, `${world.site}/wren/porch/do`, "$CONTROL/dynamic-security/v1"]) {
    expect(await mayWrite(device, topic)).toBe(false);
  }
  // Its own channels it may have all at once, in the ways in which boards subscribe.
  for (const filter of [`${world.site}/wren/+/do`, `${world.site}/wren/#`]) {
    const [granted] = await device.subscribeAsync(filter, { qos: 1 });
    expect([filter, granted?.qos]).toEqual([filter, 1]);
  }
  // Nobody listens there: the broker has not let the neighbour.
  const theirs = await world.ask("finch/porch", "on");
  expect(theirs.commands[0]).toMatchObject({ end: "failed", reason: "nobody-listens" });
  await world.ask("wren/porch", "off", 0);
  await poll(
    async () => heard.length,
    (count) => count > 0,
  );
  expect(new Set(heard)).toEqual(new Set([`${world.site}/wren/porch/do`]));
});

it("cannot take the place of the service, or of another device, by calling itself so", async () => {
  const other = await world.client.makeCredentials(world.address("dunlin"));
  const victim = await connect(other);
  for (const clientId of [
    world.config.brokerClientId,
    `${world.config.brokerClientId}-wire`,
    other.clientId,
    "anything",
  ]) {
    await expect(connect({ ...first, clientId })).rejects.toThrow();
    // Where devices connect, whatever they call themselves is their user name: nobody else is ended.
    const again = await connect({ ...first, clientId }, broker.devices);
    expect(again.connected).toBe(true);
    await again.endAsync(true);
  }
  expect(victim.connected).toBe(true);
  expect((await world.client.status()).broker.up).toBe(true);
  await world.ask("wren/porch", "on", 0);
});

it("is turned over with an overlap, then the one before ends; its name is never used again", async () => {
  const second = await world.client.makeCredentials(world.address("wren"), 1);
  expect(second.username).toBe(`${world.site}.wren.2`);
  expect(await users("wren")).toMatchObject([
    { username: first.username, retiresAt: expect.any(String) },
    { retiresAt: null },
  ]);
  await connect(first);
  await connect(second);
  const third = await world.client.makeCredentials(world.address("wren"));
  expect((await users("wren"))?.map(({ username }) => username)).toEqual([third.username]);
  await expect(connect(first)).rejects.toThrow();
  await expect(connect(second)).rejects.toThrow();
  await connect(third);
});

it("may do more or less when its channels change", async () => {
  const made = await world.client.makeCredentials(world.address("finch"));
  const device = await connect(made);
  const { site, version } = await world.client.site(world.site);
  const room = site.rooms.find(({ slug }) => slug === "finch");
  const board = room?.devices[0];
  if (!room || !board) throw new Error("no finch");
  const channels = [...board.channels.slice(1), { slug: "fan", name: "Fan", kind: "relay" as const }];
  await world.client.saveSite(withDevice(site, room, { ...board, channels }), version);
  expect(await mayWrite(device, `${world.site}/finch/fan/is`)).toBe(true);
  expect(await mayWrite(device, `${world.site}/finch/porch/is`)).toBe(false);
});

it("may say values in its topics, and none in those of its neighbour", async () => {
  const topics = {
    do: "{site}/{device}/{channel}/set/{value}",
    done: null,
    is: "{site}/{device}/{channel}/now/{value}",
  };
  const profile = {
    slug: "spoken",
    name: "Spoken",
    codec: "word",
    topics: { ...topics, here: null },
    delivery: {},
  } as const;
  await world.client.saveProfile(profile, null);
  const { site, version } = await world.client.site(world.site);
  const room = site.rooms.find(({ slug }) => slug === "finch");
  if (!room) throw new Error("no finch");
  const channels = [{ slug: "lamp", name: "Spoken lamp", kind: "relay" as const }];
  const board = { slug: "spoken", name: "spoken board", profile: "spoken", channels };
  await world.client.saveSite(withDevice(site, room, board), version);
  const device = await connect(await world.client.makeCredentials(world.address("spoken")));
  const [granted] = await device.subscribeAsync(`${world.site}/spoken/lamp/set/+`, { qos: 1 });
  expect(granted?.qos).toBe(1);
  device.on("message", (topic) => void device.publishAsync(topic.replace("/set/", "/now/"), "", { qos: 1 }));
  expect((await world.ask("spoken/lamp", "on")).outcome).toBe("delivered");
  for (const topic of [
    `${world.site}/finch/porch/is`,
    `${world.site}/spoken/lamp/now/on/more`,
    `${world.site}/spoken/lamp/set/on`,
  ])
    expect([topic, await mayWrite(device, topic)]).toEqual([topic, false]);
});

it("gets at the next start what a newer version permits: the filters of its own channels", async () => {
  const made = await world.client.makeCredentials(world.address("wren"));
  const filter = `${world.site}/wren/+/do`;
  await world.pool.query("update device_access set access = access::jsonb - 'filters' where device = $1", [
    world.address("wren"),
  ]);
  await world.restart();
  // The broker is told anew, too: it kept what the last start told it.
  await poll(
    async () => (await accessOf(world.address("wren"))).filters,
    (filters) => filters?.includes(filter) ?? false,
  );
  const device = await connect(made);
  const [granted] = await device.subscribeAsync(filter, { qos: 1 });
  expect(granted?.qos).toBe(1);
});

async function accessOf(device: string): Promise<{ readonly filters?: readonly string[] }> {
  const { rows } = await world.pool.query("select access from device_access where device = $1", [device]);
  return rows[0]?.access ?? {};
}

it("is cut off at once when it is revoked, or its device is taken out", async () => {
  const made = await world.client.makeCredentials(world.address("finch"));
  const device = await connect(made);
  const closed = new Promise<void>((resolve) => device.once("close", resolve));
  await world.client.revokeCredentials(world.address("finch"));
  await closed;
  expect(await users("finch")).toEqual([]);
  const again = await world.client.makeCredentials(world.address("dunlin"));
  const other = await connect(again);
  const gone = new Promise<void>((resolve) => other.once("close", resolve));
  const { site, version } = await world.client.site(world.site);
  await world.client.saveSite(withoutDevice(site, "dunlin"), version);
  await gone;
  await expect(connect(again)).rejects.toThrow();
});

it("is on record and in the audit without its password; of an unknown device there is none", async () => {
  expect(await refusal(world.client.makeCredentials(world.address("nobody")))).toBe("not-found");
  const { entries } = await world.client.audit();
  const about = entries.filter(({ action }) => action.startsWith("device user"));
  expect(about.map(({ action }) => action)).toContain("device users revoked");
  expect(JSON.stringify(entries)).not.toContain(first.password);
});

it("says how to go on where the service may make no users", async () => {
  const plain = await createWorld();
  try {
    expect(await refusal(plain.client.makeCredentials(plain.address("wren")))).toBe("no-broker-admin");
  } finally {
    await plain.stop();
  }
});
