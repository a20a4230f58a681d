/** What simulated sensors read: a curve that follows the day, and a little noise. */
import { HOUR_MS } from "@bold-relay/core";

/** Temperature, humidity, daylight: what they are early in the morning, and in the afternoon. */
const CURVES: readonly (readonly [number, number])[] = [
  [14, 27],
  [85, 45],
  [0, 18_000],
];
/** When it is warmest and brightest, hours after midnight UTC. */
const WARMEST_HOUR = 14.5;

/**
 * @param now ms since 1970
 * @param place of the sensor on its board, which says what it measures
 * @returns with one digit behind the point
 */
export function readingAt(now: number, place: number): number {
  const share = (1 + Math.cos(((now / HOUR_MS - WARMEST_HOUR) * Math.PI) / 12)) / 2;
  const [least, most] = CURVES[place % CURVES.length] ?? [0, 100];
  const wobble = (Math.random() - 0.5) / 25;
  return Math.round((least + Math.max(0, share + wobble) * (most - least)) * 10) / 10;
}
