/** `migrate`: brings the database to this version's shape, all of it or nothing. `start` does the same. */
import { dueMigrations, migrate as runMigrations } from "../store/migrate.ts";
import { withDatabase } from "./database.ts";

export interface MigrateOptions {
  readonly dryRun?: boolean;
}

/** @returns lines for people */
export function migrate(databaseUrl: string, { dryRun = false }: MigrateOptions): Promise<string[]> {
  return withDatabase(databaseUrl, async (pool) => {
    const names = dryRun ? await dueMigrations(pool) : await runMigrations(pool);
    if (names.length === 0) return ["The database has the shape of this version. Nothing to do."];
    return [...names.map((name) => `  ${name}`), dryRun ? "These would run." : "The database was migrated."];
  });
}
