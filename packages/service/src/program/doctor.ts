/** `doctor`: one file for whoever helps: what runs here, how it is set, what `check` finds, how the database is filled. No secrets. */
import { execFile } from "node:child_process";
import { open, rm } from "node:fs/promises";
import os from "node:os";
import { promisify } from "node:util";
import { readConfig } from "../platform/config/config.ts";
import { readSettings, type Settings } from "../platform/config/settings-file.ts";
import { versionText } from "../platform/version.ts";
import { createPool } from "../store/pool.ts";
import { check } from "./check/check.ts";

/** Their values stand in the bundle; all others only say that they are set. */
const TOLD =
  /_(USER|HOST|PORT|LOG_LEVEL|KEEP_DAYS|ZONE|LEASE_MS|INSTANCE|ADVERTISE|SECURE_COOKIES|RESTORED|CLIENT_ID|MAY_CALL|MAY_LISTEN|TRUSTED_PROXIES|DIR|FILE|TRANSLATE)$/;
/** Addresses that may hold a password. */
const ADDRESSES = /_URL$/;
const REMOVED = "(removed)";
const LOG_LINES = 2_000;
const LOG_BYTES = 8_000_000;

/**
 * Writes the bundle as JSON, so that it can be read before it is given away.
 *
 * @returns lines for people
 */
export async function doctor(
  environment: Readonly<Record<string, string | undefined>>,
  settingsFile: string | undefined,
  file: string,
): Promise<string[]> {
  const settings = settingsOf(environment, settingsFile);
  const bundle = {
    madeAt: new Date().toISOString(),
    version: versionText,
    node: process.version,
    machine: {
      system: `${os.type()} ${os.release()} ${os.arch()}`,
      cores: os.cpus().length,
      memoryMB: Math.round(os.totalmem() / 1e6),
      freeMB: Math.round(os.freemem() / 1e6),
      load: os.loadavg(),
      upSeconds: Math.round(os.uptime()),
    },
    settings: "values" in settings ? shownSettings(settings) : settings,
    check: await check(environment, settingsFile),
    ...("values" in settings ? await runningParts(settings) : {}),
    log: await lastLog(),
  };
  const secrets = "values" in settings ? secretsOf(settings) : [];
  const text = `${JSON.stringify(bundle, null, 1)}\n`;
  const told = withoutSecrets(text, secrets);
  const handle = await open(file, "wx", 0o600).catch((error: NodeJS.ErrnoException) => {
    throw error.code === "EEXIST" ? new Error(`${file} exists already. Name a new file.`) : error;
  });
  try {
    await handle.writeFile(told);
    await handle.close();
  } catch (error) {
    await handle.close().catch(() => {});
    await rm(file, { force: true });
    throw error;
  }
  return [
    `The support bundle is in ${file}.`,
    "Passwords, keys and secrets are removed. Names of sites, devices and members in the log are not: read it before you send it.",
  ];
}

/** What opens something wherever it stands: keys of ours, and the link of the set-up, which the log of an empty installation has. */
const OPENERS = /\bbrk_[\w-]{20,}|(?<=\/setup#)[\w-]{20,}/g;

/** @param secrets values of settings */
export function withoutSecrets(text: string, secrets: readonly string[]): string {
  return secrets.reduce((all, secret) => all.replaceAll(secret, REMOVED), text).replace(OPENERS, REMOVED);
}

function settingsOf(
  environment: Readonly<Record<string, string | undefined>>,
  file: string | undefined,
): Settings | { error: string } {
  try {
    return readSettings(environment, file);
  } catch (error) {
    return { error: (error as Error).message };
  }
}

function ours({ values }: Settings): [string, string][] {
  return Object.entries(values).filter((one): one is [string, string] => {
    return one[0].startsWith("BOLD_RELAY_") && one[1] !== undefined;
  });
}

function shownSettings(settings: Settings): Record<string, string> {
  return Object.fromEntries(
    ours(settings).map(([name, value]) => {
      if (ADDRESSES.test(name)) return [name, withoutPassword(value)];
      return [name, TOLD.test(name) ? value : "(set)"];
    }),
  );
}

function withoutPassword(address: string): string {
  try {
    const url = new URL(address);
    if (url.password !== "") url.password = "removed";
    return url.href;
  } catch {
    return "(not an address)";
  }
}

/** Wherever one of them turns up in the bundle, it is removed. */
function secretsOf(settings: Settings): string[] {
  const values = ours(settings).flatMap(([name, value]) => {
    if (!ADDRESSES.test(name)) return TOLD.test(name) ? [] : [value];
    const password = /:\/\/[^@/]*?:([^@/]*)@/.exec(value)?.[1] ?? "";
    return [password, decodeURIComponent(password)];
  });
  // Shorter ones are words that may stand anywhere.
  return [...new Set(values)].filter((value) => value.length >= 8);
}

async function runningParts(settings: Settings): Promise<object> {
  try {
    const config = readConfig(settings.values);
    const [database, health] = await Promise.all([
      databaseParts(config.databaseUrl),
      healthOf(config.host, config.port),
    ]);
    return { database, health };
  } catch (error) {
    return { database: (error as Error).message };
  }
}

const QUESTIONS = {
  server:
    "select version() as version, current_setting('max_connections') as max_connections, pg_database_size(current_database()) as bytes",
  migrations: "select name, ran_at from migration order by name",
  lease: "select holder, address, epoch, since, until from lease",
  tables: `select relname as table, n_live_tup as rows, n_dead_tup as dead, pg_total_relation_size(relid) as bytes, last_autovacuum
    from pg_stat_user_tables order by pg_total_relation_size(relid) desc limit 40`,
  activity: `select state, wait_event_type, count(*)::int as connections, max(extract(epoch from now() - state_change))::int as longest_s
    from pg_stat_activity where datname = current_database() group by 1, 2`,
};

async function databaseParts(databaseUrl: string): Promise<object> {
  const pool = createPool(databaseUrl, () => {}, 1);
  try {
    const answers: [string, unknown][] = [];
    for (const [name, question] of Object.entries(QUESTIONS)) {
      const answer: unknown = await pool.query(question).then(
        ({ rows }) => rows as unknown[],
        (error: Error) => error.message,
      );
      answers.push([name, answer]);
    }
    return Object.fromEntries(answers);
  } finally {
    await pool.end();
  }
}

async function healthOf(host: string, port: number): Promise<unknown> {
  try {
    const response = await fetch(`http://${host === "0.0.0.0" ? "127.0.0.1" : host}:${port}/health/ready`, {
      signal: AbortSignal.timeout(3_000),
    });
    return await response.json();
  } catch (error) {
    return (error as Error).message;
  }
}

/** The end of the service's log, where systemd keeps it. */
async function lastLog(): Promise<string[] | string> {
  try {
    const words = ["--unit", "bold-relay", "--lines", String(LOG_LINES), "--output", "cat", "--no-pager"];
    const { stdout } = await promisify(execFile)("journalctl", words, { maxBuffer: LOG_BYTES });
    return stdout.split("\n");
  } catch (error) {
    return `not found: ${(error as Error).message.split("\n")[0]}`;
  }
}
