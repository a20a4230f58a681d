/** How well it runs: counts of how commands ended and how long each hop took, summed up for a site, a device, an inlet or a day. Pure. */
import type { Hop } from "../delivery/command.ts";
import { ENDS, type End, STAGES, type Stage } from "../delivery/stage.ts";

/**
 * The times that are kept of a command: until the broker had it, from there until the device took it, from there until it was
 * reported; and the whole way of one that reached its target stage.
 */
export const TIMED_HOPS = ["published", "acknowledged", "confirmed", "whole"] as const;
export type TimedHop = (typeof TIMED_HOPS)[number];

/** What statistics are summed up by. */
export const STATISTIC_GROUPS = ["all", "day", "site", "device", "inlet"] as const;
export type StatisticGroup = (typeof STATISTIC_GROUPS)[number];

/** How often something happened. */
export interface StatisticCount {
  /** How commands ended, a hop whose time is counted, or how requests ended on arrival. */
  readonly what: End | TimedHop | "refused" | "not-understood";
  /** Of an end: the stage that was proven, 0 (accepted) to 3 (confirmed), 4 confirmed by a measurement. Of a hop: the bucket of its time. Else 0. */
  readonly grade: number;
  readonly count: number;
}

/** ms */
export interface HopTimes {
  readonly p50: number;
  readonly p95: number;
}

export interface DeliveryStatistics {
  /** Ended commands. */
  readonly commands: number;
  /** Reached their target stage. */
  readonly delivered: number;
  /** A newer one took their place: neither reached nor missed. */
  readonly replaced: number;
  /** Failed, unanswered or expired. */
  readonly missed: Readonly<Record<"failed" | "unanswered" | "expired", number>>;
  /** Of those that reached their target stage, how many by which proof: the broker's word alone is no proof of light. */
  readonly proven: Readonly<Record<"published" | "acknowledged" | "confirmed" | "measured", number>>;
  /** Reached ÷ (reached + missed), 0 to 1; null: there were none. */
  readonly successRate: number | null;
  /** Requests that ended on arrival. */
  readonly refused: number;
  readonly notUnderstood: number;
  readonly times: Readonly<Record<TimedHop, HopTimes | null>>;
}

/** The grade of an end that something else than its own device has confirmed. */
const MEASURED_GRADE = STAGES.length;

/** Times are counted in buckets, eight to each doubling: what is read from them is within 5 %. */
const BUCKETS_A_DOUBLING = 8;
/** Of more than five years. */
const LARGEST_BUCKET = 300;
/** ms; shorter times are counted as this. */
const SHORTEST_MS = 0.125;

/** @example bucketOf(16) // → 32 */
export function bucketOf(ms: number): number {
  return Math.round(BUCKETS_A_DOUBLING * Math.log2(Math.max(ms, SHORTEST_MS)));
}

/** What is counted of a command that has ended. */
export interface EndedCommand {
  readonly end: End;
  readonly stage: Stage;
  /** ms since 1970 */
  readonly askedAt: number;
  readonly hops: readonly Pick<Hop, "kind" | "at" | "measured">[];
}

/**
 * How it ended, and how long each hop took that was seen, from the one before that was seen.
 *
 * @example countsOf({ end: "delivered", stage: "published", askedAt: 0, hops: [{ kind: "published", at: 16 }] })
 * // → delivered at grade 1, published and whole in bucket 32
 */
export function countsOf({ end, stage, askedAt, hops }: EndedCommand): StatisticCount[] {
  const first = (kind: Hop["kind"]): number | null => {
    let least: number | null = null;
    for (const hop of hops) if (hop.kind === kind && (least === null || hop.at < least)) least = hop.at;
    return least;
  };
  const [published, acknowledged, confirmed] = [first("published"), first("acknowledged"), first("confirmed")];
  const last = Math.max(published ?? askedAt, acknowledged ?? askedAt, confirmed ?? askedAt);
  const wasSeen = published !== null || acknowledged !== null || confirmed !== null;
  const times: [TimedHop, number | null][] = [
    ["published", published === null ? null : published - askedAt],
    ["acknowledged", acknowledged === null ? null : acknowledged - (published ?? askedAt)],
    ["confirmed", confirmed === null ? null : confirmed - (acknowledged ?? published ?? askedAt)],
    ["whole", end === "delivered" && wasSeen ? last - askedAt : null],
  ];
  const grade = hops.some(({ measured }) => measured) ? MEASURED_GRADE : STAGES.indexOf(stage);
  return [
    { what: end, grade, count: 1 },
    ...times.flatMap(([what, ms]) =>
      ms === null ? [] : { what, grade: Math.min(bucketOf(ms), LARGEST_BUCKET), count: 1 },
    ),
  ];
}

/** The middle of a bucket, ms. @example bucketMs(32) // → 16 */
export function bucketMs(bucket: number): number {
  return 2 ** (bucket / BUCKETS_A_DOUBLING);
}

/** Sums up what was counted of one group. */
export function statisticsOf(counts: readonly StatisticCount[]): DeliveryStatistics {
  const ended = (end: End) => total(counts.filter(({ what }) => what === end));
  const proven = (stage: (typeof STAGES)[number]) =>
    total(counts.filter(({ what, grade }) => what === "delivered" && STAGES[grade] === stage));
  const missed = { failed: ended("failed"), unanswered: ended("unanswered"), expired: ended("expired") };
  const delivered = ended("delivered");
  const tried = delivered + missedOf({ missed });
  const timesOf = (hop: TimedHop) => hopTimes(counts.filter(({ what }) => what === hop));
  return {
    commands: ENDS.reduce((sum, end) => sum + ended(end), 0),
    delivered,
    replaced: ended("replaced") + ended("overtaken"),
    missed,
    proven: {
      published: proven("published"),
      acknowledged: proven("acknowledged"),
      confirmed: proven("confirmed"),
      measured: total(counts.filter(({ what, grade }) => what === "delivered" && grade === MEASURED_GRADE)),
    },
    successRate: tried === 0 ? null : delivered / tried,
    refused: total(counts.filter(({ what }) => what === "refused")),
    notUnderstood: total(counts.filter(({ what }) => what === "not-understood")),
    times: {
      published: timesOf("published"),
      acknowledged: timesOf("acknowledged"),
      confirmed: timesOf("confirmed"),
      whole: timesOf("whole"),
    },
  };
}

/** How many commands did not reach their target stage. */
export function missedOf({ missed }: Pick<DeliveryStatistics, "missed">): number {
  return missed.failed + missed.unanswered + missed.expired;
}

/** Groups from the first on of which there is something to tell: a year of days before the first request says nothing. */
export function fromFirstAsk<Group extends DeliveryStatistics>(groups: readonly Group[]): readonly Group[] {
  const first = groups.findIndex(({ commands, refused, notUnderstood }) => commands + refused + notUnderstood > 0);
  return first < 0 ? [] : groups.slice(first);
}

function total(counts: readonly StatisticCount[]): number {
  return counts.reduce((sum, { count }) => sum + count, 0);
}

function hopTimes(counts: readonly StatisticCount[]): HopTimes | null {
  const all = total(counts);
  if (all === 0) return null;
  const sorted = [...counts].sort((one, other) => one.grade - other.grade);
  const at = (share: number) => {
    let left = all * share;
    for (const { grade, count } of sorted) {
      left -= count;
      if (left <= 0) return bucketMs(grade);
    }
    return bucketMs(sorted.at(-1)?.grade ?? 0);
  };
  return { p50: at(0.5), p95: at(0.95) };
}

/** ms since 1970, the end left out. */
export interface Period {
  readonly from: number;
  readonly to: number;
}

/**
 * What of a period no part covers.
 *
 * @param parts in order, none over another
 * @example uncovered({ from: 0, to: 9 }, [{ from: 2, to: 4 }]) // → [{ from: 0, to: 2 }, { from: 4, to: 9 }]
 */
export function uncovered({ from, to }: Period, parts: readonly Period[]): Period[] {
  const gaps: Period[] = [];
  let at = from;
  for (const part of parts) {
    if (part.from > at) gaps.push({ from: at, to: Math.min(part.from, to) });
    at = Math.max(at, part.to);
  }
  if (at < to) gaps.push({ from: at, to });
  return gaps;
}

/** What of some periods lies before a moment, and what after it. */
export function splitAt(periods: readonly Period[], moment: number): { before: Period[]; after: Period[] } {
  return {
    before: periods.flatMap(({ from, to }) => (from < moment ? { from, to: Math.min(to, moment) } : [])),
    after: periods.flatMap(({ from, to }) => (to > moment ? { from: Math.max(from, moment), to } : [])),
  };
}

/** @example percentText(0.9967) // → "99.7 %"; only all of them is 100 % */
export function percentText(share: number | null): string {
  if (share === null) return "–";
  if (share === 1) return "100 %";
  return `${Math.min(99.9, Math.round(share * 1000) / 10).toFixed(1)} %`;
}
