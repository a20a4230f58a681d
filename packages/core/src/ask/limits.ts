/** What numbers and times may be asked, by whatever way they come: phrase, JSON, topic, sheet, keypad, console or command line. */

import { RelayError } from "../errors/relay-error.ts";
import { DAY_MS } from "../time.ts";

/** Shortest and longest time that something may be asked to last, ms. */
export const LEAST_FOR_MS = 200;
export const MOST_FOR_MS = DAY_MS;

/**
 * A time as it is kept, in whole ms.
 *
 * @throws RelayError time-out-of-range
 * @example askedTime(1_500.4) // → 1500
 */
export function askedTime(forMs: number | null): number | null {
  if (forMs === null) return null;
  const whole = Math.round(forMs);
  if (whole >= LEAST_FOR_MS && whole <= MOST_FOR_MS) return whole;
  throw new RelayError("time-out-of-range", { seconds: secondsOf(forMs) });
}

/**
 * A number as people and programs write it: sign, digits, a point. No exponent, no hexadecimal, nothing after it.
 *
 * @returns null when it is none
 * @example askedNumber("-20") // → -20
 */
export function askedNumber(text: string): number | null {
  return /^[-+]?\d{1,30}(?:\.\d{1,30})?$/.test(text) ? Number(text) + 0 : null;
}

/** @example secondsOf(-300_000) // → "-300" */
function secondsOf(ms: number): string {
  const seconds = ms / 1_000;
  return Math.abs(seconds) < 1e12 ? String(Math.round(seconds * 1_000) / 1_000) : seconds.toExponential(1);
}
