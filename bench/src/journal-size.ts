/**
 * `npm run bench:journal -- --millions 10`: every list and search that a screen shows, on a journal of that size, over HTTP and in the
 * database. With `--folder DIR` the journal is kept there, and used again; `--plans FILE` writes how the database found each.
 */
import { existsSync, readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import { parseArgs } from "node:util";
import Table from "cli-table3";
import pg from "pg";
import {
  addSite,
  openServers,
  SECRET,
  type Stops,
  setUpMember,
  setUpSite,
  startMeasured,
  stopping,
} from "./bench-site.ts";
import { fillJournal } from "./journal-fill.ts";
import { QueryLog } from "./query-log.ts";

const { values } = parseArgs({
  options: {
    millions: { type: "string", default: "10" },
    folder: { type: "string" },
    plans: { type: "string" },
  },
});
const ROWS = Math.round(Number(values.millions) * 1_000_000);
const CHANNELS = 256;
const RUNS = 25;
const COUNT_WITHIN_MS = 3_600_000;

const stops: Stops = [];
await stopping(stops, measure);

async function measure(): Promise<void> {
  const kept = values.folder === undefined ? undefined : path.resolve(values.folder);
  const { folder, databaseUrl, brokerUrl } = await openServers("journal", stops, { fsync: false, kept });
  // A key is told once only: it is what is left of a journal that is ready to be used again.
  const keyFile = path.join(folder, "key");
  if (!existsSync(keyFile)) {
    await setUpSite(databaseUrl, folder, CHANNELS);
    await addSite(databaseUrl, folder, "quiet", 16);
    await fillJournal(databaseUrl, { rows: ROWS, channels: CHANNELS, say });
    writeFileSync(keyFile, await setUpMember(databaseUrl), { mode: 0o600 });
  }
  const key = readFileSync(keyFile, "utf8");

  const db = new pg.Client(databaseUrl);
  await db.connect();
  stops.push(() => db.end().catch(() => {}));

  const startedAt = performance.now();
  const first = await startMeasured(folder, databaseUrl, brokerUrl, SECRET);
  stops.push(() => first.service.stop());
  say(`The service was ready after ${Math.round(performance.now() - startedAt)} ms`);
  await counted(db);
  say(`90 days of statistics were counted after ${Math.round((performance.now() - startedAt) / 1000)} s`);

  const calls = await addresses(first.url, key);
  const overHttp = new Map<string, number[]>();
  for (const [name, address] of Object.entries(calls)) {
    const times: number[] = [];
    for (let run = 0; run < RUNS; run += 1) times.push(await timed(`${first.url}/api/v1${address}`, key));
    overHttp.set(name, times);
  }
  await first.service.stop();

  // Apart: telling of each plan costs the database time.
  const log = new QueryLog(path.join(folder, "database/postgres.log"));
  await log.open(db);
  const second = await startMeasured(folder, databaseUrl, brokerUrl, SECRET);
  stops.push(() => second.service.stop());
  const plans: string[] = [];
  const table = new Table({
    head: ["", "over HTTP, ms", "slowest", "in the database, ms", "queries"],
    style: { head: [], border: [] },
  });
  for (const [name, address] of Object.entries(calls)) {
    const runs = [];
    for (let run = 0; run < RUNS; run += 1)
      runs.push(
        await log.during(() => timed(`${second.url}/api/v1${address}`, key), address.startsWith("/statistics")),
      );
    const databaseMs = median(runs.map(({ ms }) => ms));
    const times = overHttp.get(name) ?? [];
    const { queries = 0, text = "" } = runs.at(-1) ?? {};
    table.push([name, median(times).toFixed(1), Math.max(...times).toFixed(1), databaseMs.toFixed(1), queries]);
    plans.push(`## ${name}\n\n\`GET ${address}\`\n\n\`\`\`\n${text.trimEnd()}\n\`\`\`\n`);
  }
  process.stdout.write(`${ROWS.toLocaleString("en")} requests, as many commands\n${table.toString()}\n`);
  if (values.plans) writeFileSync(values.plans, plans.join("\n"));
}

function median(times: readonly number[]): number {
  return [...times].sort((one, other) => one - other)[Math.floor(times.length / 2)] ?? Number.NaN;
}

/** What screens ask for, and one page far back in each list. */
async function addresses(url: string, key: string): Promise<Record<string, string>> {
  const channel = "bench/board-3/relay-7";
  const old = await firstId(`${url}/api/v1/requests?limit=1&before=${await idAt(0.5)}`, key);
  return {
    "newest 50": "/requests",
    "50 from the middle of all": `/requests?before=${old}`,
    "of one channel": `/requests?channel=${channel}`,
    "of one channel, not delivered": `/requests?channel=${channel}&result=not-delivered`,
    "of a site of 512 channels": "/requests?site=bench",
    "of those, not delivered": "/requests?site=bench&result=not-delivered",
    "of a quiet site": "/requests?site=quiet",
    "of those, refused": "/requests?site=quiet&result=refused",
    "of one person": "/requests?asker=Guest%2017",
    "of a person who never asked": "/requests?asker=Nobody",
    "not delivered": "/requests?result=not-delivered",
    "not delivered, before the middle": `/requests?result=not-delivered&before=${old}`,
    replaced: "/requests?result=replaced",
    refused: "/requests?result=refused",
    open: "/requests?result=open",
    "words in a day, found": "/requests?words=guest%2017",
    "words in a day, not there": "/requests?words=zzzz",
    "one trace": `/requests/${old}/trace`,
    "24 hours of a channel": `/channels/${channel}/history`,
    status: "/status",
    "statistics of a week": "/statistics",
    "statistics of 90 days": "/statistics?days=90",
    "the same, all counted before": `/statistics?from=${dateAt(91)}&to=${dateAt(1)}`,
  };
}

/** @example dateAt(1) // → "2026-11-27", yesterday */
function dateAt(daysAgo: number): string {
  return new Date(Date.now() - daysAgo * 86_400_000).toISOString().slice(0, 10);
}

/** In the background, while the service does its work: as far back as screens ask for. Asked of the database, for asking the service is work. */
async function counted(db: pg.Client): Promise<void> {
  const isCounted = async () => {
    const { rows } = await db.query<{ counted: boolean }>(
      `select sum(to_at - from_at) > interval '90 days' and max(to_at) > now() - interval '76 minutes' as counted
       from statistic_span where from_at > now() - interval '92 days'`,
    );
    return rows[0]?.counted === true;
  };
  const giveUpAt = performance.now() + COUNT_WITHIN_MS;
  while (!(await isCounted())) {
    if (performance.now() > giveUpAt) throw new Error("The statistics are not counted.");
    await new Promise((resolve) => setTimeout(resolve, 2_000));
  }
}

async function timed(address: string, key: string): Promise<number> {
  const startedAt = performance.now();
  const response = await fetch(address, { headers: { authorization: `Bearer ${key}` } });
  await response.arrayBuffer();
  if (!response.ok) throw new Error(`${address} answered ${response.status}`);
  return performance.now() - startedAt;
}

async function firstId(address: string, key: string): Promise<string> {
  const response = await fetch(address, { headers: { authorization: `Bearer ${key}` } });
  const { requests } = (await response.json()) as { requests: { id: string }[] };
  return requests[0]?.id ?? "";
}

/** The smallest id of a moment, as a share of the year that is filled. */
async function idAt(share: number): Promise<string> {
  const ms = Date.now() - (1 - share) * 365 * 86_400_000;
  const hex = Math.floor(ms).toString(16).padStart(12, "0");
  return `${hex.slice(0, 8)}-${hex.slice(8)}-0000-0000-000000000000`;
}

function say(line: string): void {
  process.stderr.write(`${line}\n`);
}
