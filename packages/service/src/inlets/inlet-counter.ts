/**
 * What came in at each inlet and what became of it, for all kinds alike. Counted in memory as it comes, and added to the database
 * every second: counts outlive restarts and edits, and a crash loses a second of them at most.
 */
import { HOUR_MS } from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import type { Log } from "../platform/log.ts";
import { RegularWriter } from "../platform/regular-writer.ts";
import {
  ARRIVAL_ENDS,
  type ArrivalEnd,
  addInletHours,
  findInletHours,
  findLastArrivals,
  type InletHour,
} from "../store/inlet-hours.ts";
import type { Pool } from "../store/pool.ts";

const WRITE_EVERY_MS = 1_000;

export type InletCounts = Readonly<Record<ArrivalEnd | "arrivals", number>>;
type Growing = { -readonly [Name in keyof InletHour]: InletHour[Name] };

export class InletCounter {
  private readonly pool: Pool;
  private readonly clock: Clock;
  private readonly log: Log;
  /** By inlet and hour, what is known in all. */
  private readonly hours = new Map<string, Map<number, Growing>>();
  /** The same, of what is not in the database so far. */
  private unsaved = new Map<string, Growing>();
  /** By inlet, the hour under way: in all, and what is not stored of it. */
  private readonly current = new Map<string, { readonly all: Growing; readonly unsaved: Growing }>();
  private lastAt = new Map<string, number>();
  /** When the database was read last, ms since 1970. */
  private readAt = 0;
  private readonly writer = new RegularWriter(WRITE_EVERY_MS, () => this.write());

  constructor(pool: Pool, clock: Clock, log: Log) {
    this.pool = pool;
    this.clock = clock;
    this.log = log;
  }

  async start(): Promise<void> {
    this.lastAt = await findLastArrivals(this.pool);
    this.readAt = this.clock.now();
    for (const hour of await findInletHours(this.pool, this.clock.now() - 8 * 24 * HOUR_MS)) {
      const known = this.hours.get(hour.inlet) ?? new Map<number, Growing>();
      this.hours.set(hour.inlet, known.set(hour.hour, { ...hour }));
    }
    this.writer.start();
  }

  /** Writes what is left. */
  stop(): Promise<void> {
    return this.writer.stop();
  }

  /** Another instance counts now: what is not written is given up. */
  abandon(): void {
    this.writer.abandon();
  }

  /** Other instances count too: what they have added is taken on. While the database is away the counts stay as they are. */
  async readAgain(): Promise<void> {
    await this.writer.flush();
    // An hour that was under way then has grown since.
    const since = this.readAt - HOUR_MS;
    const now = this.clock.now();
    const rows = await findInletHours(this.pool, since).catch(() => null);
    if (rows === null) return;
    this.readAt = now;
    for (const row of rows) {
      const { inlet, hour, lastAt } = row;
      const all: Growing = { ...row };
      const own = this.unsaved.get(`${inlet} ${hour}`);
      if (own) for (const name of ["arrivals", ...ARRIVAL_ENDS] as const) all[name] += own[name];
      const known = this.hours.get(inlet) ?? new Map<number, Growing>();
      this.hours.set(inlet, known.set(hour, all));
      this.lastAt.set(inlet, Math.max(lastAt, this.lastAt.get(inlet) ?? 0));
    }
    this.current.clear();
  }

  /** An arrival came; what becomes of it is counted by `end`. */
  arrived(inlet: string): void {
    const now = this.clock.now();
    this.lastAt.set(inlet, now);
    const { all, unsaved } = this.currentOf(inlet, now);
    all.arrivals += 1;
    unsaved.arrivals += 1;
    all.lastAt = now;
    unsaved.lastAt = now;
  }

  ended(inlet: string, end: ArrivalEnd): void {
    const { all, unsaved } = this.currentOf(inlet, this.clock.now());
    all[end] += 1;
    unsaved[end] += 1;
  }

  /** @param hours 24 or 168: whole hours, the one under way with them */
  countsOf(inlet: string, hours: number): InletCounts {
    const from = this.clock.now() - hours * HOUR_MS;
    const sum = { arrivals: 0, ...nothing() };
    for (const one of this.hours.get(inlet)?.values() ?? []) {
      if (one.hour <= from) continue;
      for (const name of ["arrivals", ...ARRIVAL_ENDS] as const) sum[name] += one[name];
    }
    return sum;
  }

  /** ms since 1970; null: none ever came. */
  lastArrivalOf(inlet: string): number | null {
    return this.lastAt.get(inlet) ?? null;
  }

  private currentOf(inlet: string, now: number) {
    const hour = now - (now % HOUR_MS);
    const current = this.current.get(inlet);
    if (current?.all.hour === hour) return current;
    const fresh = (): Growing => ({ inlet, hour, arrivals: 0, ...nothing(), lastAt: now });
    const known = this.hours.get(inlet) ?? new Map<number, Growing>();
    const all = known.get(hour) ?? fresh();
    this.hours.set(inlet, known.set(hour, all));
    const key = `${inlet} ${hour}`;
    const unsaved = this.unsaved.get(key) ?? fresh();
    this.unsaved.set(key, unsaved);
    const counters = { all, unsaved };
    this.current.set(inlet, counters);
    return counters;
  }

  private write(): Promise<void> | null {
    if (this.unsaved.size === 0) return null;
    const rows = [...this.unsaved.values()];
    this.unsaved = new Map();
    this.current.clear();
    return addInletHours(this.pool, rows).catch((error: unknown) => {
      for (const row of rows) this.putBack(row);
      this.log.warn({ err: error }, "counts of inlets could not be stored, it will be tried again");
    });
  }

  private putBack(row: Growing): void {
    const key = `${row.inlet} ${row.hour}`;
    const since = this.unsaved.get(key);
    if (since) for (const name of ["arrivals", ...ARRIVAL_ENDS] as const) since[name] += row[name];
    else this.unsaved.set(key, row);
  }
}

function nothing(): Record<ArrivalEnd, number> {
  return { asked: 0, answered: 0, notUnderstood: 0, refused: 0, unknownSenders: 0 };
}
