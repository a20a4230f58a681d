/** History by month: the months to come have their partitions before they begin, old ones are dropped whole. */
import { takeTurnAtShape } from "./migrate.ts";
import { type Db, inTransaction, type Pool } from "./pool.ts";

const PARENTS = ["request", "command", "state_change", "reply"] as const;
/** How many months ahead there are partitions. */
const AHEAD = 2;

/**
 * Makes the partitions of this month and the next ones.
 *
 * @param now ms since 1970
 */
export async function preparePartitions(pool: Pool, now: number): Promise<void> {
  const today = new Date(now);
  await inTransaction(pool, async (db) => {
    await takeTurnAtShape(db);
    for (let ahead = 0; ahead <= AHEAD; ahead += 1) {
      const from = new Date(Date.UTC(today.getUTCFullYear(), today.getUTCMonth() + ahead, 1));
      const to = new Date(Date.UTC(today.getUTCFullYear(), today.getUTCMonth() + ahead + 1, 1));
      for (const parent of PARENTS) await preparePartition(db, parent, from, to);
    }
  });
}

async function preparePartition(db: Db, parent: string, from: Date, to: Date): Promise<void> {
  // Names come from this file and from a date, never from input.
  const name = `${parent}_${from.toISOString().slice(0, 7).replace("-", "_")}`;
  const bound = (date: Date) => `uuid_at('${date.toISOString()}')`;
  const { rows } = await db.query<{ covered: boolean }>(
    `select exists (
       select from pg_inherits i join pg_class c on c.oid = i.inhrelid
       where i.inhparent = $1::regclass and pg_get_expr(c.relpartbound, c.oid) <> 'DEFAULT'
         and (regexp_match(pg_get_expr(c.relpartbound, c.oid), 'TO \\(''([0-9a-f-]+)''\\)'))[1]::uuid > ${bound(from)}
     ) as covered`,
    [parent],
  );
  if (rows[0]?.covered) return;
  const limits = await db.query<{ low: string; high: string }>(`select ${bound(from)} as low, ${bound(to)} as high`);
  const { low, high } = limits.rows[0] ?? { low: "", high: "" };
  await db.query(`create table if not exists ${name} partition of ${parent} for values from ('${low}') to ('${high}')`);
}

/**
 * Drops what lies wholly before a moment.
 *
 * @param before ms since 1970
 * @returns the names of what was dropped
 */
export async function dropHistory(pool: Pool, before: number): Promise<string[]> {
  const { rows } = await pool.query<{ name: string }>(
    `select c.relname as name from pg_inherits i join pg_class c on c.oid = i.inhrelid
     where i.inhparent = any($1::regclass[]) and pg_get_expr(c.relpartbound, c.oid) <> 'DEFAULT'
       and (regexp_match(pg_get_expr(c.relpartbound, c.oid), 'TO \\(''([0-9a-f-]+)''\\)'))[1]::uuid
         <= uuid_at(to_timestamp($2::float8 / 1000))`,
    [PARENTS, before],
  );
  // A channel's last known state must outlive its history: it is copied to where it will be found.
  for (const { name } of rows) {
    if (name.startsWith("state_change")) await keepLastStates(pool, name);
    await pool.query(`drop table "${name}"`);
  }
  return rows.map((row) => row.name);
}

/** Moves the newest change of every channel that has none later, with an id of today, out of a partition. */
async function keepLastStates(pool: Pool, partition: string): Promise<void> {
  await pool.query(
    `insert into state_change (id, channel_id, at, from_value, to_value, cause, command_id)
     select gen.id, last.channel_id, last.at, last.from_value, last.to_value, last.cause, last.command_id
     from (select distinct on (channel_id) * from "${partition}" order by channel_id, id desc) last
       cross join lateral (
         select overlay(gen_random_uuid()::text placing substr(uuid_at(now())::text, 1, 13) from 1)::uuid as id
         where last.channel_id is not null) gen
     where not exists (
       select from state_change later where later.channel_id = last.channel_id and later.id > last.id)`,
  );
}
