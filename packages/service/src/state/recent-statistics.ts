/**
 * What was asked in the last hours and how it ended, counted as it goes: statistics look here for what is not counted for good yet, for
 * reading a busy hour from its rows takes a second. It knows all of what was asked since a moment after its start.
 */
import {
  type ChannelId,
  countsOf,
  type EndedCommand,
  HOUR_MS,
  idMs,
  MINUTE_MS,
  type StatisticCount,
} from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";

/** Something that was counted, and where it belongs. */
export interface RecentCount extends StatisticCount {
  /** The minute in which it was asked, ms since 1970. */
  readonly minute: number;
  /** Of a command; null: a request that ended on arrival. */
  readonly channel: ChannelId | null;
  /** Slug, of a request that ended on arrival; null: of none, or its channel says it. */
  readonly site: string | null;
  /** Slug. */
  readonly inlet: string;
}

type Counter = { -readonly [Name in keyof RecentCount]: RecentCount[Name] };

/** Counted for good by then, at the latest; what is older is read from the database again. */
const KEPT_MS = 3 * HOUR_MS;
/** What an instance before this one may have accepted by a clock that is ahead of ours. */
const OTHERS_MS = MINUTE_MS;

export class RecentStatistics {
  private readonly clock: Clock;
  private readonly startsAt: number;
  private readonly minutes = new Map<number, Map<string, Counter>>();

  constructor(clock: Clock) {
    this.clock = clock;
    this.startsAt = minuteOf(clock.now() + OTHERS_MS + MINUTE_MS);
  }

  /** From here on it has all, ms since 1970: the beginning of a minute. */
  get since(): number {
    return Math.max(this.startsAt, minuteOf(this.clock.now() - KEPT_MS));
  }

  /** A command has durably ended. @param inlet where it was asked */
  ended(command: EndedCommand & { readonly requestId: string; readonly channel: ChannelId }, inlet: string): void {
    const { requestId, channel } = command;
    const minute = minuteOf(idMs(requestId));
    for (const { what, grade } of countsOf(command))
      this.add({ minute, channel, site: null, inlet, what, grade, count: 1 });
  }

  /** A request has ended on arrival. */
  refused(request: string, inlet: string, site: string | null, what: "refused" | "not-understood"): void {
    this.add({ minute: minuteOf(idMs(request)), channel: null, site, inlet, what, grade: 0, count: 1 });
  }

  /** What was asked within a period that begins and ends with a minute. */
  within({ from, to }: { readonly from: number; readonly to: number }): RecentCount[] {
    return [...this.minutes].flatMap(([minute, counts]) => (minute >= from && minute < to ? [...counts.values()] : []));
  }

  /** By the time in the id, as the database tells what belongs to a period. */
  private add(one: Counter): void {
    if (one.minute < this.since) return;
    const counts = this.countsOf(one.minute);
    const key = `${one.channel ?? ""} ${one.site ?? ""} ${one.inlet} ${one.what} ${one.grade}`;
    const known = counts.get(key);
    if (known) known.count += one.count;
    else counts.set(key, one);
  }

  private countsOf(minute: number): Map<string, Counter> {
    const known = this.minutes.get(minute);
    if (known) return known;
    const { since } = this;
    for (const old of this.minutes.keys()) if (old < since) this.minutes.delete(old);
    const counts = new Map<string, Counter>();
    this.minutes.set(minute, counts);
    return counts;
  }
}

function minuteOf(ms: number): number {
  return Math.floor(ms / MINUTE_MS) * MINUTE_MS;
}
