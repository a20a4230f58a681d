/** Readings come all the time: kept is what moved by enough, and now and then one that did not, so that a line can be drawn. */

export interface KeptReading {
  readonly value: number;
  /** ms since 1970. */
  readonly at: number;
}

/** A reading that did not move is kept this often at least, ms. */
const KEPT_EVERY_MS = 900_000;
/** However much it moves, no more often than this, ms. */
const APART_MS = 10_000;

/**
 * Whether a reading is worth keeping.
 *
 * @param deadband how far it may move without being kept, in its unit: the channel's tolerance
 * @param now ms since 1970
 */
export function isWorthKeeping(last: KeptReading | null, value: number, deadband: number, now: number): boolean {
  if (last === null || now < last.at) return true;
  const sinceMs = now - last.at;
  return sinceMs >= KEPT_EVERY_MS || (sinceMs >= APART_MS && Math.abs(value - last.value) >= deadband);
}
