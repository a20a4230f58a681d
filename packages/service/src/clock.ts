/**
 * One steady clock: wall time at the start plus what has really passed since. A wall clock that is
 * stepped (by NTP, by hand) can so neither expire commands nor revive them while the service runs.
 */
export interface Clock {
  /** ms since 1970, with fractions. */
  now(): number;
}

export const steadyClock: Clock = {
  now: () => performance.timeOrigin + performance.now(),
};
