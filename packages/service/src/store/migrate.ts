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
 * Brings the database to this version's shape, in one transaction: either all that is due has run, or nothing.
 *
 * @returns the names of the migrations that ran
 * @throws Error when the database was made by a newer version, or when a migration fails, with its name
 */
export async function migrate(pool: Pool): Promise<string[]> {
  return inTransaction(pool, async (db) => {
    await takeTurnAtShape(db);
    await db.query(
      "create table if not exists migration (name text primary key, ran_at timestamptz not null default now())",
    );
    const due = await dueOf(db);
    for (const name of due) {
      await db.query("insert into migration (name) values ($1)", [name]);
      await db.query(await readFile(new URL(name, FOLDER), "utf8")).catch((error: Error) => {
        error.message = `migration ${name}: ${error.message}`;
        throw error;
      });
    }
    return due;
  });
}

/**
 * What `migrate` would run.
 *
 * @throws Error when the database was made by a newer version
 */
export async function dueMigrations(pool: Pool): Promise<string[]> {
  const { rows } = await pool.query<{ there: boolean }>("select to_regclass('migration') is not null as there");
  return rows[0]?.there ? dueOf(pool) : migrationFiles();
}

/** The names of this version's migrations, in order. */
export async function migrationFiles(): Promise<string[]> {
  return (await readdir(FOLDER)).filter((name) => /^\d{4}_\w+\.sql$/.test(name)).sort();
}

async function dueOf(db: Db): Promise<string[]> {
  const files = await migrationFiles();
  const { rows } = await db.query<{ name: string }>("select name from migration order by name");
  const done = new Set(rows.map((row) => row.name));
  requireKnown([...done], files);
  return files.filter((name) => !done.has(name));
}

/** @throws Error when one of them is of a newer version */
export function requireKnown(done: readonly string[], files: readonly string[]): void {
  const newer = done.filter((name) => !files.includes(name));
  if (newer.length === 0) return;
  throw new Error(`The database was made by a newer version (it has ${newer.join(", ")}). Start that version instead.`);
}
