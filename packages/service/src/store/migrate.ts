/** Forward-only SQL migrations, in order, one starter at a time. */
import { readdir, readFile } from "node:fs/promises";
import { type Db, inTransaction, type Pool } from "./pool.ts";

const FOLDER = new URL("../../migrations/", import.meta.url);
/** Any fixed number: it only has to be the same for every starter. */
const ADVISORY_LOCK = 721_604_118;

/** In a transaction: whoever changes the shape of the database waits until nobody else does. */
export async function takeTurnAtShape(db: Db): Promise<void> {
  await db.query("select pg_advisory_xact_lock($1)", [ADVISORY_LOCK]);
}

/**
 * Brings the database to this version's shape.
 *
 * @returns the names of the migrations that ran
 * @throws Error when the database was made by a newer version
 */
export async function migrate(pool: Pool): Promise<string[]> {
  const files = (await readdir(FOLDER)).filter((name) => /^\d{4}_\w+\.sql$/.test(name)).sort();
  return inTransaction(pool, async (db) => {
    await takeTurnAtShape(db);
    await db.query(
      "create table if not exists migration (name text primary key, ran_at timestamptz not null default now())",
    );
    const { rows } = await db.query<{ name: string }>("select name from migration order by name");
    const done = new Set(rows.map((row) => row.name));
    const newer = [...done].filter((name) => !files.includes(name));
    if (newer.length > 0) {
      throw new Error(
        `The database was made by a newer version (it has ${newer.join(", ")}). Start that version instead.`,
      );
    }
    const due = files.filter((name) => !done.has(name));
    for (const name of due) {
      await db.query("insert into migration (name) values ($1)", [name]);
      await db.query(await readFile(new URL(name, FOLDER), "utf8"));
    }
    return due;
  });
}
