/** What a channel was over a longer time: a reading as a curve, everything else as the time that it was on. Pure. */
import { isOn, type Value } from "../channel/value.ts";
import { formatAgo } from "./duration.ts";
import type { Period } from "./statistics.ts";

/** What a sensor read in a stretch of time. */
export interface ReadingPoint {
  /** When it last read something there, ms since 1970. */
  readonly at: number;
  readonly low: number;
  readonly high: number;
  readonly last: number;
}

export interface ReadingFacts {
  /** As people say it: "Air temperature, Propagation bay". */
  readonly name: string;
  /** Oldest first. */
  readonly points: readonly ReadingPoint[];
  readonly online: boolean | null;
  readonly now: number;
  /** A reading in words. */
  readonly words: (value: number) => string;
  /** A time of day in words, where the reader is. */
  readonly clock: (at: number) => string;
}

/**
 * What to tell somebody who asks what a sensor reads.
 *
 * @example readingAnswer(facts)
 *   // → "Air temperature, Propagation bay: 23.9 °C, read 15 s ago. In 24 h: lowest 18.2 °C about 05:10, highest 26.1 °C about 13:40."
 */
export function readingAnswer({ name, points, online, now, words, clock }: ReadingFacts): string {
  const away = online === false ? " Its device is offline." : "";
  const newest = points.at(-1);
  if (!newest) return `${name}: nothing was read in these 24 hours.${away}`;
  const lowest = points.reduce((one, other) => (other.low < one.low ? other : one));
  const highest = points.reduce((one, other) => (other.high > one.high ? other : one));
  const read = `${name}: ${words(newest.last)}, read ${formatAgo(now - newest.at)}.${away}`;
  if (lowest.low === highest.high) return `${read} In 24 h: always that.`;
  return (
    `${read} In 24 h: lowest ${words(lowest.low)} about ${clock(lowest.at)}, ` +
    `highest ${words(highest.high)} about ${clock(highest.at)}.`
  );
}

export interface Switched {
  /** ms since 1970. */
  readonly at: number;
  readonly to: Value;
}

/**
 * How long a channel was on in each period, ms.
 *
 * @param before what it was before the first change; null: nobody knows, which counts as not on
 * @param changes oldest first
 * @param now what is after it has not been
 */
export function onTimes(
  before: Value | null,
  changes: readonly Switched[],
  periods: readonly Period[],
  now: number,
): number[] {
  const on: Period[] = [];
  let since = before !== null && isOn(before) ? Number.NEGATIVE_INFINITY : null;
  for (const { at, to } of changes) {
    if (since !== null) on.push({ from: since, to: at });
    since = isOn(to) ? at : null;
  }
  if (since !== null) on.push({ from: since, to: now });
  return periods.map(({ from, to }) =>
    on.reduce((sum, one) => sum + Math.max(0, Math.min(one.to, to) - Math.max(one.from, from)), 0),
  );
}
