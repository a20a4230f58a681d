/** The connection pools, and transactions on them. */
import pg from "pg";
import { isRowsFault } from "./database-trouble.ts";
import { MarkedPool } from "./marked-pool.ts";

export type Pool = pg.Pool;
export type PoolClient = pg.PoolClient;
export type Db = pg.Pool | pg.PoolClient;

// seq is a bigint in the journal and stays far below 2^53.
pg.types.setTypeParser(pg.types.builtins.INT8, Number);

/**
 * What screens ask for are some rows of an index, whose pages are in memory as a rule. Neither compiling a statement nor further
 * processes for it are worth their start. The defaults are for slow disks: with them the planner reads whole tables instead.
 */
const READER_OPTIONS = "-c random_page_cost=1.1 -c jit=off -c max_parallel_workers_per_gather=0";

/** @param max connections at once */
export function createPool(databaseUrl: string, onIdleError: (error: Error) => void, max = 10): Pool {
  return open(databaseUrl, onIdleError, { max, options: READER_OPTIONS });
}

/** Planned once: with a new plan each time planning is what a small group of rows costs most. */
const WRITER_OPTIONS = "-c enable_seqscan=off -c plan_cache_mode=force_generic_plan -c jit=off";

/**
 * Connections for the journal's writers alone: no reader can take them. Each statement there looks rows up by their keys. Left to
 * itself the planner would read `open_command` from end to end, for that is nearly empty when it looks, and go on doing so when
 * it is full of rows that have just died.
 *
 * @param writers how many there are
 */
export function createWriterPool(databaseUrl: string, writers: number, onIdleError: (error: Error) => void): Pool {
  return open(databaseUrl, onIdleError, { max: writers, idleTimeoutMillis: 0, options: WRITER_OPTIONS });
}

function open(databaseUrl: string, onIdleError: (error: Error) => void, settings: pg.PoolConfig): Pool {
  const pool = new MarkedPool({
    connectionString: databaseUrl,
    ...settings,
    connectionTimeoutMillis: 3_000,
    statement_timeout: 10_000,
    query_timeout: 12_000,
    idle_in_transaction_session_timeout: 15_000,
    application_name: "bold-relay",
    keepAlive: true,
  });
  pool.on("error", onIdleError);
  return pool;
}

/** Runs a piece of work in one transaction. */
export async function inTransaction<Result>(pool: Pool, work: (db: pg.PoolClient) => Promise<Result>): Promise<Result> {
  const client = await pool.connect();
  let broken: Error | undefined;
  // The connection may break between two statements, when nobody waits for it: the next statement fails then.
  const onBroken = (error: Error) => {
    broken = error;
  };
  client.on("error", onBroken);
  try {
    await client.query("begin");
    const result = await work(client);
    await client.query("commit");
    return result;
  } catch (error) {
    await client.query("rollback").catch((cause: Error) => {
      broken = cause;
    });
    // A session keeps what it was told at its start, to be read-only say: the next try begins with a new one.
    if (error instanceof pg.DatabaseError && !isRowsFault(error)) broken ??= error;
    throw error;
  } finally {
    client.off("error", onBroken);
    client.release(broken);
  }
}
