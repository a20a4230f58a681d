/**
 * `npm run bench:least`: what the parts of a request cost at least, each alone and bare, beside the service as it is, in one run on the
 * same servers. Who pays: the process of the part, the database, the broker and the device.
 */
import { type ChildProcess, fork } from "node:child_process";
import { once } from "node:events";
import { fileURLToPath } from "node:url";
import { parseArgs } from "node:util";
import Table from "cli-table3";
import { INLET, openServers, SECRET, type Stops, setUpSite, startMeasured, stopping } from "./bench-site.ts";
import { openFullPath } from "./full-path.ts";
import { HttpAsker } from "./http-asker.ts";
import { type Ask, closedLoad, openLoad } from "./load.ts";
import { cpuMicroseconds, treeCpuMicroseconds } from "./process-cost.ts";
import { openRawPath } from "./raw-path.ts";
import { rangeText } from "./report.ts";
import { startEcho } from "./start-echo.ts";

const { values } = parseArgs({ options: { seconds: { type: "string", default: "6" } } });
const SECONDS = Number(values.seconds);
const WARM_UP_SECONDS = 3;
const ASKERS = 256;
const LOW_RATE = 50;
const LOW_SECONDS = 6;
/** The machine is now quick, now slow: each is measured so often, in turn. */
const LOW_ROUNDS = 3;

/** CPU a request, µs. */
interface Cost {
  readonly process: number;
  readonly database: number;
  readonly broker: number;
}

const stops: Stops = [];
await stopping(stops, measure);

async function measure(): Promise<void> {
  const { folder, databaseUrl, brokerUrl, postgres, broker } = await openServers("least", stops);
  await startEcho(brokerUrl, SECRET, stops);
  const key = await setUpSite(databaseUrl, folder, ASKERS);

  const spent = (pid: number) => ({
    process: cpuMicroseconds(pid),
    database: treeCpuMicroseconds(postgres.child.pid),
    broker: cpuMicroseconds(broker.child.pid),
  });
  /** @param work is done for some seconds; returns how often it was */
  const costOf = async (pid: number, work: () => Promise<number>): Promise<Cost> => {
    const before = spent(pid);
    const count = await work();
    const after = spent(pid);
    const each = (part: keyof Cost) => (after[part] - before[part]) / count;
    return { process: each("process"), database: each("database"), broker: each("broker") };
  };
  const alone = async (part: string, where: string, work?: (port: number) => Promise<number>): Promise<Cost> => {
    process.stderr.write(`${part}\n`);
    const child = fork(fileURLToPath(new URL("./least-part.ts", import.meta.url)), [part, where, SECRET]);
    try {
      const [{ port }] = (await once(child, "message")) as [{ port: number }];
      if (work) return await costOf(child.pid ?? 0, () => work(port));
      await pause(WARM_UP_SECONDS);
      const from = await doneBy(child);
      return await costOf(child.pid ?? 0, async () => {
        await pause(SECONDS);
        return (await doneBy(child)) - from;
      });
    } finally {
      child.kill();
    }
  };

  const http = await alone("http", "", async (port) => {
    const askers = Array.from({ length: ASKERS }, () => new HttpAsker(new URL(`http://127.0.0.1:${port}/in/x`), []));
    const ask = async (worker: number) =>
      void (await askers[worker]?.call('{"target":"bench/taker-0/relay-0","action":"on"}', ""));
    const { count } = await closedLoad(ask, ASKERS, SECONDS);
    for (const one of askers) one.close();
    return count;
  });
  const messages = await alone("messages", brokerUrl);
  const rows = await alone("rows", databaseUrl);

  process.stderr.write("service\n");
  const { url, service } = await startMeasured(folder, databaseUrl, brokerUrl, SECRET);
  stops.push(() => service.stop());
  const full = openFullPath({ url, path: `/in/${INLET}`, key, connections: ASKERS });
  stops.push(() => full.stop());
  await closedLoad(full.ask("acknowledged"), ASKERS, WARM_UP_SECONDS);
  const ours = await costOf(
    service.pid,
    async () => (await closedLoad(full.ask("acknowledged"), ASKERS, SECONDS)).count,
  );

  process.stderr.write("answers\n");
  const bareServer = fork(fileURLToPath(new URL("./least-answer.ts", import.meta.url)), [
    databaseUrl,
    brokerUrl,
    SECRET,
  ]);
  stops.push(() => void bareServer.kill());
  const [{ port: barePort }] = (await once(bareServer, "message")) as [{ port: number }];
  const bare = openFullPath({ url: `http://127.0.0.1:${barePort}`, path: "/in/x", key: "", connections: ASKERS });
  stops.push(() => bare.stop());
  const raw = await openRawPath(brokerUrl, "bench", SECRET);
  stops.push(() => raw.stop());
  const answers = await answerTimes({
    "raw round trip": raw.ask,
    "202, the least": bare.ask("accepted"),
    "202, the service": full.ask("accepted"),
    "200, the least": bare.ask("acknowledged"),
    "200, the service": full.ask("acknowledged"),
  });

  const table = new Table({
    head: ["CPU a request, µs", "process", "database", "broker"],
    style: { head: [], border: [] },
  });
  const row = (name: string, cost: Cost) =>
    table.push([name, ...[cost.process, cost.database, cost.broker].map((one) => one.toFixed(0))]);
  row("HTTP: a call read and answered, JSON both ways", http);
  row("messages: one to a device, one back, both at QoS 1", messages);
  row("rows: three inserted, one deleted, groups of 64", rows);
  row("the parts together", sumOf([http, messages, rows]));
  row("the service, by HTTP", ours);
  process.stdout.write(`${table.toString()}\n`);
  const times = new Table({ head: [`at ${LOW_RATE} a second`, "p50, ms", "÷ raw"], style: { head: [], border: [] } });
  for (const [name, rounds] of Object.entries(answers)) {
    const ratios = rounds.map((ms, round) => ms / (answers["raw round trip"]?.[round] ?? Number.NaN));
    times.push([name, rangeText(rounds.map(rounded)), rangeText(ratios.map(rounded))]);
  }
  process.stdout.write(`${times.toString()}\n`);
}

/** The p50 of each in every round, ms; all take turns. */
async function answerTimes(asks: Readonly<Record<string, Ask>>): Promise<Record<string, number[]>> {
  const times: Record<string, number[]> = {};
  for (let round = 0; round < LOW_ROUNDS; round += 1) {
    for (const [name, ask] of Object.entries(asks)) {
      await openLoad(ask, LOW_RATE, 1, ASKERS);
      const { p50 } = await openLoad(ask, LOW_RATE, LOW_SECONDS, ASKERS);
      times[name] = [...(times[name] ?? []), p50];
    }
  }
  return times;
}

function rounded(value: number): number {
  return Number(value.toPrecision(3));
}

function sumOf(costs: readonly Cost[]): Cost {
  const sum = (part: keyof Cost) => costs.reduce((all, cost) => all + cost[part], 0);
  return { process: sum("process"), database: sum("database"), broker: sum("broker") };
}

async function doneBy(child: ChildProcess): Promise<number> {
  child.send("how many");
  const [{ done }] = (await once(child, "message")) as [{ done: number }];
  return done;
}

function pause(seconds: number): Promise<void> {
  return new Promise((resolve) => setTimeout(resolve, seconds * 1_000));
}
