/** PostgreSQL: whether it answers, may be used, fits this version, and has the same clock. */
import { unsealed } from "../../auth/seal.ts";
import type { Config } from "../../platform/config/config.ts";
import { databaseTrouble } from "../../store/database-trouble.ts";
import { dueMigrations } from "../../store/migrate.ts";
import { createPool, type Pool } from "../../store/pool.ts";
import { findSealedSample } from "../../store/sealed-sample.ts";
import { countOwners } from "../../store/team.ts";
import { databaseName } from "../database.ts";
import { type Finding, failure, ok, warning } from "./finding.ts";

const LEAST_VERSION = 150_000;
/** An instance opens as many at most. */
const CONNECTIONS = 13;
/** Clocks that are further apart make times in the log and in traces wrong, ms. */
const MOST_APART_MS = 2_000;

export async function checkDatabase(config: Config): Promise<Finding[]> {
  const pool = createPool(config.databaseUrl, () => {}, 1);
  const place = databaseName(config.databaseUrl);
  try {
    const server = await checkServer(pool, place);
    const shape = await checkShape(pool);
    return [
      ...server,
      ...shape,
      ...(shape.every(({ state }) => state === "ok") ? await checkContent(pool, config) : []),
    ];
  } catch (error) {
    const mend = "Start PostgreSQL, or correct BOLD_RELAY_DATABASE_URL.";
    return [failure("Database", `${place}: ${databaseTrouble(error)}`, mend)];
  } finally {
    await pool.end();
  }
}

interface ServerRow {
  readonly version: number;
  readonly superuser: boolean;
  readonly may_create: boolean;
  readonly standby: boolean;
  readonly now: number;
  readonly connections: number;
}

async function checkServer(pool: Pool, place: string): Promise<Finding[]> {
  // The first query also opens the connection: the clock is read on one that stands.
  await pool.query("select 1");
  const before = Date.now();
  const { rows } = await pool.query<ServerRow>(
    `select current_setting('server_version_num')::int as version, r.rolsuper as superuser,
       has_schema_privilege(current_schema(), 'create') as may_create, pg_is_in_recovery() as standby,
       extract(epoch from clock_timestamp())::float8 * 1000 as now, current_setting('max_connections')::int as connections
     from pg_roles r where r.rolname = current_user`,
  );
  const between = (before + Date.now()) / 2;
  const [row] = rows;
  if (!row) return [failure("Database", `${place}: its user has no role`, "Create the role anew.")];
  const major = Math.floor(row.version / 10_000);
  return [
    row.version >= LEAST_VERSION
      ? ok("Database", `PostgreSQL ${major} at ${place}`)
      : failure("Database", `PostgreSQL ${major} at ${place} is too old`, "Use PostgreSQL 15 or newer."),
    ...(row.standby ? [failure("Database", "it is a standby", "Use the address of the primary.")] : []),
    ...(row.superuser
      ? [warning("Database rights", "the service's user is a superuser", "Use a role that owns this database only.")]
      : []),
    ...(row.may_create
      ? []
      : [
          failure(
            "Database rights",
            "the service's user may not create tables",
            "Give it the schema: alter schema public owner to the user.",
          ),
        ]),
    ...(row.connections < CONNECTIONS * 2
      ? [warning("Database", `max_connections is ${row.connections}`, `An instance opens up to ${CONNECTIONS}.`)]
      : []),
    clock(row.now - between),
  ];
}

function clock(apartMs: number): Finding {
  const apart = Math.abs(apartMs);
  if (apart <= MOST_APART_MS) return ok("Clock", `${Math.round(apart)} ms from the database's`);
  const text = `${(apart / 1000).toFixed(1)} s ${apartMs > 0 ? "behind" : "ahead of"} the database's`;
  return warning("Clock", text, "Let both machines take their time from the network (NTP).");
}

async function checkShape(pool: Pool): Promise<Finding[]> {
  try {
    const due = await dueMigrations(pool);
    if (due.length === 0) return [ok("Database shape", "that of this version")];
    return [warning("Database shape", `${due.length} migrations are due`, "The next start runs them. Back up first.")];
  } catch (error) {
    return [failure("Database shape", (error as Error).message, "Install that version, or restore a backup.")];
  }
}

async function checkContent(pool: Pool, { secretsKey }: Config): Promise<Finding[]> {
  const owners = await countOwners(pool);
  const sealed = await findSealedSample(pool);
  return [
    owners > 0
      ? ok("Owner", owners === 1 ? "1 owner" : `${owners} owners`)
      : warning("Owner", "none", "Run: bold-relay-server setup"),
    ...(sealed !== null && unsealed(sealed, secretsKey) === null
      ? [
          failure(
            "Secrets key",
            "it is not the key of this database",
            "Set BOLD_RELAY_SECRETS_KEY to the key of before.",
          ),
        ]
      : []),
  ];
}
