/** `npm run bench:shards -- --large`: two instances with 100 000 channels in four shards: memory, taking over, moving a site. */
import { setTimeout as pause } from "node:timers/promises";
import { type Client, createClient } from "@bold-relay/api";
import { eventually } from "@bold-relay/rig";
import Table from "cli-table3";
import { addSite, openServers, SECRET, type Stops, setUpMember, setUpSite } from "./bench-site.ts";
import { median } from "./growth/curve.ts";
import { closedLoad } from "./load.ts";
import { cpuMicroseconds, residentMb } from "./process-cost.ts";
import { asking, type Running, spread, startInstances } from "./shard-load.ts";
import { startEcho } from "./start-echo.ts";

const SHARDS = 4;
const SITES = 12;
/** Of each site. */
const CHANNELS = 8_334;
const ASKERS = 96;
const WARM_UP_S = 4;
/** Longer than the lease, 3 s by default, and what comes after it. */
const WINDOW_S = 6;

export async function measureLarge(stops: Stops, rounds: number, seconds: number): Promise<void> {
  const { folder, databaseUrl, brokerUrl } = await openServers("shards-large", stops);
  const inletKey = await setUpSite(databaseUrl, folder, 16);
  const sites = Array.from({ length: SITES }, (_, index) => `bench-${index}`);
  for (const site of sites) await addSite(databaseUrl, folder, site, CHANNELS / 2);
  const key = await setUpMember(databaseUrl);
  await startEcho(brokerUrl, SECRET, stops);
  const found = { startMs: [], idleMb: [], cpu: [], busyMb: [], takeOverMs: [], p99: [], moveMs: [] } as Record<
    "startMs" | "idleMb" | "cpu" | "busyMb" | "takeOverMs" | "p99" | "moveMs",
    number[]
  >;
  for (let round = 0; round < rounds; round += 1) {
    say(`round ${round + 1} of ${rounds}`);
    const startedAt = performance.now();
    const running = await startInstances(2, folder, databaseUrl, brokerUrl);
    found.startMs.push((performance.now() - startedAt) / 2);
    const [one, two] = running as [Running, Running];
    stops.push(() => one.service.stop());
    const client = createClient({ baseUrl: one.url, key });
    await spread(client, sites, SHARDS, 2);
    await pause(10_000);
    found.idleMb.push(Math.max(...running.map(({ service }) => residentMb(service.pid))));
    const load = await asking({ client, sites, running, key: inletKey, count: ASKERS, isHalfWrong: true });
    await closedLoad(load.ask, ASKERS, WARM_UP_S);
    const before = running.map(({ service }) => cpuMicroseconds(service.pid));
    const { count } = await closedLoad(load.ask, ASKERS, seconds);
    const spent = running.map(({ service }, index) => cpuMicroseconds(service.pid) - (before[index] ?? 0));
    found.cpu.push(spent.reduce((sum, own) => sum + own, 0) / count);
    found.busyMb.push(Math.max(...running.map(({ service }) => residentMb(service.pid))));
    load.stop();
    for (let turn = 0; turn < 6; turn += 1)
      found.moveMs.push(await moveMs(client, inletKey, sites[turn] ?? "", (turn + 2) % SHARDS, two));
    const { others, takeOverMs } = await loseOne(client, inletKey, sites, one, two);
    found.p99.push(others);
    found.takeOverMs.push(takeOverMs);
    await one.service.stop();
    await two.service.stop();
  }
  const table = new Table({
    head: [`${SITES} sites, ${Math.round((SITES * CHANNELS) / 1000)}k channels, ${SHARDS} shards, 2 instances`, ""],
  });
  const row = (name: string, values: readonly number[], unit: string, digits = 0) =>
    table.push([name, `${median(values).toFixed(digits)} ${unit}`]);
  row("an instance is ready after", found.startMs, "ms");
  row("memory of the larger instance, idle", found.idleMb, "MB");
  row("memory of the larger instance, under load", found.busyMb, "MB");
  row("service CPU a request, half of them at the wrong instance", found.cpu, "µs");
  row(`a site of ${CHANNELS} channels moves in`, found.moveMs, "ms");
  row("one is killed: its shards switch again after", found.takeOverMs, "ms");
  row("p99 of the other shards meanwhile ÷ before", found.p99, "", 2);
  process.stdout.write(`${table.toString()}\n`);
}

/** From the call until a channel of the site switches again, asked at an instance. */
async function moveMs(client: Client, key: string, site: string, to: number, at: Running): Promise<number> {
  const startedAt = performance.now();
  await client.moveSite(site, to);
  const movedMs = performance.now() - startedAt;
  const probe = await asking({ client, sites: [site], running: [at], key, count: 1, isHalfWrong: false });
  if (!(await eventually(() => isSwitched(probe), 60_000))) throw new Error(`${site} does not switch.`);
  probe.stop();
  const totalMs = performance.now() - startedAt;
  say(`${site} to shard ${to}: moved in ${movedMs.toFixed(0)} ms, switched after ${totalMs.toFixed(0)} ms`);
  return totalMs;
}

function isSwitched(probe: { ask: (worker: number, turn: number) => Promise<void> }): Promise<boolean> {
  return probe.ask(0, 0).then(
    () => true,
    () => false,
  );
}

/** One of two is killed while the other one is asked for its own sites, and for one of those that it takes over. */
async function loseOne(client: Client, key: string, sites: readonly string[], stays: Running, dies: Running) {
  const { shards, instances } = await client.cluster();
  const leaderOf = (site: string) => shards.find((shard) => shard.sites.includes(site))?.leader;
  const nameOf = ({ url }: Running) => instances.find(({ address }) => address === url)?.name;
  const own = sites.filter((site) => leaderOf(site) === nameOf(stays));
  const [lost = ""] = sites.filter((site) => leaderOf(site) === nameOf(dies));
  const load = await asking({ client, sites: own, running: [stays], key, count: 16, isHalfWrong: false });
  await closedLoad(load.ask, 16, WARM_UP_S);
  const before = await closedLoad(load.ask, 16, WINDOW_S);
  const meanwhile = closedLoad(load.ask, 16, WINDOW_S);
  const diedAt = performance.now();
  dies.service.kill("SIGKILL");
  const probe = await asking({ client, sites: [lost], running: [stays], key, count: 1, isHalfWrong: false });
  if (!(await eventually(() => isSwitched(probe), 60_000))) throw new Error("Nobody has taken over.");
  const takeOverMs = performance.now() - diedAt;
  const { p99 } = await meanwhile;
  load.stop();
  probe.stop();
  return { others: p99 / before.p99, takeOverMs };
}

function say(line: string): void {
  process.stderr.write(`${new Date().toISOString().slice(11, 19)}  ${line}\n`);
}
