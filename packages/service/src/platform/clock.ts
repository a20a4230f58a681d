/**
 * One steady clock: wall time at the start plus what has really passed since. A wall clock that is
 * stepped (by NTP, by hand) can so neither expire commands nor revive them while the service runs.
 */
export interface Clock {
  /** ms since 1970, in whole microseconds: as fine as the journal keeps it, so that it reads back the same. */
  now(): number;
}

/** The machine's clock, made steady: it never goes back, and jumps are told apart from time that passes. */
export const steadyClock: Clock = {
  now: () => Math.round((performance.timeOrigin + performance.now()) * 1000) / 1000,
};

/**
 * RFC 3339 in UTC with microseconds, for the journal.
 *
 * @example timestamp(1_800_000_000_123.456) // → "2027-01-15T08:00:00.123456Z"
 */
export function timestamp(ms: number): string {
  const micros = Math.round((ms % 1) * 1000);
  return `${new Date(Math.floor(ms)).toISOString().slice(0, -1)}${String(Math.min(micros, 999)).padStart(3, "0")}Z`;
}
