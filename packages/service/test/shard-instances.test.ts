/** Several instances lead at the same time, each its share of the shards; whatever is asked of any of them is answered. */
import { once } from "node:events";
import { type AddressInfo, createServer } from "node:net";
import { createClient, type InletView } from "@bold-relay/api";
import { type Balancer, freePort, startBalancer } from "@bold-relay/rig";
import { RelayBoard } from "@bold-relay/standins";
import { afterAll, beforeAll, expect, inject, it, onTestFinished } from "vitest";
import { saveSite } from "../src/index.ts";
import { inTransaction } from "../src/store/pool.ts";
import { changeShardCount } from "../src/store/shards.ts";
import { type ServiceProcess, serviceProcess } from "./support/process.ts";
import { brokerUrl } from "./support/servers.ts";
import { poll, untilChannel } from "./support/until.ts";
import { createWorld, OWNER, signedInAs, type World } from "./support/world.ts";

let world: World;
let sites: string[];
let boards: RelayBoard[];
let instances: ServiceProcess[];
let balancer: Balancer;

const SHARDS = 6;
/** Several things are waited for one after the other: whichever does not come is named. */
const LONG_MS = 120_000;
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

const anywhere = () => {
  const baseUrl = balancer.url;
  return createClient({ baseUrl, key: world.key, signInAgain: () => signedInAs(world.pool, OWNER.name, baseUrl) });
};
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

it(
  "what comes in at any instance counts at its inlet, and every inlet is seen as it does",
  async () => {
    const client = anywhere();
    await client.saveInlet({ slug: "front", name: "Front", kind: "web", site: world.site }, null);
    const { key } = await client.addKey({ name: "test", inlet: "front" });
    // Inlets that hold a connection: each at the leader of its site. Another program has the port of one.
    const [free, taken] = [await freePort(), createServer().listen(0, "127.0.0.1")];
    await once(taken, "listening");
    const portOf = { typed: free, stuck: (taken.address() as AddressInfo).port };
    for (const [index, [slug, port]] of Object.entries(portOf).entries())
      await client.saveInlet(
        { slug, name: slug, kind: "line", site: sites[index + 1] ?? "", settings: { port } },
        null,
      );
    const post = (url: string, slug: string, own: string, body: object) =>
      fetch(`${url}/in/${slug}`, {
        method: "POST",
        headers: { authorization: `Bearer ${own}`, "content-type": "application/json" },
        body: JSON.stringify(body),
      });
    for (const { url } of instances)
      await poll(
        async () => (await post(url, "front", key, { target: "no such lamp", action: "on" })).status,
        (status) => status === 422,
        { what: "the inlet to be known" },
      );
    const of = (inlets: readonly InletView[], slug: string) => inlets.find((one) => one.slug === slug);
    for (const instance of instances) {
      const inlets = await poll(
        () => instance.client.inlets(),
        (all) =>
          of(all, "front")?.counts.day.notUnderstood === 3 &&
          of(all, "typed")?.up === true &&
          of(all, "stuck")?.up === false,
        { what: "how inlets do" },
      );
      expect(of(inlets, "front")?.counts.day).toMatchObject({ arrivals: 3, notUnderstood: 3 });
      expect(of(inlets, "stuck")?.trouble).toContain("taken");
    }
    // One that talks at each site: one of them counts where the alerts are made, the others elsewhere.
    for (const [index, site] of sites.entries()) {
      const slug = `talk-${index}`;
      await client.saveInlet({ slug, name: slug, kind: "chat", site, senders: ["ana"] }, null);
      const { key: own } = await client.addKey({ name: "test", inlet: slug });
      for (let turn = 0; turn < 3; turn += 1)
        await post(instances[index % 3]?.url ?? "", slug, own, { sender: "ana", text: "no such lamp on" });
    }
    const wanted = ["inlet-down stuck", ...sites.map((_, index) => `inlet-not-understood talk-${index}`)];
    const about = await poll(
      async () => (await client.alerts()).map(({ kind, subject }) => `${kind} ${subject}`),
      (found) => wanted.every((one) => found.includes(one)),
      { what: "alerts of what happened at other instances" },
    );
    expect(about).not.toContain("inlet-down typed");
    taken.close();
    for (const { slug } of await client.inlets())
      if (/^(?:typed|stuck|talk-.)$/.test(slug)) await client.removeInlet(slug);
  },
  LONG_MS,
);

it("the wire shows through any instance what every instance writes", async () => {
  const [, second] = instances as [ServiceProcess, ServiceProcess, ServiceProcess];
  const written = new Set<string>();
  const stop = new AbortController();
  const watching = second.client
    .wire(
      { filter: "+/wren/#" },
      (event) => {
        if (event.name === "message" && event.data.role === "do" && event.data.own)
          written.add(event.data.topic.split("/")[0] ?? "");
      },
      stop.signal,
    )
    .catch(() => {});
  await poll(
    async () => {
      for (const site of sites) await anywhere().ask({ target: `${site}/wren/path`, action: "on" });
      return sites.filter((site) => !written.has(site));
    },
    (missing) => missing.length === 0,
    { what: "what is written at every site" },
  );
  stop.abort();
  await watching;
});

it(
  "an instance of which nothing is heard is named wherever what it knows is missing",
  async () => {
    const fourth = await serviceProcess(world);
    const way = await startBalancer([fourth.url]);
    await fourth.launch({ BOLD_RELAY_ADVERTISE: way.url });
    const { name } = await poll(
      async () => (await first().client.cluster()).instances.find(({ address }) => address === way.url),
      (one) => one?.leads === true,
      { what: "a fourth instance that leads" },
    ).then((one) => one ?? { name: "" });
    const [onWire, live, noted]: [(readonly string[])[], string[][], string[]] = [[], [], []];
    const { client } = first();
    const stop = new AbortController();
    const streams = Promise.allSettled([
      client.wire(
        { filter: "+/wren/#" },
        (one) => one.name === "missing" && onWire.push(one.data.instances),
        stop.signal,
      ),
      client.live((one) => one.name === "status" && live.push(one.data.missing), stop.signal),
    ]);
    onTestFinished(async () => {
      stop.abort();
      await streams;
      await fourth.stop();
    });
    const last = (lists: readonly (readonly string[])[], what: string) =>
      poll(
        async () => lists.at(-1),
        (names) => names?.join(" ") === what,
        { what: `“${what}” to be missing` },
      );
    const asking = createClient({ baseUrl: first().url, key: world.key, onMissing: (names) => noted.push(names) });

    // It still holds its lease, and answers whoever asks it directly. The other instances do not reach it.
    await way.stop();
    await last(onWire, name);
    await last(live, name);
    expect((await client.status()).missing).toEqual([name]);
    await asking.inlets();
    expect(noted).toEqual([name]);

    await fourth.stop();
    await last(onWire, "");
    await last(live, "");
    expect((await client.status()).missing).toEqual([]);
    await asking.inlets();
    expect(noted).toEqual([name]);
    await fair([2, 2, 2]);
  },
  LONG_MS,
);

/** Asks at every site in turn until told to stop; the ids of what was taken, and why the rest was refused. */
function keepAsking() {
  const [taken, refused]: [string[], unknown[]] = [[], []];
  let asking = true;
  const asker = async (site: string, channel: string) => {
    for (let turn = 0; asking; turn += 1)
      await anywhere()
        .ask({ target: `${site}/wren/${channel}`, action: turn % 2 ? "on" : "off" })
        .then(
          ({ id }) => taken.push(id),
          (error) => refused.push(error.problem?.detail ?? String(error)),
        );
  };
  const all = Promise.all(sites.flatMap((site) => [asker(site, "porch"), asker(site, "hall")]));
  return {
    taken,
    refused,
    async grows(by: number) {
      const from = taken.length;
      await poll(
        async () => taken.length,
        (count) => count >= from + by,
      );
    },
    async stop() {
      asking = false;
      await all;
    },
  };
}

/** What each instance shows of every channel is what its leader hears of it. */
async function allHeard(): Promise<void> {
  for (const { client } of instances.filter((instance) => instance.isUp()))
    await poll(
      async () => {
        const { sites: shown } = await client.board();
        const ours = shown.filter(({ slug }) => sites.includes(slug)).flatMap(({ channels }) => channels);
        return ours
          .filter(({ observed }) => observed === null || observed.stale !== null)
          .map(({ address }) => address);
      },
      (unheard) => unheard.length === 0,
      { what: "every channel to be heard" },
    );
}

/** Everything that was taken has exactly one end. */
async function allEnd(taken: readonly string[]): Promise<void> {
  await poll(
    async () => (await world.pool.query("select from open_command")).rowCount,
    (count) => count === 0,
  );
  const { rows } = await world.pool.query(
    "select count(*)::int as ends, count(distinct request_id)::int as requests from command where request_id = any($1::uuid[])",
    [taken],
  );
  expect(rows[0]).toEqual({ ends: taken.length, requests: taken.length });
}

it(
  "shards that are handed over and given back change hands under load, and no request is refused or lost",
  async () => {
    const [, , third] = instances as [ServiceProcess, ServiceProcess, ServiceProcess];
    const load = keepAsking();
    await load.grows(40);
    const { shards, instances: listed } = await first().client.cluster();
    const name = listed.find(({ address }) => address === third.url)?.name;
    const to = listed.find(({ address }) => address === first().url)?.name ?? null;
    for (const { shard, leader } of shards) if (leader === name) await first().client.handOverLead(to, shard);
    await poll(
      () => first().client.cluster(),
      (cluster) => cluster.instances.every(({ address, leads }) => leads === (address !== third.url)),
    );
    await load.grows(40);
    for (const { shard } of shards) await first().client.handOverLead(null, shard);
    await fair([2, 2, 2]);
    await load.grows(40);
    await load.stop();
    expect(load.refused).toEqual([]);
    await allEnd(load.taken);
    await allHeard();
  },
  LONG_MS,
);

it(
  "killed, its shards go to the others, whose own do not notice",
  async () => {
    const [, second] = instances as [ServiceProcess, ServiceProcess, ServiceProcess];
    const load = keepAsking();
    await load.grows(40);
    second.child().kill("SIGKILL");
    await second.child().ended;
    await poll(
      () => shares().catch(() => []),
      (found) => found.length === 2 && found.reduce((sum, one) => sum + one, 0) === SHARDS,
    );
    await load.grows(40);
    // It is listed as alive for a while. Nothing is handed to it.
    const name = (await first().client.cluster()).instances.find(({ address }) => address === second.url)?.name;
    const handed: number[] = [];
    await poll(
      async () => {
        const { rows } = await world.pool.query("select shard from lease where wanted = $1 and wanted_until > now()", [
          name,
        ]);
        handed.push(...rows.map(({ shard }) => shard));
        return (await first().client.cluster()).instances.find((one) => one.name === name)?.alive;
      },
      (alive) => alive === false,
      { what: "the one that was killed to be listed as dead" },
    );
    expect(handed).toEqual([]);
    await load.stop();
    await allEnd(load.taken);
    await allHeard();
    await second.launch();
    await fair([2, 2, 2]);
    await allHeard();
  },
  LONG_MS,
);

it(
  "frozen and brought back, it writes nothing for shards that others lead by now",
  async () => {
    const [, , third] = instances as [ServiceProcess, ServiceProcess, ServiceProcess];
    const load = keepAsking();
    await load.grows(40);
    third.child().kill("SIGSTOP");
    await poll(
      async () =>
        (await world.pool.query("select from lease where until > now() and address <> $1", [third.url])).rowCount,
      (count) => count === SHARDS,
    );
    third.child().kill("SIGCONT");
    await fair([2, 2, 2]);
    await load.grows(40);
    await load.stop();
    await allEnd(load.taken);
  },
  LONG_MS,
);
