/** The verbs *claim*, *renew* and *release* of the leases on the lanes: one for each shard. The database's clock decides. */
import pg from "pg";
import type { Db, Pool } from "./pool.ts";

/** The lease of a shard, held. */
export interface HeldLease {
  /** The number of the shard, from 0. */
  readonly shard: number;
  /** The database is a restored backup, and nobody has led this shard on it so far: nothing that is open is sent. */
  readonly restored: boolean;
  /** Proves it to the journal. */
  readonly epoch: number;
  /** Resolves when another instance has taken over. */
  readonly lost: Promise<void>;
  /** Why it could not be renewed the last time; null when it was. An idle service learns by this that nothing can be written. */
  readonly trouble: string | null;
  /** Somebody was told by the journal that it is over. */
  end(): void;
  /** Asks the journal. @throws when it does not answer */
  isHeldStill(): Promise<boolean>;
  /** What is open in it goes on, or has ended. */
  taken(): Promise<void>;
  /** Lets the next instance take over at once. */
  release(): Promise<void>;
}

export interface Instance {
  /** Its name; no two that run beside each other have the same. */
  readonly name: string;
  /** Where other instances reach it: http://10.0.0.5:4180 */
  readonly address: string;
}

/** A shard, and which instance has its lease. */
export interface ShardLease {
  readonly shard: number;
  /** Who holds it; null while nobody does. */
  readonly leader: Instance | null;
  /** For how long nobody has held it, ms; 0: somebody does. */
  readonly freeMs: number;
  /** The instance that is to lead it, by somebody's choice; null: any. */
  readonly wanted: string | null;
}

/**
 * Takes the lease of a shard if nobody holds it. An instance that comes back under its own name need not wait for its old lease
 * to run out: it listens on its address already, so the process before it is gone.
 *
 * @returns the epoch that proves it, and whether the database was restored since anybody led; null when somebody else holds it
 */
export async function claimLease(
  db: Db,
  shard: number,
  { name, address }: Instance,
  leaseMs: number,
): Promise<{ epoch: number; restored: boolean } | null> {
  const { rows } = await db.query<{ epoch: number; restored: boolean }>(
    `update lease set epoch = epoch + 1, holder = $1, address = $2, since = now(), until = now() + $3 * interval '1 ms',
       wanted = case when wanted_until = 'infinity' then wanted end
     where shard = $4 and (until < now() or holder = $1)
       and (wanted is null or wanted = $1 or wanted_until < now() or wanted_until = 'infinity')
     returning epoch, restored`,
    [name, address, leaseMs, shard],
  );
  return rows[0] ?? null;
}

/** @returns whether it was still held. One that has run out but that nobody took is held on. */
export async function renewLease(db: Db, epoch: number, leaseMs: number): Promise<boolean> {
  const { rowCount } = await db.query("update lease set until = now() + $2 * interval '1 ms' where epoch = $1", [
    epoch,
    leaseMs,
  ]);
  return rowCount === 1;
}

export async function isHeldStill(db: Db, epoch: number): Promise<boolean> {
  const { rowCount } = await db.query("select from lease where epoch = $1", [epoch]);
  return rowCount === 1;
}

/** Lets the next one take it at once. */
export async function releaseLease(db: Db, epoch: number): Promise<void> {
  await db.query("update lease set until = '-infinity' where epoch = $1", [epoch]);
}

/** From now on another instance is to lead a shard: nobody else takes its lease for a moment, unless somebody has chosen otherwise for good. */
export async function wantLeader(db: Db, shard: number, name: string, forMs: number): Promise<void> {
  await db.query(
    "update lease set wanted = $1, wanted_until = now() + $2 * interval '1 ms' where shard = $3 and wanted_until is distinct from 'infinity'",
    [name, forMs, shard],
  );
}

/** Who is to lead a shard for as long as it can; null: whichever has room. */
export async function chooseLeader(db: Db, shard: number, name: string | null): Promise<void> {
  await db.query(
    "update lease set wanted = $1, wanted_until = case when $1::text is not null then 'infinity'::timestamptz end where shard = $2",
    [name, shard],
  );
}

/** Every shard, by number. */
export async function findShardLeases(db: Db): Promise<ShardLease[]> {
  const { rows } = await db.query<Omit<ShardLease, "leader"> & Instance & { isHeld: boolean }>(
    `select shard, holder as name, address, until > now() as "isHeld",
       case when wanted_until > now() then wanted end as wanted,
       case when until > now() then 0
         when until = '-infinity' then 1e9
         else extract(epoch from now() - until)::float8 * 1000 end as "freeMs"
     from lease order by shard`,
  );
  return rows.map(({ name, address, isHeld, ...lease }) => ({ ...lease, leader: isHeld ? { name, address } : null }));
}

/** An instance that leads just now; null where none runs. */
export async function findLeader(pool: Pool): Promise<Instance | null> {
  return (await findShardLeases(pool)).find(({ leader }) => leader !== null)?.leader ?? null;
}

/** For a transaction that only the leader may make. @throws what `isLeaseLost` tells, unless the lease is held */
export async function requireLease(db: Db, epoch: number): Promise<void> {
  await db.query("select hold_lease($1)", [epoch]);
}

/** An epoch names its shard by what it leaves divided by this. */
const SHARDS_AT_MOST = 1_024;

/** As `hold_leases` takes them. */
export function inLockOrder(epochs: readonly number[]): readonly number[] {
  return epochs.length < 2
    ? epochs
    : [...epochs].sort((one, other) => (one % SHARDS_AT_MOST) - (other % SHARDS_AT_MOST));
}

/** Whether this is the refusal of `hold_lease`: another instance took over. */
export function isLeaseLost(error: unknown): boolean {
  return error instanceof pg.DatabaseError && error.code === "BL001";
}
