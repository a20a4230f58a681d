/** `npm run bench:journal -- --millions 10`: every list and search that a screen shows, on a journal of that size. */
import { parseArgs } from "node:util";
import type { StatisticsView } from "@bold-relay/api";
import Table from "cli-table3";
import pg from "pg";
import { addSite, openServers, SECRET, type Stops, setUpMember, setUpSite, startMeasured } from "./bench-site.ts";

const { values } = parseArgs({ options: { millions: { type: "string", default: "10" } } });
const ROWS = Math.round(Number(values.millions) * 1_000_000);
const BATCH = 250_000;
const CHANNELS = 256;
const RUNS = 9;
const COUNT_WITHIN_MS = 3_600_000;

/** Of premises where hardly anything happens: one in this many requests is theirs. */
const QUIET = 50_000;

/** One in 50 is refused, one in 60 stopped, one in 12 replaced. */
const FILL = `
with made as (
  select i, now() - (($3::float8 - i) / $3) ^ 1.5 * interval '365 days' as asked_at
  from generate_series($1::bigint, $2::bigint) i
), asked as (
  insert into request (id, asked_at, inlet, asker, target, action, outcome, site, refusal)
  select (substr(uuid_at(asked_at)::text, 1, 14) || '7' || substr(gen_random_uuid()::text, 16))::uuid, asked_at, 'hall-tablet',
    'Guest ' || (i * 7919) % 500, 'relay ' || i % $4::int, 'on',
    case when i % 50 = 0 then 'refused' end, case when i % 100000 = 0 then 'quiet' when i % 50 = 0 then 'bench' end,
    case when i % 50 = 0 then '{"code":"locked-out","facts":{"holder":"Ines","target":"x","because":""}}'::jsonb end
  from made
  returning id, asked_at, outcome
)
insert into command (id, request_id, channel_id, seq, to_value, target_stage, stage, ended, reason, attempts, asked_at, hops)
select gen_random_uuid(), id, case when n % $5::int = 0 then (select max(id) from channel) else 1 + (n * 31) % $4::int end, n, case when n % 2 = 0 then 'on' else 'off' end, 'confirmed', 'confirmed',
  case when n % 60 = 0 then 'unanswered' when n % 12 = 0 then 'replaced' else 'delivered' end,
  case when n % 60 = 0 then 'no-acknowledgement' when n % 12 = 0 then 'replaced-before-sending' end, 1, asked_at,
  '[{"at":1800000000000,"kind":"accepted"},{"at":1800000000002,"kind":"sent","attempt":1},{"at":1800000000004,"kind":"published","attempt":1,"code":0},{"at":1800000000012,"kind":"acknowledged","code":1},{"at":1800000000013,"kind":"confirmed"},{"at":1800000000013,"kind":"ended"}]'
from (select *, row_number() over () + $1::bigint as n from asked where outcome is null) kept`;

const stops: Stops = [];
try {
  await measure();
} finally {
  for (const stop of stops.reverse()) await stop();
}

async function measure(): Promise<void> {
  const { folder, databaseUrl, brokerUrl } = await openServers("journal", stops, false);
  await setUpSite(databaseUrl, folder, CHANNELS);
  await addSite(databaseUrl, folder, "quiet", 16);
  const key = await setUpMember(databaseUrl);
  await fill(databaseUrl);

  const startedAt = performance.now();
  const { url, service } = await startMeasured(folder, databaseUrl, brokerUrl, SECRET);
  stops.push(() => service.stop());
  say(`The service was ready after ${Math.round(performance.now() - startedAt)} ms`);

  await counted(url, key);
  say(`A year of figures was counted after ${Math.round((performance.now() - startedAt) / 1000)} s`);

  const table = new Table({ head: ["over HTTP", "median ms", "slowest ms"], style: { head: [], border: [] } });
  for (const [name, address] of Object.entries(await addresses(url, key))) {
    const times: number[] = [];
    for (let run = 0; run < RUNS; run += 1) times.push(await timed(`${url}/api/v1${address}`, key));
    times.sort((one, other) => one - other);
    table.push([name, (times[(RUNS - 1) / 2] ?? 0).toFixed(1), (times.at(-1) ?? 0).toFixed(1)]);
  }
  process.stdout.write(`${ROWS.toLocaleString("en")} requests, as many commands\n${table.toString()}\n`);
}

/** What screens ask for, and one page far back in each list. */
async function addresses(url: string, key: string): Promise<Record<string, string>> {
  const channel = "bench/board-3/relay-7";
  const old = await firstId(`${url}/api/v1/requests?limit=1&before=${await idAt(0.5)}`, key);
  return {
    "newest 50": "/requests",
    "50 from the middle of all": `/requests?before=${old}`,
    "of one channel": `/requests?channel=${channel}`,
    "of one channel, stopped": `/requests?channel=${channel}&result=not-delivered`,
    "of premises of 512 channels": "/requests?site=bench",
    "of those, stopped": "/requests?site=bench&result=not-delivered",
    "of quiet premises": "/requests?site=quiet",
    "of those, refused": "/requests?site=quiet&result=refused",
    "of one person": "/requests?asker=Guest%2017",
    "of a person who never asked": "/requests?asker=Nobody",
    stopped: "/requests?result=not-delivered",
    "stopped, before the middle": `/requests?result=not-delivered&before=${old}`,
    replaced: "/requests?result=replaced",
    refused: "/requests?result=refused",
    open: "/requests?result=open",
    "words in a day, found": "/requests?words=guest%2017",
    "words in a day, not there": "/requests?words=zzzz",
    "one trace": `/requests/${old}/trace`,
    "24 hours of a channel": `/channels/${channel}/day`,
    status: "/status",
    "figures of a week": "/statistics",
    "figures of 90 days": "/statistics?days=90",
  };
}

/** In the background, while the service does its work. */
async function counted(url: string, key: string): Promise<void> {
  const isCounted = async () => {
    const response = await fetch(`${url}/api/v1/statistics?days=366`, { headers: { authorization: `Bearer ${key}` } });
    return response.ok && ((await response.json()) as StatisticsView).uncountedDays === 0;
  };
  const giveUpAt = performance.now() + COUNT_WITHIN_MS;
  while (!(await isCounted())) {
    if (performance.now() > giveUpAt) throw new Error("The figures are not counted.");
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

/** A year of requests, the more recent the denser: made without the indexes, which come afterwards. */
async function fill(databaseUrl: string): Promise<void> {
  const db = new pg.Client(databaseUrl);
  await db.connect();
  stops.push(() => db.end().catch(() => {}));
  const { rows: indexes } = await db.query<{ name: string; definition: string }>(
    `select c.relname as name, pg_get_indexdef(i.indexrelid) as definition
     from pg_index i join pg_class c on c.oid = i.indexrelid
     where i.indrelid in ('request'::regclass, 'command'::regclass) and not i.indisprimary`,
  );
  for (const { name } of indexes) await db.query(`drop index ${name}`);
  for (let from = 0; from < ROWS; from += BATCH) {
    await db.query(FILL, [from, Math.min(from + BATCH, ROWS) - 1, ROWS, CHANNELS, QUIET]);
    say(`${(Math.min(from + BATCH, ROWS) / 1_000_000).toFixed(2)} M`);
  }
  say("Indexes");
  // Of a partitioned table the definition speaks of the parent only; here every partition shall have it.
  for (const { definition } of indexes) await db.query(definition.replace(" ON ONLY ", " ON "));
  // What the service keeps of each hour's words as requests come.
  await db.query(
    `insert into asked_words (hour, part, words) select distinct date_trunc('hour', asked_at, 'UTC'), said.part, said.words
     from request, lateral (values ('asker', asker), ('inlet', inlet), ('target', target)) as said (part, words)
     where asked_at > now() - interval '2 days'`,
  );
  await db.query("vacuum analyze");
}

function say(line: string): void {
  process.stderr.write(`${line}\n`);
}
