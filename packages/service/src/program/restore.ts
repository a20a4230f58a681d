/** `restore`: the database as a backup has it. All of it, or nothing is changed. */
import { existsSync } from "node:fs";
import { findLeader } from "../store/leases.ts";
import { migrate, migrationFiles, requireKnown } from "../store/migrate.ts";
import type { Pool } from "../store/pool.ts";
import { noteRestored } from "../store/restored.ts";
import { withDatabase } from "./database.ts";
import { restoreInOneTransaction, runTool } from "./postgres-tool.ts";

/** Object by object would not do: a partition's key cannot be dropped by itself. */
const EMPTY_SCHEMA = "drop schema public cascade; create schema public;\n";

/** In the same transaction: a restored database without it would send what was open in it. */
const NOTE_RESTORED = `
do $$ begin
  if exists (select from information_schema.columns
    where table_schema = 'public' and table_name = 'installation' and column_name = 'restored_at') then
    update public.installation set restored_at = now();
  end if;
end $$;
`;

export interface RestoreOptions {
  /** What the database holds now is deleted. */
  readonly replace?: boolean;
}

/**
 * Restores a backup, brings it to this version's shape, and notes that it was restored: at the next start open commands end
 * without being sent, and overdue timers do not fire.
 *
 * @returns lines for people
 * @throws Error when an instance runs, when the database is not empty and may not be replaced, or when the file is not a backup
 *   that this version can read; nothing is changed then
 */
export async function restore(
  databaseUrl: string,
  file: string,
  { replace = false }: RestoreOptions,
): Promise<string[]> {
  if (!existsSync(file)) throw new Error(`${file} does not exist.`);
  requireKnown(await migrationsIn(databaseUrl, file), await migrationFiles());
  return withDatabase(databaseUrl, async (pool) => {
    if (await isOurs(pool)) await requireNobodyRuns(pool);
    // Whoever's tables they are: an address that was typed wrongly must not empty another program's database.
    if (!replace && (await hasTables(pool)))
      throw new Error("The database is not empty. To delete what it holds, add --replace.");
    await restoreInOneTransaction(databaseUrl, { first: EMPTY_SCHEMA, file, last: NOTE_RESTORED });
    const ran = await migrate(pool);
    // For a backup from before there was a place for the note.
    await noteRestored(pool);
    return [
      ...(ran.length > 0 ? [`The backup is of an older version. Migrations that ran: ${ran.join(", ")}.`] : []),
      "The backup is restored. Nobody knows what was switched since it was made.",
      "At the next start, open commands end unanswered and are not sent, and overdue timers do not fire.",
      "Then look at the Board: commanded values may differ from states.",
    ];
  });
}

/** The rows of the table `migration` as the backup has them. */
async function migrationsIn(databaseUrl: string, file: string): Promise<string[]> {
  const words = ["--data-only", "--table=migration", "--file=-", file];
  const sql = await runTool("pg_restore", databaseUrl, words);
  const names = sql.split("\n").flatMap((line) => /^(\d{4}_\w+)\.sql\t/.exec(line)?.[1] ?? []);
  if (names.length === 0) throw new Error(`${file} is no backup of a Bold Relay installation.`);
  return names.map((name) => `${name}.sql`);
}

async function isOurs(pool: Pool): Promise<boolean> {
  const { rows } = await pool.query<{ there: boolean }>("select to_regclass('migration') is not null as there");
  return rows[0]?.there ?? false;
}

async function hasTables(pool: Pool): Promise<boolean> {
  const { rows } = await pool.query<{ there: boolean }>(
    "select exists (select from pg_class where relnamespace = 'public'::regnamespace) as there",
  );
  return rows[0]?.there ?? false;
}

async function requireNobodyRuns(pool: Pool): Promise<void> {
  const leader = await findLeader(pool);
  if (leader) throw new Error(`The instance ${leader.name} runs on this database. Stop all instances first.`);
}
