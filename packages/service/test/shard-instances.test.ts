/** Several instances lead at the same time, each its share of the shards; whatever is asked of any of them is answered. */
import { createClient } from "@bold-relay/api";
import { type Balancer, startBalancer } from "@bold-relay/rig";
import { RelayBoard } from "@bold-relay/standins";
import { afterAll, beforeAll, expect, inject, it } from "vitest";
import { saveSite } from "../src/index.ts";
import { inTransaction } from "../src/store/pool.ts";
import { changeShardCount } from "../src/store/shards.ts";
import { type ServiceProcess, serviceProcess } from "./support/process.ts";
import { brokerUrl } from "./support/servers.ts";
import { poll, untilChannel } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
let sites: string[];
let boards: RelayBoard[];
let instances: ServiceProcess[];
let balancer: Balancer;

const SHARDS = 6;
const describe = (slug: string) => ({
  slug,
  name: `Site ${slug}`,
  rooms: [
    {
      slug: "wren",
      name: "Wren",
      devices: [
        {
          slug: "wren",
          name: "board in the cupboard",
          profile: "reporting",
          channels: (["porch", "hall", "path"] as const).map((name) => ({ slug: name, name, kind: "light" as const })),
        },
      ],
    },
  ],
});

beforeAll(async () => {
  world = await createWorld({ start: false, describe, delivery: { ackWithinMs: 500 } });
  await inTransaction(world.pool, (db) => changeShardCount(db, SHARDS));
  sites = [world.site, ...[1, 2, 3, 4, 5].map((number) => `${world.site}-${number}`)];
  for (const site of sites.slice(1)) await saveSite(world.pool, describe(site), "the test");
  const access = { brokerUrl: brokerUrl(), username: "tester", password: inject("brokerPassword") };
  boards = sites.map(
    (site) => new RelayBoard({ ...access, site, device: "wren", channels: ["porch", "hall", "path"] }),
  );
  await Promise.all(boards.map((board) => board.start()));
  instances = await Promise.all([serviceProcess(world), serviceProcess(world), serviceProcess(world)]);
  for (const instance of instances) await instance.launch();
  balancer = await startBalancer(instances.map(({ url }) => url));
});
afterAll(async () => {
  await balancer.stop();
  await Promise.all(instances.map((instance) => instance.stop()));
  await Promise.all(boards.map((board) => board.stop()));
  await world.stop();
});

const anywhere = () => createClient({ baseUrl: balancer.url, key: world.key });
const first = () => instances[0] as ServiceProcess;

/** By instance, how many shards each leads; those that lead none are left out. */
async function shares(client = first().client): Promise<number[]> {
  const { shards } = await client.cluster();
  const led = shards.flatMap(({ leader }) => leader ?? []);
  return [...new Set(led)].map((name) => led.filter((one) => one === name).length).sort();
}

const fair = (wanted: readonly number[]) =>
  poll(
    () => shares().catch(() => []),
    (found) => JSON.stringify(found) === JSON.stringify(wanted),
    { what: `shares of ${wanted}` },
  );

it("each leads its share, and every site is in a shard of its own", async () => {
  await fair([2, 2, 2]);
  const { shards } = await first().client.cluster();
  expect(shards.map(({ sites }) => sites.length)).toEqual([1, 1, 1, 1, 1, 1]);
});

it("any instance switches at any site, and shows what it is", async () => {
  for (const { client } of instances) {
    for (const site of sites) {
      const target = `${site}/wren/porch`;
      const before = (await client.board()).sites.find(({ slug }) => slug === site)?.channels[0]?.observed?.value;
      const action = before === "on" ? "off" : "on";
      const asked = await client.ask({ target, action }, { waitS: 20 });
      expect(asked).toMatchObject({ outcome: "delivered" });
      expect(await client.request(asked.id)).toMatchObject({ outcome: "delivered" });
      await untilChannel(
        client,
        target,
        (channel) => channel.observed?.value === action && channel.observed.stale === null,
      );
    }
  }
});

it("what is open at another instance is in the log with how far it got", async () => {
  await boards[3]?.setFault("silent");
  const [target] = [`${sites[3]}/wren/hall`];
  const open = await first().client.ask({ target, action: "on" });
  for (const { client } of instances) {
    const { requests } = await client.log({ channel: target, result: "open" });
    expect(requests.map(({ id, commands }) => [id, commands.length])).toEqual([[open.id, 1]]);
    expect(await client.request(open.id)).toMatchObject({ outcome: "open" });
  }
  await boards[3]?.setFault("none");
  await poll(
    () => anywhere().request(open.id),
    ({ outcome }) => outcome === "delivered",
  );
});

it("a lock-out that is taken through any instance binds through every other", async () => {
  const target = `${sites[4]}/wren/path`;
  const [one, two, three] = instances as [ServiceProcess, ServiceProcess, ServiceProcess];
  const { id } = await one.client.lockOut({ target });
  for (const { client } of [two, three])
    expect(await client.ask({ target, action: "on" }).catch((error) => error.problem.code)).toBe("locked-out");
  await poll(
    () =>
      three.client.release(id).then(
        () => true,
        () => false,
      ),
    Boolean,
  );
  expect(await two.client.ask({ target, action: "on" }, { waitS: 20 })).toMatchObject({ outcome: "delivered" });
});

it("a site that is added through one instance is switched through another", async () => {
  const added = `${world.site}-new`;
  const access = { brokerUrl: brokerUrl(), username: "tester", password: inject("brokerPassword") };
  const board = new RelayBoard({ ...access, site: added, device: "wren", channels: ["porch", "hall", "path"] });
  await board.start();
  boards.push(board);
  await instances[1]?.client.saveSite(describe(added), null);
  const ask = () => instances[2]?.client.ask({ target: `${added}/wren/porch`, action: "on" }, { waitS: 20 });
  const asked = await poll(
    () => Promise.resolve(ask()).catch(() => null),
    (request) => request !== null,
  );
  expect(asked).toMatchObject({ outcome: "delivered" });
});
