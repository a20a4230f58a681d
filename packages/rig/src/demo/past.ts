/** The demo's past: a fortnight of made-up requests, so that the journal and the statistics have something to tell. */
import { readFileSync } from "node:fs";
import pg from "pg";
import { PAST_FILE } from "./world.ts";

/** Once, on a journal that is empty, before the service starts. */
export async function addPast(databaseUrl: string): Promise<void> {
  const db = new pg.Client(databaseUrl);
  await db.connect();
  try {
    await db.query(`begin; ${readFileSync(PAST_FILE, "utf8")}; commit`);
  } finally {
    await db.end();
  }
}
