/** A year of requests in a journal, the more recent the denser. */
import pg from "pg";

export interface JournalFill {
  /** Requests, and as many commands. */
  readonly rows: number;
  readonly channels: number;
  readonly say: (line: string) => void;
}

const BATCH = 250_000;

/** Of a site where hardly anything happens: one in this many requests is theirs. */
const QUIET = 50_000;

/** One in 50 is refused, one in 60 not delivered, one in 12 replaced. */
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

/** Made without the indexes, which come afterwards. */
export async function fillJournal(databaseUrl: string, { rows, channels, say }: JournalFill): Promise<void> {
  const db = new pg.Client(databaseUrl);
  await db.connect();
  try {
    const { rows: indexes } = await db.query<{ name: string; definition: string }>(
      `select c.relname as name, pg_get_indexdef(i.indexrelid) as definition
       from pg_index i join pg_class c on c.oid = i.indexrelid
       where i.indrelid in ('request'::regclass, 'command'::regclass) and not i.indisprimary`,
    );
    for (const { name } of indexes) await db.query(`drop index ${name}`);
    for (let from = 0; from < rows; from += BATCH) {
      const until = Math.min(from + BATCH, rows);
      await db.query(FILL, [from, until - 1, rows, channels, QUIET]);
      say(`${(until / 1_000_000).toFixed(2)} M`);
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
  } finally {
    await db.end();
  }
}
