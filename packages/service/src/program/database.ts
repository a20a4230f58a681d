/** The database, for a verb that needs it once. */
import { databaseTrouble, isDatabaseError } from "../store/database-trouble.ts";
import { createPool, type Pool } from "../store/pool.ts";

/**
 * Does a piece of work on a pool of its own.
 *
 * @throws Error with what is wrong with the database and what to do
 */
export async function withDatabase<Result>(
  databaseUrl: string,
  work: (pool: Pool) => Promise<Result>,
): Promise<Result> {
  const pool = createPool(databaseUrl, () => {}, 2);
  try {
    return await work(pool);
  } catch (error) {
    if (!isDatabaseError(error)) throw error;
    throw new Error(`${databaseName(databaseUrl)}: ${databaseTrouble(error)}`, { cause: error });
  } finally {
    await pool.end();
  }
}

/** A database's address without its password. @example "127.0.0.1:5432/bold_relay" */
export function databaseName(databaseUrl: string): string {
  const { hostname, port, pathname, searchParams } = new URL(databaseUrl);
  return `${hostname || searchParams.get("host") || "local socket"}${port ? `:${port}` : ""}${pathname}`;
}
