/**
 * How the requests of the last 24 hours went, counted as they go: each by its site and the minute in which it was asked. Counting a busy day from
 * its rows takes half a second, which every open console would ask for.
 */

import { MINUTE_MS } from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import type { DayStatistics, MinuteStatistics } from "../store/find-requests.ts";

const DAY_MINUTES = 24 * 60;

type Counts = { -readonly [Name in keyof DayStatistics]: DayStatistics[Name] };

/** Of one site, by minute since 1970. */
type Minutes = Map<number, Counts>;

/** Of what belongs to no site. */
const NOWHERE = "";

export class DayTally {
  private readonly clock: Clock;
  /** By slug. */
  private readonly sites = new Map<string, Minutes>();
  /** What belongs to no site, and was counted here: the database had none of it when this began. */
  private readonly ownNowhere: Minutes = new Map();
  /** When the database was read, ms since 1970: it had what all instances had counted until then. */
  private readonly readAt: number;

  constructor(clock: Clock) {
    this.clock = clock;
    this.readAt = clock.now();
  }

  /** From then on only this instance's own requests that belong to no site are counted here, ms since 1970. */
  get nowhereSince(): number {
    return this.readAt;
  }

  /** What other instances have counted of these sites until now is read anew. @param statistics of these only */
  replace(sites: ReadonlySet<string>, statistics: readonly MinuteStatistics[]): void {
    for (const site of sites) this.sites.delete(site);
    this.remember(statistics);
  }

  /** Takes on what was journaled before. */
  remember(statistics: readonly MinuteStatistics[]): void {
    for (const { site, minute, requests, refused, delivered, notDelivered } of statistics) {
      const counts = this.countsOf(site, minute * MINUTE_MS);
      counts.requests += requests;
      counts.refused += refused;
      counts.delivered += delivered;
      counts.notDelivered += notDelivered;
    }
  }

  /**
   * @param site the slug of the site that it belongs to; null: of none
   * @param refused it ended on arrival
   */
  asked(site: string | null, askedAt: number, refused: boolean): void {
    const all = [this.countsOf(site, askedAt)];
    if (site === null) all.push(this.countsIn(this.ownNowhere, askedAt));
    for (const counts of all) {
      counts.requests += 1;
      if (refused) counts.refused += 1;
    }
  }

  /** A command has durably ended. */
  ended(site: string | null, askedAt: number, delivered: boolean): void {
    const counts = this.countsOf(site, askedAt);
    if (delivered) counts.delivered += 1;
    else counts.notDelivered += 1;
  }

  /** @param sites slugs; null: everything, with what belongs to none */
  lastDay(sites: readonly string[] | null): DayStatistics {
    return this.sum(
      [...(sites ?? this.sites.keys())].flatMap((site) => this.sites.get(site) ?? []),
      this.oldest,
    );
  }

  /** Of what belongs to no site, what was counted here in the minutes after that. @param since ms since 1970 */
  lastDayNowhere(since: number): DayStatistics {
    return this.sum([this.ownNowhere], Math.max(this.oldest, minuteOf(since) + 1));
  }

  private sum(all: readonly Minutes[], oldest: number): DayStatistics {
    const sum = nothing();
    for (const minutes of all)
      for (const [minute, counts] of minutes) {
        if (minute < oldest) continue;
        sum.requests += counts.requests;
        sum.delivered += counts.delivered;
        sum.notDelivered += counts.notDelivered;
        sum.refused += counts.refused;
      }
    return sum;
  }

  private countsOf(site: string | null, askedAt: number): Counts {
    return this.countsIn(this.minutesOf(site ?? NOWHERE), askedAt);
  }

  private countsIn(minutes: Minutes, askedAt: number): Counts {
    const minute = minuteOf(askedAt);
    const known = minutes.get(minute);
    if (known) return known;
    this.forget(minutes);
    const counts = nothing();
    minutes.set(minute, counts);
    return counts;
  }

  private minutesOf(site: string): Minutes {
    const known = this.sites.get(site);
    if (known) return known;
    const minutes: Minutes = new Map();
    this.sites.set(site, minutes);
    return minutes;
  }

  private forget(minutes: Minutes): void {
    const oldest = this.oldest;
    for (const minute of minutes.keys()) if (minute < oldest) minutes.delete(minute);
  }

  private get oldest(): number {
    return minuteOf(this.clock.now()) - DAY_MINUTES;
  }
}

function nothing(): Counts {
  return { requests: 0, delivered: 0, notDelivered: 0, refused: 0 };
}

function minuteOf(at: number): number {
  return Math.floor(at / MINUTE_MS);
}
