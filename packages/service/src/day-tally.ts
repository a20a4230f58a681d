/**
 * How the requests of the last 24 hours went, counted as they go: each by the minute in which it was asked. Counting a busy day from
 * its rows takes half a second, which every open console would ask for.
 */
import type { Clock } from "./clock.ts";
import type { DayFigures, MinuteFigures } from "./store/find-requests.ts";

const MINUTE_MS = 60_000;
const DAY_MINUTES = 24 * 60;

type Counts = { -readonly [Name in keyof DayFigures]: DayFigures[Name] };

export class DayTally {
  private readonly clock: Clock;
  /** By minute since 1970. */
  private readonly minutes = new Map<number, Counts>();

  constructor(clock: Clock) {
    this.clock = clock;
  }

  /** Takes on what was journaled before. */
  remember(figures: readonly MinuteFigures[]): void {
    for (const { minute, requests, refused, complete, notReached } of figures) {
      const counts = this.countsOf(minute * MINUTE_MS);
      counts.requests += requests;
      counts.refused += refused;
      counts.complete += complete;
      counts.notReached += notReached;
    }
  }

  /** @param refused it ended on arrival */
  asked(askedAt: number, refused: boolean): void {
    const counts = this.countsOf(askedAt);
    counts.requests += 1;
    if (refused) counts.refused += 1;
  }

  /** A command has durably ended. */
  ended(askedAt: number, complete: boolean): void {
    const counts = this.countsOf(askedAt);
    if (complete) counts.complete += 1;
    else counts.notReached += 1;
  }

  lastDay(): DayFigures {
    const { oldest } = this;
    const sum: Counts = { requests: 0, complete: 0, notReached: 0, refused: 0 };
    for (const [minute, counts] of this.minutes) {
      if (minute < oldest) continue;
      sum.requests += counts.requests;
      sum.complete += counts.complete;
      sum.notReached += counts.notReached;
      sum.refused += counts.refused;
    }
    return sum;
  }

  private countsOf(askedAt: number): Counts {
    const minute = minuteOf(askedAt);
    const known = this.minutes.get(minute);
    if (known) return known;
    this.forget();
    const counts: Counts = { requests: 0, complete: 0, notReached: 0, refused: 0 };
    this.minutes.set(minute, counts);
    return counts;
  }

  private forget(): void {
    const oldest = this.oldest;
    for (const minute of this.minutes.keys()) if (minute < oldest) this.minutes.delete(minute);
  }

  private get oldest(): number {
    return minuteOf(this.clock.now()) - DAY_MINUTES;
  }
}

function minuteOf(at: number): number {
  return Math.floor(at / MINUTE_MS);
}
