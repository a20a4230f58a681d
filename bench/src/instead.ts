/**
 * `npm run bench:instead`: the service beside what one would write instead in an evening (alternative.ts), in one run on the same servers:
 * how fast, at what cost, and what is left of its requests when it is killed under load.
 */
import path from "node:path";
import { fileURLToPath } from "node:url";
import { parseArgs } from "node:util";
import { type Child, eventually, freePort, startChild } from "@bold-relay/rig";
import Table from "cli-table3";
import pg from "pg";
import { INLET, openServers, SECRET, type Stops, setUpSite, startMeasured, stopping } from "./bench-site.ts";
import { openFullPath } from "./full-path.ts";
import { type Ask, closedLoad, type LoadResult, openLoad } from "./load.ts";
import { cpuMicroseconds, residentMb, treeCpuMicroseconds } from "./process-cost.ts";
import { openRawPath } from "./raw-path.ts";
import { startEcho } from "./start-echo.ts";

const { values } = parseArgs({ options: { seconds: { type: "string", default: "6" } } });
const SECONDS = Number(values.seconds);
const ASKERS = 256;
const LOW_RATE = 50;
const ALTERNATIVE = fileURLToPath(new URL("./alternative.ts", import.meta.url));

interface Side {
  readonly full: LoadResult;
  readonly low: LoadResult;
  /** µs a request at full load. */
  readonly cpu: { readonly program: number; readonly database: number };
  readonly residentMb: number;
  /** Requests that were stored before it was killed, and have no outcome 15 s after it runs again. */
  readonly withoutOutcome: number;
}

const stops: Stops = [];
await stopping(stops, compare);

async function compare(): Promise<void> {
  const { folder, databaseUrl, brokerUrl, postgres } = await openServers("instead", stops);
  await startEcho(brokerUrl, SECRET, stops);
  const key = await setUpSite(databaseUrl, folder, ASKERS);
  const database = new pg.Pool({ connectionString: databaseUrl, max: 2 });
  stops.push(() => database.end());

  const raw = await openRawPath(brokerUrl, "bench", SECRET);
  stops.push(() => raw.stop());
  await closedLoad(raw.ask, ASKERS, 1);
  const rawRate = (await closedLoad(raw.ask, ASKERS, SECONDS / 2)).perSecond;

  const startOurs = () => startMeasured(folder, databaseUrl, brokerUrl, SECRET);
  const ours = await measure({
    start: startOurs,
    path: `/in/${INLET}`,
    key,
    open: "select count(*)::int as count from request r where outcome is null and not exists (select from command c where c.request_id = r.id)",
  });
  const startAlternative = () => startEvening(folder, databaseUrl, brokerUrl, key);
  const evening = await measure({
    start: startAlternative,
    path: "/switch",
    key,
    open: `select count(*)::int as count from evening_request r where not exists
      (select from evening_step s where s.request_id = r.id and s.step in ('acknowledged', 'failed', 'unanswered'))`,
  });
  print(rawRate, ours, evening);

  interface Measured {
    readonly start: () => Promise<{ url: string; service: Child }>;
    readonly path: string;
    readonly key: string;
    /** Counts requests that have no outcome. */
    readonly open: string;
  }

  async function measure({ start, path, key, open }: Measured): Promise<Side> {
    const { url, service } = await start();
    const callers = openFullPath({ url, path, key, connections: ASKERS });
    const ask = callers.ask("acknowledged");
    await closedLoad(ask, ASKERS, 3);
    const low = await openLoad(ask, LOW_RATE, 4, ASKERS);
    const before = [cpuMicroseconds(service.pid), treeCpuMicroseconds(postgres.child.pid)] as const;
    const full = await closedLoad(ask, ASKERS, SECONDS);
    const cpu = {
      program: (cpuMicroseconds(service.pid) - before[0]) / full.count,
      database: (treeCpuMicroseconds(postgres.child.pid) - before[1]) / full.count,
    };
    const memory = residentMb(service.pid);
    await killUnderLoad(service, ask);
    callers.stop();
    const again = await start();
    const count = async () => (await database.query<{ count: number }>(open)).rows[0]?.count ?? 0;
    await eventually(
      async () => (await count()) === 0,
      15_000,
      () => false,
    );
    const withoutOutcome = await count();
    await again.service.stop();
    return { full, low, cpu, residentMb: memory, withoutOutcome };
  }
}

/** Nobody is asked again: what they were promised is what counts. */
async function killUnderLoad(service: Child, ask: Ask): Promise<void> {
  const load = closedLoad(ask, ASKERS, 5).catch(() => {});
  await new Promise((resolve) => setTimeout(resolve, 1_500));
  service.kill("SIGKILL");
  await Promise.all([service.ended, load]);
}

async function startEvening(folder: string, databaseUrl: string, brokerUrl: string, key: string) {
  const port = String(await freePort());
  const url = `http://127.0.0.1:${port}`;
  const service = startChild({
    name: "the alternative",
    command: process.execPath,
    args: [ALTERNATIVE],
    logFile: path.join(folder, "alternative.log"),
    pidFile: path.join(folder, "alternative.pid"),
    env: {
      NODE_ENV: "production",
      DATABASE_URL: databaseUrl,
      BROKER_URL: brokerUrl,
      BROKER_USER: "bench",
      BROKER_PASSWORD: SECRET,
      PORT: port,
      KEY: key,
    },
  });
  const ready = async () => (await fetch(`${url}/none`).catch(() => null)) !== null;
  if (await eventually(ready, 20_000, service.hasEnded)) return { url, service };
  throw new Error("The alternative did not start.");
}

function print(rawRate: number, ours: Side, evening: Side): void {
  const table = new Table({
    head: ["acknowledged by the device, by HTTP", "this service", "alternative", "this ÷ alternative"],
    style: { head: [], border: [] },
    colAligns: ["left", "right", "right", "right"],
  });
  const row = (name: string, of: (side: Side) => number, digits = 1) =>
    table.push([name, of(ours).toFixed(digits), of(evening).toFixed(digits), (of(ours) / of(evening)).toFixed(2)]);
  row("requests/s ÷ raw round trips/s, 256 callers", ({ full }) => full.perSecond / rawRate, 3);
  row("the same: p50, ms", ({ full }) => full.p50);
  row("the same: p99, ms", ({ full }) => full.p99);
  row("50 requests/s: p50, ms", ({ low }) => low.p50, 2);
  row("the same: p99, ms", ({ low }) => low.p99, 2);
  row("CPU of the program a request, µs", ({ cpu }) => cpu.program, 0);
  row("CPU of the database a request, µs", ({ cpu }) => cpu.database, 0);
  row("resident, MB", (side) => side.residentMb, 0);
  table.push([
    "stored requests without outcome 15 s after it was killed",
    String(ours.withoutOutcome),
    String(evening.withoutOutcome),
    "",
  ]);
  process.stdout.write(`${table.toString()}\n`);
}
