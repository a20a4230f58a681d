/** The verbs *beat*, *find* and *leave* of the instances that run beside each other. The database's clock decides who is seen. */
import type { Db, Pool } from "./pool.ts";

/** What an instance tells of itself. */
export interface InstanceBeat {
  readonly name: string;
  /** Of the process. */
  readonly run: string;
  /** Where other instances reach it. */
  readonly address: string;
  readonly version: string;
  readonly build: string | null;
  /** ms since 1970, by its own clock. */
  readonly startedAt: number;
  /** How far its clock is ahead of the database's, ms. */
  readonly aheadMs: number;
  readonly residentMb: number;
  /** Share of one core since the beat before. */
  readonly cpu: number;
  /** Whether it reaches the broker; null: it does not look. */
  readonly brokerReached: boolean | null;
  /** Tells its secrets key from another's; null: it has none. */
  readonly secretsMark: string | null;
}

export interface InstanceRecord extends InstanceBeat {
  /** Whether it can lead one shard of several: a version without shards cannot. */
  readonly knowsShards: boolean;
  /** How long ago it was seen, ms. */
  readonly seenMs: number;
}

export interface LeaseRecord {
  /** The number of the shard, from 0. */
  readonly shard: number;
  /** The instance that holds it; null: it has run out, and nobody took it. */
  readonly leader: string | null;
  /** ms since 1970. */
  readonly since: number;
  /** The instance that somebody chose to lead it; null: any. */
  readonly chosen: string | null;
  /** The slugs of its sites. */
  readonly sites: readonly string[];
}

/** Of one that died the row is kept for so long, to be seen. */
const KEPT = "1 day";

/** Writes the row of an instance, and forgets those that died long ago. */
export async function saveBeat(db: Db, beat: InstanceBeat): Promise<void> {
  const { name, run, address, version, build, startedAt, aheadMs, residentMb, cpu, brokerReached, secretsMark } = beat;
  await db.query(
    `with old as (delete from instance where seen_at < now() - interval '${KEPT}')
     insert into instance (name, run, address, version, build, started_at, seen_at, ahead_ms, resident_mb, cpu, broker_reached,
       secrets_mark, knows_shards)
     values ($1, $2, $3, $4, $5, to_timestamp($6::float8 / 1000), now(), $7, $8, $9, $10, $11, true)
     on conflict (name) do update set run = excluded.run, address = excluded.address, version = excluded.version,
       build = excluded.build, started_at = excluded.started_at, seen_at = excluded.seen_at,
       ahead_ms = excluded.ahead_ms, resident_mb = excluded.resident_mb, cpu = excluded.cpu, broker_reached = excluded.broker_reached,
       secrets_mark = excluded.secrets_mark, knows_shards = true`,
    [name, run, address, version, build, startedAt, aheadMs, residentMb, cpu, brokerReached, secretsMark],
  );
}

/** It stops in order: nobody needs to look for it. */
export async function forgetInstance(db: Db, name: string, run: string): Promise<void> {
  await db.query("delete from instance where name = $1 and run = $2", [name, run]);
}

/** By name. */
export async function findInstances(pool: Pool): Promise<InstanceRecord[]> {
  const { rows } = await pool.query<InstanceRecord>(
    `select name, run, address, version, build, extract(epoch from started_at)::float8 * 1000 as "startedAt",
       ahead_ms as "aheadMs", resident_mb as "residentMb", cpu, broker_reached as "brokerReached",
       secrets_mark as "secretsMark", knows_shards as "knowsShards",
       greatest(0, extract(epoch from now() - seen_at)::float8 * 1000) as "seenMs"
     from instance order by name`,
  );
  return rows;
}

export async function findLeases(pool: Pool): Promise<LeaseRecord[]> {
  const { rows } = await pool.query<LeaseRecord>(
    `select shard, case when until > now() then holder end as leader, extract(epoch from since)::float8 * 1000 as since,
       case when wanted_until = 'infinity' then wanted end as chosen,
       array(select slug from site where site.shard = lease.shard and removed_at is null order by slug) as sites
     from lease order by shard`,
  );
  return rows;
}

/** The database's clock, ms since 1970. */
export async function databaseNow(pool: Pool): Promise<number> {
  const { rows } = await pool.query<{ now: number }>(
    "select extract(epoch from clock_timestamp())::float8 * 1000 as now",
  );
  return rows[0]?.now ?? Number.NaN;
}
