/** Waits for the database, however long it takes to come up, and brings it to this version's shape. */
import type { Log } from "../platform/log.ts";
import { databaseTrouble, isWorthWaitingFor } from "./database-trouble.ts";
import { migrate } from "./migrate.ts";
import type { Pool } from "./pool.ts";

const LONGEST_PAUSE_MS = 2_000;

/** @throws what cannot be cured by waiting: wrong password, a database of a newer version */
export async function prepareJournal(pool: Pool, log: Log): Promise<void> {
  for (let pauseMs = 100; ; pauseMs = Math.min(pauseMs * 2, LONGEST_PAUSE_MS)) {
    try {
      const ran = await migrate(pool);
      if (ran.length > 0) log.info({ migrations: ran }, "database brought up to date");
      return;
    } catch (error) {
      if (!isWorthWaitingFor(error)) throw error;
      log.warn({ err: error, pauseMs }, `waiting for the database: ${databaseTrouble(error)}`);
      await new Promise((resolve) => setTimeout(resolve, pauseMs));
    }
  }
}
