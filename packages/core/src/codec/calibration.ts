/**
 * Where a device's numbers are not straight: a motor that needs 40 % to move, a lamp that flickers below 5 %, a brightness that
 * the eye sees otherwise, two motors that do not run alike. Both directions, with defined rounding. Pure.
 */

export interface Calibration {
  /** The share of the device's range at which 1 % lies, in percent: 0 to 99. Default 0. Nothing stays nothing. */
  readonly least?: number;
  /** The share at which 100 % lies, in percent: 1 to 100, above `least`. Default 100. */
  readonly most?: number;
  /** Exponent of the curve between them: 1 is straight, 2.2 suits lamps. 0.2 to 5. Default 1. */
  readonly curve?: number;
  /** What the result is multiplied by, in percent, to make two motors run alike: 50 to 150. Default 100. */
  readonly trim?: number;
  /** How long the device takes to get there, ms: 0 to 600 000. Told in the hole {ramp}; its reports may take so much longer. */
  readonly rampMs?: number;
}

/**
 * From a level to the device's share of its range.
 *
 * @param level 0 (nothing) to 1 (all)
 * @returns 0 to 1; 0 for nothing only
 * @example shareOut(0.01, { least: 40 }) // → 0.406
 */
export function shareOut(level: number, { least = 0, most = 100, curve = 1, trim = 100 }: Calibration): number {
  if (level <= 0) return 0;
  const useful = least + (most - least) * Math.min(1, level) ** curve;
  return Math.min(1, (useful * trim) / 10_000);
}

/** The least level that is ever written, as a share. */
const FIRST = 0.01;

/**
 * From the device's share of its range back to the level. A share between nothing and the one that is written for 1 % is less than
 * 1 %, in proportion: it is not off, and it is not what is written for any level.
 *
 * @returns 0 to 1
 */
export function shareIn(share: number, calibration: Calibration): number {
  const { least = 0, most = 100, curve = 1, trim = 100 } = calibration;
  if (share <= 0) return 0;
  const first = shareOut(FIRST, calibration);
  if (share < first) return (share / first) * FIRST;
  const useful = (share * 10_000) / trim;
  return Math.min(1, Math.max(0, (useful - least) / (most - least))) ** (1 / curve);
}
