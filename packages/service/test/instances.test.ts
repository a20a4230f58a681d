/** Several instances on one journal and one broker, behind a plain balancer: one holds the lanes, the others hand on to it. */
import { createClient } from "@bold-relay/api";
import { type Balancer, startBalancer } from "@bold-relay/rig";
import type { RelayBoard } from "@bold-relay/standins";
import { afterAll, afterEach, beforeAll, describe, expect, it } from "vitest";
import { describePlover, PLOVER, ploverProfiles } from "./support/plover.ts";
import { type ServiceProcess, serviceProcess } from "./support/process.ts";
import { poll, untilChannel } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
let board: RelayBoard;
let instances: ServiceProcess[];
let balancer: Balancer;

beforeAll(async () => {
  world = await createWorld({ start: false, describe: describePlover, profiles: ploverProfiles });
  instances = await Promise.all([serviceProcess(world), serviceProcess(world), serviceProcess(world)]);
  balancer = await startBalancer(instances.map(({ url }) => url));
  board = await world.board("plover", PLOVER);
});
afterEach(async () => {
  for (const instance of instances) if (instance.isUp()) instance.child().kill("SIGCONT");
  await Promise.all(instances.map((instance) => instance.end()));
  await board.setFault("none");
});
afterAll(async () => {
  await balancer.stop();
  await Promise.all(instances.map((instance) => instance.stop()));
  await world.stop();
});

const QUICK = { BOLD_RELAY_LEASE_MS: "600" };
const heat = () => world.address("plover/heat");

async function launch(count: number, env: Record<string, string> = QUICK): Promise<void> {
  for (const instance of instances.slice(0, count)) await instance.launch(env);
}

/** The instance that holds the lanes, once it is not `other`. */
async function holder(other?: ServiceProcess): Promise<ServiceProcess> {
  const { rows } = await poll(
    () => world.pool.query<{ address: string }>("select address from lease where until > now()"),
    (found) => found.rows.some(({ address }) => address !== other?.url),
  );
  const found = instances.find(({ url }) => url === rows[0]?.address);
  if (!found) throw new Error("Nobody holds the lanes.");
  return found;
}

async function standby(): Promise<ServiceProcess> {
  const holds = await holder();
  const found = instances.find((instance) => instance !== holds && instance.isUp());
  if (!found) throw new Error("Nobody stands by.");
  return found;
}

/** Through the balancer, which spreads the connections that are open at a time. */
const anywhere = () => createClient({ baseUrl: balancer.url, key: world.key });

const ended = (id: string) =>
  poll(
    () =>
      anywhere()
        .request(id)
        .catch(() => null),
    (request) => request !== null && request.outcome !== "open",
  );

async function endsOf(ids: readonly string[]) {
  const { rows } = await world.pool.query(
    "select count(*)::int as ends, count(distinct request_id)::int as requests from command where request_id = any($1::uuid[])",
    [ids],
  );
  return rows[0];
}

/** Asks for on and off in turn until told to stop; the ids of what was taken. */
function keepAsking(targets: readonly string[]) {
  const taken: string[] = [];
  let asking = true;
  const asker = async (target: string) => {
    for (let turn = 0; asking; turn += 1) {
      const request = await anywhere()
        .ask({ target, action: turn % 2 ? "on" : "off" })
        .catch(() => null);
      if (request) taken.push(request.id);
    }
  };
  const all = Promise.all(targets.map(asker));
  return {
    taken,
    async stop() {
      asking = false;
      await all;
    },
  };
}

describe("an instance that stands by", () => {
  it("answers what the holder answers: requests, refusals, the board, live events", async () => {
    await launch(2);
    const { client, url } = await standby();
    const switched = untilChannel(client, heat(), (channel) => channel.observed?.value === "on");
    expect(await client.ask({ target: heat(), action: "on" }, { waitS: 10 })).toMatchObject({ outcome: "delivered" });
    expect((await switched).observed?.value).toBe("on");
    expect(await client.ask({ target: "nowhere", action: "on" }).catch((error) => error.problem)).toMatchObject({
      code: "unknown-channel",
      status: 422,
    });
    const ready = await (await fetch(`${url}/health/ready`)).json();
    expect(ready).toMatchObject({ ready: true, standsBy: true, leader: expect.any(String) });
  });

  it("is told by nobody that it is trusted: a forged hop is turned away, not handed round", async () => {
    await launch(2);
    const { url } = await standby();
    const answer = await fetch(`${url}/api/v1/board`, { headers: { "bold-relay-via": "somebody" } });
    expect([answer.status, (await answer.json()).code]).toEqual([503, "service-busy"]);
  });
});

describe("the holder goes", () => {
  it("in order: the next one takes over at once, and what is open goes on there", async () => {
    await launch(2);
    const first = await holder();
    await board.setFault("silent");
    const open = await first.client.ask({ target: heat(), action: "off" });
    await first.end();
    await board.setFault("none");
    expect(await holder(first)).not.toBe(first);
    expect(await ended(open.id)).toMatchObject({ outcome: "delivered" });
  });

  it("killed under load behind a balancer: what was taken has exactly one end, and asking goes on", async () => {
    await launch(3);
    const first = await holder();
    const load = keepAsking(
      ["heat", "sign", "heat", "pump", "dim"].map((channel) => world.address(`plover/${channel}`)),
    );
    const grows = (by: number) =>
      poll(
        async () => load.taken.length,
        (
          (from) => (count: number) =>
            count >= from + by
        )(load.taken.length),
      );
    await grows(60);
    first.child().kill("SIGKILL");
    await holder(first);
    await grows(60);
    await load.stop();
    await Promise.all(load.taken.map(ended));
    expect(await endsOf(load.taken)).toEqual({ ends: load.taken.length, requests: load.taken.length });
  });

  it("stopped and brought back: it writes nothing any more, neither to the broker nor to the journal", async () => {
    await launch(2);
    const first = await holder();
    await board.setFault("silent");
    const before = await first.client.ask({ target: heat(), action: "on" });
    await poll(
      async () => board.deeds.some(({ id }) => id === before.commands[0]?.id),
      (heard) => heard,
    );
    first.child().kill("SIGSTOP");
    const second = await holder(first);
    await board.setFault("none");
    const after = await second.client.ask({ target: heat(), action: "off" }, { waitS: 20 });
    expect(after.outcome).toBe("delivered");
    const heardBefore = board.deeds.length;
    first.child().kill("SIGCONT");
    // It answers again only once it knows its place, and then as the holder does.
    const seen = await poll(
      () => first.client.request(after.id).catch(() => null),
      (request) => request?.outcome === "delivered",
    );
    expect(seen?.id).toBe(after.id);
    await poll(
      async () => (await (await fetch(`${first.url}/health/ready`)).json()) as { standsBy?: boolean },
      ({ standsBy }) => standsBy === true,
    );
    expect((await holder()).url).toBe(second.url);
    expect(await ended(before.id)).toMatchObject({ outcome: expect.stringMatching(/replaced|not-at-all|delivered/) });
    expect(board.deeds.slice(heardBefore).filter(({ id }) => id === before.commands[0]?.id)).toEqual([]);
    expect(board.state.contacts.heat).toBe("off");
    expect(await endsOf([before.id, after.id])).toEqual({ ends: 2, requests: 2 });
  });

  it("while nobody holds the lanes a request waits, and is answered by the next holder", async () => {
    await launch(2);
    const first = await holder();
    const { client } = await standby();
    first.child().kill("SIGKILL");
    await first.child().ended;
    const request = await client.ask({ target: heat(), action: "on" }, { waitS: 20 });
    expect(request.outcome).toBe("delivered");
  });
});

describe("a lead that is handed over", () => {
  // On a busy machine a short lease may be lost meanwhile, and then it is nobody's to hand over.
  const UNHURRIED = {};

  it("changes hands under load, and no request is refused or lost", async () => {
    await launch(3, UNHURRIED);
    const first = await holder();
    const { instances: listed } = await first.client.cluster();
    const next = listed.find(({ leads }) => !leads);
    const refused: unknown[] = [];
    const taken: string[] = [];
    let asking = true;
    const asker = async (target: string) => {
      for (let turn = 0; asking; turn += 1)
        await anywhere()
          .ask({ target: world.address(`plover/${target}`), action: turn % 2 ? "on" : "off" })
          .then(
            ({ id }) => taken.push(id),
            (error) => refused.push(error.problem?.code ?? String(error)),
          );
    };
    const load = Promise.all(["heat", "sign", "pump", "dim"].map(asker));
    const grows = async (by: number) => {
      const from = taken.length;
      await poll(
        async () => taken.length,
        (count) => count > from + by,
      );
    };
    try {
      await grows(40);
      await first.client.handOverLead(next?.name ?? "");
      expect((await holder(first)).url).toBe(next?.address);
      await grows(40);
    } finally {
      asking = false;
      await load;
    }
    expect(refused).toEqual([]);
    await Promise.all(taken.map(ended));
    expect(await endsOf(taken)).toEqual({ ends: taken.length, requests: taken.length });
  });

  it("goes with the sites as they are by then, however lately they were changed", async () => {
    await launch(2, UNHURRIED);
    const first = await holder();
    const { instances: listed } = await first.client.cluster();
    const next = listed.find(({ leads }) => !leads)?.name ?? "";
    const { site, version } = await first.client.site(world.site);
    const named = (name: string) =>
      JSON.parse(JSON.stringify(site).replace('"name":"Sign"', `"name":"${name}"`)) as typeof site;
    await first.client.saveSite(named("Neon lamp"), version);
    await first.client.handOverLead(next);
    await holder(first);
    const request = await anywhere().ask({ target: "neon lamp plover", action: "on" }, { waitS: 10 });
    expect(request.outcome).toBe("delivered");
    const { version: last } = await anywhere().site(world.site);
    await anywhere().saveSite(site, last);
  });

  it("is refused to one that is not there, and nothing to one that leads", async () => {
    await launch(2, UNHURRIED);
    const first = await holder();
    const { leader } = await first.client.cluster();
    await expect(first.client.handOverLead("nobody")).rejects.toMatchObject({ problem: { status: 404 } });
    await first.client.handOverLead(leader ?? "");
    expect((await holder()).url).toBe(first.url);
  });
});

describe("a leader that does not reach the broker", () => {
  it("gives the lead to an instance that does, and what is open goes on there", async () => {
    const [one, two] = instances as [ServiceProcess, ServiceProcess];
    const way = await startBalancer([world.config.brokerUrl]);
    try {
      const through = new URL(world.config.brokerUrl);
      through.port = new URL(way.url).port;
      await one.launch({ BOLD_RELAY_BROKER_URL: through.href });
      await two.launch();
      expect((await one.client.ask({ target: heat(), action: "on" }, { waitS: 10 })).outcome).toBe("delivered");
      await way.stop();
      await poll(
        () => one.client.cluster(),
        ({ findings }) => findings.some((text) => text.includes("does not reach the broker")),
      );
      const open = await one.client.ask({ target: heat(), action: "off" });
      expect(await holder(one)).toBe(two);
      expect(await ended(open.id)).toMatchObject({ outcome: "delivered" });
    } finally {
      await way.stop().catch(() => {});
    }
  });

  it("keeps it while no other one reaches the broker either", async () => {
    const [one, two] = instances as [ServiceProcess, ServiceProcess];
    const way = await startBalancer([world.config.brokerUrl]);
    const through = new URL(world.config.brokerUrl);
    through.port = new URL(way.url).port;
    await one.launch({ BOLD_RELAY_BROKER_URL: through.href });
    await two.launch({ BOLD_RELAY_BROKER_URL: through.href });
    await way.stop();
    const unreached = ({ brokerReached }: { brokerReached: boolean | null }) => brokerReached === false;
    await poll(
      () => one.client.cluster(),
      (cluster) => cluster.instances.filter(unreached).length === 2,
    );
    expect((await one.client.cluster()).leader).toBe((await two.client.cluster()).leader);
    expect((await holder()).url).toBe(one.url);
  });
});

describe("the instances that run beside each other", () => {
  it("are listed by any of them, with the one that leads, and with one that died", async () => {
    await launch(3);
    const first = await holder();
    const { client } = await standby();
    const all = await client.cluster();
    expect(all.instances.map(({ address }) => address).sort()).toEqual(instances.map(({ url }) => url).sort());
    expect(all.instances.filter(({ leads }) => leads).map(({ address }) => address)).toEqual([first.url]);
    expect(all.instances.every(({ alive, residentMb }) => alive && residentMb > 0)).toBe(true);
    expect(all.findings).toEqual([]);
    const [other] = instances.filter((one) => one !== first);
    other?.child().kill("SIGKILL");
    await poll(
      () => first.client.cluster(),
      ({ findings }) => findings.some((text) => text.includes("was last seen")),
    );
    expect((await first.client.cluster()).instances.filter(({ alive }) => !alive)).toHaveLength(1);
    const [alert] = await poll(
      () => first.client.alerts(false),
      (alerts) => alerts.some(({ kind }) => kind === "instance-missing"),
    );
    expect(alert?.text).toContain("2 instances are left");
  });

  it("are no longer listed once they stopped in order", async () => {
    await launch(2);
    const first = await holder();
    await (await standby()).end();
    await poll(
      () => first.client.cluster(),
      ({ instances: listed }) => listed.filter(({ alive }) => alive).length === 1,
    );
  });

  it("of one name are one too many: the second says so and ends", async () => {
    const [one, two] = instances as [ServiceProcess, ServiceProcess];
    await one.launch({ ...QUICK, BOLD_RELAY_INSTANCE: "north" });
    await two.launch({ ...QUICK, BOLD_RELAY_INSTANCE: "north" }).catch(() => {});
    expect(two.isUp()).toBe(false);
    expect(two.log()).toContain(`Another instance runs under the name north at ${one.url}.`);
    expect((await one.client.cluster()).leader).toBe("north");
  });
});

describe("an instance that is not right is refused at its start", () => {
  const key = (byte: number) => Buffer.alloc(32, byte).toString("base64");

  async function refused(env: Record<string, string>, first: Record<string, string> = {}): Promise<string> {
    const [one, two] = instances as [ServiceProcess, ServiceProcess];
    await one.launch({ ...QUICK, BOLD_RELAY_INSTANCE: "north", ...first });
    await two.launch({ ...QUICK, BOLD_RELAY_INSTANCE: "east", ...env });
    expect(two.isUp()).toBe(false);
    const { instances: listed, leader } = await one.client.cluster();
    expect([leader, listed.map(({ name }) => name)]).toEqual(["north", ["north"]]);
    return two.log();
  }

  it("with another secrets key, or none", async () => {
    const first = { BOLD_RELAY_SECRETS_KEY: key(1) };
    expect(await refused({ BOLD_RELAY_SECRETS_KEY: key(2) }, first)).toContain(
      "north runs with another BOLD_RELAY_SECRETS_KEY",
    );
    await (instances[0] as ServiceProcess).end();
    expect(await refused({}, first)).toContain("north runs with a BOLD_RELAY_SECRETS_KEY");
  });

  it("with a wrong clock", async () => {
    const later = "const now = Date.now; Date.now = () => now() + 300000;";
    const said = await refused({ NODE_OPTIONS: `--import data:text/javascript,${encodeURIComponent(later)}` });
    expect(said).toMatch(/The clock of this machine is .* ahead of the database's/);
  });

  it("with an address that leads nowhere, or to another one", async () => {
    const [one] = instances as [ServiceProcess];
    expect(await refused({ BOLD_RELAY_ADVERTISE: "http://127.0.0.1:1" })).toContain("but nothing answers there");
    await one.end();
    expect(await refused({ BOLD_RELAY_ADVERTISE: one.url })).toContain("but another instance answers there");
  });

  it("and one with the same key and its own address is not", async () => {
    const [one, two] = instances as [ServiceProcess, ServiceProcess];
    const env = { ...QUICK, BOLD_RELAY_SECRETS_KEY: key(1) };
    await one.launch({ ...env, BOLD_RELAY_ADVERTISE: one.url });
    await two.launch({ ...env, BOLD_RELAY_ADVERTISE: two.url.replace("127.0.0.1", "localhost") });
    expect((await two.client.cluster()).instances).toHaveLength(2);
  });
});
