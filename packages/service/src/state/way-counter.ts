/**
 * Counts by which way requests come and which channels they reach. Counted in memory as they come, and added to the database every few
 * seconds: a crash loses so much of the counts, and nothing else.
 */
import { DAY_MS } from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import type { Log } from "../platform/log.ts";
import { RegularWriter } from "../platform/regular-writer.ts";
import type { Pool } from "../store/pool.ts";
import { addWayUses, type WayUseRow } from "../store/way-use.ts";

const WRITE_EVERY_MS = 5_000;
/** Rows that wait while the database is away; beyond it new ones are not counted. */
const MOST_UNSAVED = 50_000;

type Growing = { -readonly [Name in keyof WayUseRow]: WayUseRow[Name] };

export class WayCounter {
  private readonly pool: Pool;
  private readonly clock: Clock;
  private readonly log: Log;
  /** By way, channel and day. */
  private unsaved = new Map<string, Growing>();
  private readonly writer = new RegularWriter(WRITE_EVERY_MS, () => this.write());

  constructor(pool: Pool, clock: Clock, log: Log) {
    this.pool = pool;
    this.clock = clock;
    this.log = log;
  }

  start(): void {
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

  /**
   * A request came.
   *
   * @param channels that got a command of it
   * @param by the name that the requester gave
   */
  used(way: string, channels: readonly number[], by: string): void {
    const now = this.clock.now();
    this.count(way, 0, now, by);
    for (const channel of channels) this.count(way, channel, now, by);
  }

  /** Resolves once everything that was counted so far is in the database, or could not be written. */
  flush(): Promise<void> {
    return this.writer.flush();
  }

  private count(way: string, channelId: number, now: number, by: string): void {
    const day = now - (now % DAY_MS);
    const key = `${channelId} ${day} ${way}`;
    const known = this.unsaved.get(key);
    if (known) {
      known.uses += 1;
      known.lastAt = now;
      known.lastBy = by;
    } else if (this.unsaved.size < MOST_UNSAVED) {
      this.unsaved.set(key, { way, channelId, day, uses: 1, lastAt: now, lastBy: by });
    }
  }

  private write(): Promise<void> | null {
    if (this.unsaved.size === 0) return null;
    const rows = this.unsaved;
    this.unsaved = new Map();
    return addWayUses(this.pool, [...rows.values()]).catch((error: unknown) => {
      this.putBack(rows);
      this.log.warn({ err: error }, "uses of routes could not be stored, it will be tried again");
    });
  }

  private putBack(rows: ReadonlyMap<string, Growing>): void {
    for (const [key, row] of rows) {
      const since = this.unsaved.get(key);
      if (since) since.uses += row.uses;
      else if (this.unsaved.size < MOST_UNSAVED) this.unsaved.set(key, row);
    }
  }
}
