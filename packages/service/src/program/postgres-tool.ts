/** Runs PostgreSQL's own programs. The password goes through the environment: the arguments of a program are there for all to see. */
import { type ChildProcess, spawn } from "node:child_process";
import { pipeline } from "node:stream/promises";

export type PostgresTool = "pg_dump" | "pg_restore" | "psql";

/** The end of what a program says is what went wrong, characters. */
const MOST_SAID = 2_000;

/**
 * @param words its arguments; the database is given by the environment
 * @returns what it wrote to its output
 * @throws Error when it is not installed, or ends with an error, in its own words
 */
export async function runTool(tool: PostgresTool, databaseUrl: string, words: readonly string[]): Promise<string> {
  const { child, ended } = start(tool, databaseUrl, words);
  const out: string[] = [];
  child.stdout?.setEncoding("utf8").on("data", (text: string) => out.push(text));
  child.stdin?.end();
  await ended;
  return out.join("");
}

/**
 * Runs SQL in one transaction: what comes first, what `pg_restore` makes of a backup, what comes last.
 *
 * @throws Error when either program fails; nothing is changed then
 */
export async function restoreInOneTransaction(
  databaseUrl: string,
  { first, file, last }: { readonly first: string; readonly file: string; readonly last: string },
): Promise<void> {
  const source = start("pg_restore", databaseUrl, ["--no-owner", "--no-acl", "--file=-", file]);
  const sink = start("psql", databaseUrl, ["-X", "-q", "--single-transaction", "-v", "ON_ERROR_STOP=1", "-f", "-"]);
  source.child.stdin?.end();
  sink.child.stdout?.resume();
  sink.child.stdin?.write(first);
  try {
    if (!source.child.stdout || !sink.child.stdin) throw new Error("The programs have no pipes.");
    // The end is not passed on: it would commit, and pg_restore may have failed half-way.
    const piped = pipeline(source.child.stdout, sink.child.stdin, { end: false }).catch(() => {
      // psql has ended: its own words say why.
    });
    await Promise.race([Promise.all([piped, source.ended]), sink.ended]);
    sink.child.stdin.end(last);
    await sink.ended;
  } catch (error) {
    source.child.kill();
    sink.child.kill();
    await Promise.allSettled([source.ended, sink.ended]);
    throw error;
  }
}

interface Running {
  readonly child: ChildProcess;
  /** Rejects when it fails, in its own words. */
  readonly ended: Promise<void>;
}

function start(tool: PostgresTool, databaseUrl: string, words: readonly string[]): Running {
  const child = spawn(tool, words, { env: { ...process.env, ...connectionOf(databaseUrl) }, stdio: "pipe" });
  const ended = new Promise<void>((resolve, reject) => {
    let err = "";
    child.stderr.setEncoding("utf8").on("data", (text: string) => {
      err = `${err}${text}`.slice(-MOST_SAID);
    });
    // A program that has ended reads no more; why it ended is told below.
    child.stdin.on("error", () => {});
    child.on("error", (error: NodeJS.ErrnoException) => {
      const missing = error.code === "ENOENT";
      reject(
        missing
          ? new Error(`${tool} is not installed. Install PostgreSQL's client programs.`, { cause: error })
          : error,
      );
    });
    child.on("close", (code) => {
      if (code === 0) resolve();
      else reject(new Error(`${tool} failed: ${err.trim() || `exit code ${code}`}`));
    });
  });
  // Looked at later; until then it is nobody's unhandled rejection.
  ended.catch(() => {});
  return { child, ended };
}

/** The variables that PostgreSQL's programs read (libpq, "Environment Variables"). */
function connectionOf(databaseUrl: string): Record<string, string> {
  const { hostname, port, username, password, pathname, searchParams } = new URL(databaseUrl);
  const host = decodeURIComponent(hostname) || searchParams.get("host") || "";
  const ssl = searchParams.get("sslmode");
  return {
    PGDATABASE: decodeURIComponent(pathname.slice(1)),
    ...(host === "" ? {} : { PGHOST: host.replace(/^\[|\]$/g, "") }),
    ...(port === "" ? {} : { PGPORT: port }),
    ...(username === "" ? {} : { PGUSER: decodeURIComponent(username) }),
    ...(password === "" ? {} : { PGPASSWORD: decodeURIComponent(password) }),
    ...(ssl === null ? {} : { PGSSLMODE: ssl }),
  };
}
