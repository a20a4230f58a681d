/** What the database did while something was asked, from its own log: auto_explain, which PostgreSQL brings. */
import { closeSync, openSync, readSync, statSync } from "node:fs";
import type pg from "pg";

export interface QueriesOfCall {
  /** That the database took for them, by its own account, ms. */
  readonly ms: number;
  readonly queries: number;
  /** Each with its plan, as the database tells it. */
  readonly text: string;
}

/** What the service does by itself, now and then. */
const BACKGROUND =
  /(update lease|hold_lease|from lease\b|\bset_config|pg_notify|statistic_span|from open_command where request_id >= uuid_at)/;

/** What it counts by itself in the first hour after a start: days of statistics, and the ids of their hours. */
const COUNTING = /(\bstatistic\b|select lpad\(to_hex)/;

export class QueryLog {
  private readonly file: string;

  /** @param file the log of the server */
  constructor(file: string) {
    this.file = file;
  }

  /** From now on every new connection tells of each query and its plan. */
  async open(db: pg.Client): Promise<void> {
    // The server knows its settings only once it is loaded.
    await db.query("load 'auto_explain'");
    for (const [name, value] of Object.entries(SETTINGS)) await db.query(`alter system set ${name} = '${value}'`);
    await db.query("select pg_reload_conf()");
  }

  /**
   * The queries that the database finishes while this is done.
   *
   * @param countsStatistics whether the call reads statistics; else what is said of them is the service's own counting
   */
  async during(call: () => Promise<unknown>, countsStatistics = false): Promise<QueriesOfCall> {
    const from = statSync(this.file).size;
    await call();
    const entries = this.read(from).split(/^(?=\d{4}-\d\d-\d\d )/m);
    const isOwn = (entry: string) => !BACKGROUND.test(entry) && (countsStatistics || !COUNTING.test(entry));
    const own = entries.filter((entry) => / duration: [\d.]+ ms {2}plan:/.test(entry) && isOwn(entry));
    const ms = own.reduce((sum, entry) => sum + Number(/duration: ([\d.]+) ms/.exec(entry)?.[1] ?? 0), 0);
    return { ms, queries: own.length, text: own.map((entry) => entry.replace(/^.*? LOG: {2}/, "")).join("\n") };
  }

  private read(from: number): string {
    const size = statSync(this.file).size - from;
    const bytes = Buffer.alloc(size);
    const file = openSync(this.file, "r");
    try {
      readSync(file, bytes, 0, size, from);
    } finally {
      closeSync(file);
    }
    return bytes.toString("utf8");
  }
}

const SETTINGS = {
  session_preload_libraries: "auto_explain",
  "auto_explain.log_min_duration": "0",
  "auto_explain.log_analyze": "on",
  "auto_explain.log_buffers": "on",
  "auto_explain.log_timing": "off",
};
