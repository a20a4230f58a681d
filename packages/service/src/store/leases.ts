/** The verbs *claim*, *renew* and *release* of the lease on the lanes. The database's clock decides. */
import pg from "pg";
import type { Db, Pool } from "./pool.ts";

/** The lease, held. */
export interface HeldLease {
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
  /** Lets the next instance take over at once. */
  release(): Promise<void>;
}

export interface Instance {
  /** Its name; no two that run beside each other have the same. */
  readonly name: string;
  /** Where other instances reach it: http://10.0.0.5:4180 */
  readonly address: string;
}

/**
 * Takes the lease if nobody holds it. An instance that comes back under its own name need not wait for its old lease
 * to run out: it listens on its address already, so the process before it is gone.
 *
 * @returns the epoch that proves it; null when somebody else holds it
 */
export async function claimLease(db: Db, { name, address }: Instance, leaseMs: number): Promise<number | null> {
  const { rows } = await db.query<{ epoch: number }>(
    `update lease set epoch = epoch + 1, holder = $1, address = $2, since = now(), until = now() + $3 * interval '1 ms', wanted = null
     where name = 'lanes' and (until < now() or holder = $1) and (wanted is null or wanted = $1 or wanted_until < now())
     returning epoch`,
    [name, address, leaseMs],
  );
  return rows[0]?.epoch ?? null;
}

/** @returns whether it was still held. One that has run out but that nobody took is held on. */
export async function renewLease(db: Db, epoch: number, leaseMs: number): Promise<boolean> {
  const { rowCount } = await db.query(
    "update lease set until = now() + $2 * interval '1 ms' where name = 'lanes' and epoch = $1",
    [epoch, leaseMs],
  );
  return rowCount === 1;
}

export async function isHeldStill(db: Db, epoch: number): Promise<boolean> {
  const { rowCount } = await db.query("select from lease where name = 'lanes' and epoch = $1", [epoch]);
  return rowCount === 1;
}

/** Lets the next one take it at once. */
export async function releaseLease(db: Db, epoch: number): Promise<void> {
  await db.query("update lease set until = '-infinity' where name = 'lanes' and epoch = $1", [epoch]);
}

/** From now on another instance is to lead. For a moment nobody else takes the lease when it is free. */
export async function wantLeader(db: Db, name: string, forMs: number): Promise<void> {
  await db.query("update lease set wanted = $1, wanted_until = now() + $2 * interval '1 ms' where name = 'lanes'", [
    name,
    forMs,
  ]);
}

/** Who holds the lanes just now; null while nobody does. */
export async function findLeader(pool: Pool): Promise<Instance | null> {
  const { rows } = await pool.query<Instance>(
    "select holder as name, address from lease where name = 'lanes' and until > now()",
  );
  return rows[0] ?? null;
}

/** For a transaction that only the leader may make. @throws what `isLeaseLost` tells, unless the lease is held */
export async function requireLease(db: Db, epoch: number): Promise<void> {
  await db.query("select hold_lease($1)", [epoch]);
}

/** Whether this is the refusal of `hold_lease`: another instance took over. */
export function isLeaseLost(error: unknown): boolean {
  return error instanceof pg.DatabaseError && error.code === "BL001";
}
