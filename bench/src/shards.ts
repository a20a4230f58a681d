/** `npm run bench:shards`: what a request costs where several instances share the shards, and half of the requests arrive at the wrong one. */
import { setTimeout as pause } from "node:timers/promises";
import { parseArgs } from "node:util";
import { type Client, createClient } from "@bold-relay/api";
import Table from "cli-table3";
import { addSite, openServers, SECRET, type Stops, setUpMember, setUpSite, stopping } from "./bench-site.ts";
import { median } from "./growth/curve.ts";
import { closedLoad } from "./load.ts";
import { cpuMicroseconds, residentMb, treeCpuMicroseconds } from "./process-cost.ts";
import { asking, spread, startInstances } from "./shard-load.ts";
import { measureLarge } from "./shards-large.ts";
import { startEcho } from "./start-echo.ts";

const { values } = parseArgs({
  options: {
    rounds: { type: "string", default: "3" },
    seconds: { type: "string", default: "8" },
    /** Part of the names of those that are measured. */
    only: { type: "string", default: "" },
    /** With 100 000 channels in four shards instead. */
    large: { type: "boolean", default: false },
  },
});
const ROUNDS = Number(values.rounds);
const SECONDS = Number(values.seconds);
const SHARDS = 6;
/** Of each instance: what one commit is shared by depends on how many ask it at a time. */
const ASKERS = 48;
const WARM_UP_S = 3;
const MOVES = 20;
/** Of each site. */
const CHANNELS = 32;

/** One way to run the service. */
interface Setting {
  readonly name: string;
  readonly instances: number;
  readonly shards: number;
  /** Whether every second request arrives at an instance that does not lead its site. */
  readonly isHalfWrong: boolean;
}

const SETTINGS: readonly Setting[] = [
  { name: "1 instance, 1 shard", instances: 1, shards: 1, isHalfWrong: false },
  { name: "1 instance, 6 shards", instances: 1, shards: SHARDS, isHalfWrong: false },
  { name: "2 instances, all right", instances: 2, shards: SHARDS, isHalfWrong: false },
  { name: "2 instances, half wrong", instances: 2, shards: SHARDS, isHalfWrong: true },
  { name: "3 instances, all right", instances: 3, shards: SHARDS, isHalfWrong: false },
  { name: "3 instances, half wrong", instances: 3, shards: SHARDS, isHalfWrong: true },
];

const stops: Stops = [];
await stopping(stops, () => (values.large ? measureLarge(stops, ROUNDS, SECONDS) : measure()));

async function measure(): Promise<void> {
  const { folder, databaseUrl, brokerUrl, postgres } = await openServers("shards", stops);
  const inletKey = await setUpSite(databaseUrl, folder, CHANNELS);
  const sites = Array.from({ length: SHARDS }, (_, index) => `bench-${index}`);
  for (const site of sites) await addSite(databaseUrl, folder, site, CHANNELS);
  const key = await setUpMember(databaseUrl);
  await startEcho(brokerUrl, SECRET, stops);
  const found = new Map<Setting, { cpu: number[]; database: number[]; rate: number[]; p99: number[]; mb: number[] }>();
  const moves: number[] = [];
  for (let round = 0; round < ROUNDS; round += 1) {
    for (const setting of SETTINGS.filter(({ name }) => name.includes(values.only))) {
      say(`round ${round + 1}: ${setting.name}`);
      const running = await startInstances(setting.instances, folder, databaseUrl, brokerUrl);
      const client = createClient({ baseUrl: running[0]?.url ?? "", key });
      await spread(client, sites, setting.shards, setting.instances);
      const askers = ASKERS * setting.instances;
      const load = await asking({
        client,
        sites,
        running,
        key: inletKey,
        count: askers,
        isHalfWrong: setting.isHalfWrong,
      });
      await closedLoad(load.ask, askers, WARM_UP_S);
      const pids = running.map(({ service }) => service.pid);
      const before = pids.map((pid) => cpuMicroseconds(pid));
      const databaseBefore = treeCpuMicroseconds(postgres.child.pid);
      const { count, perSecond, p99 } = await closedLoad(load.ask, askers, SECONDS);
      const spent = pids.reduce((sum, pid, index) => sum + cpuMicroseconds(pid) - (before[index] ?? 0), 0);
      const one = found.get(setting) ?? { cpu: [], database: [], rate: [], p99: [], mb: [] };
      found.set(setting, one);
      one.cpu.push(spent / count);
      one.database.push((treeCpuMicroseconds(postgres.child.pid) - databaseBefore) / count);
      one.rate.push(perSecond);
      one.p99.push(p99);
      one.mb.push(Math.max(...pids.map(residentMb)));
      if (setting.instances === 3 && setting.isHalfWrong)
        moves.push(...(await movesUnderLoad(client, sites, load.ask, askers)));
      load.stop();
      for (const { service } of running) await service.stop();
    }
  }
  const [base = Number.NaN] = [...found.values()].map(({ cpu }) => median(cpu));
  const table = new Table({
    head: ["", "service CPU, µs a request", "÷ one", "database CPU, µs", "requests/s", "p99, ms", "most MB of one"],
  });
  for (const [{ name }, { cpu, database, rate, p99, mb }] of found)
    table.push([
      name,
      Math.round(median(cpu)),
      (median(cpu) / base).toFixed(2),
      Math.round(median(database)),
      Math.round(median(rate)),
      median(p99).toFixed(0),
      Math.round(median(mb)),
    ]);
  process.stdout.write(
    `${table.toString()}\nA site moves to another shard under load: ${median(moves).toFixed(0)} ms (median of ${moves.length}, most ${Math.max(...moves).toFixed(0)} ms)\n`,
  );
}

async function movesUnderLoad(
  client: Client,
  sites: readonly string[],
  ask: Parameters<typeof closedLoad>[0],
  askers: number,
): Promise<number[]> {
  const times: number[] = [];
  const load = closedLoad(ask, askers, 8).catch(() => null);
  for (let move = 0; move < MOVES; move += 1) {
    const startedAt = performance.now();
    await client.moveSite(sites[move % sites.length] ?? "", (move * 5 + 1) % SHARDS);
    times.push(performance.now() - startedAt);
    await pause(100);
  }
  await load;
  return times;
}

function say(line: string): void {
  process.stderr.write(`${new Date().toISOString().slice(11, 19)}  ${line}\n`);
}
