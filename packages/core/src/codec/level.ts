/**
 * Levels as a device's own numbers, both ways. Reading is exact: two numbers of the device are never the same level, so that what a
 * report says is compared on the device's own scale. A whole level is read only where exactly this number is written for it.
 */
import { shareIn, shareOut } from "./calibration.ts";
import type { ChannelBinding } from "./codec.ts";
import { isTurned, type WordMeaning } from "./words.ts";

export interface NumberMeaning extends WordMeaning {
  /** The device's numbers for the least and the most of the channel's kind; the first may be the larger. */
  readonly range?: readonly [number, number];
  /** Digits after the point in the device's numbers, 0 to 6. Default 0, of readings and setpoints as many as they have. */
  readonly decimals?: number;
}

/** Both ends belong to it. */
export type Span = readonly [least: number, most: number];

/**
 * A level as the device's number: calibrated, turned, then put on its range. Halves are rounded away from zero. Only nothing is
 * written as nothing: 1 % of a device with few steps is its first step.
 *
 * @example writeLevel(50, { range: [0, 255] }, dimmer) // → 128
 */
export function writeLevel(value: number, meaning: NumberMeaning, binding: ChannelBinding): number {
  const { kind, calibration } = binding;
  if (!kind.range) return value;
  const raw = (level: number) => rawOf(level, meaning, binding);
  const { least, most } = kind.range;
  if (value === 0 || least > 0) return raw(value);
  const reach = value < 0 ? -least : most;
  const share = calibration ? shareOut(Math.abs(value) / reach, calibration) : Math.abs(value) / reach;
  const number = raw(Math.sign(value) * reach * share);
  const nothing = raw(0);
  if (number !== nothing) return number;
  const step = 10 ** -(meaning.decimals ?? 0);
  return rounded(nothing + Math.sign(raw(Math.sign(value) * reach) - nothing) * step, meaning.decimals ?? 0);
}

/**
 * The device's number as a level. A number that is not written for any whole level is read with digits after the point.
 *
 * @returns null when it lies outside the device's range
 * @example readLevel(128, { range: [0, 255] }, dimmer) // → 50
 * @example readLevel(127, { range: [0, 255] }, dimmer) // → 49.8
 */
export function readLevel(number: number, meaning: NumberMeaning, binding: ChannelBinding): number | null {
  const { kind } = binding;
  if (!kind.range) return number;
  const exact = exactLevel(number, meaning, binding);
  if (exact === null) return null;
  const isWritten = (level: number) => writeLevel(level, meaning, binding) === number;
  for (const near of [Math.round(exact), Math.floor(exact), Math.ceil(exact)])
    if (near >= kind.range.least && near <= kind.range.most && isWritten(near)) return near + 0;
  for (const digits of [1, 2, 3]) {
    const near = rounded(exact, digits);
    if (!Number.isInteger(near)) return near;
  }
  // Exactly a whole level, for which another number is written: a little beside it.
  return rounded(exact - Math.sign(exact) * 0.001, 3);
}

/** The level that the number stands for which is written for a level, unrounded. @example of [0, 10]: 45 → 5 → 50 */
export function levelWritten(level: number, meaning: NumberMeaning, binding: ChannelBinding): number {
  return exactLevel(writeLevel(level, meaning, binding), meaning, binding) ?? level;
}

/**
 * Between which levels a report must lie to be a level: the number that is written for it, give or take the tolerance.
 *
 * @param tolerance in the device's own numbers
 */
export function spanAround(level: number, tolerance: number, meaning: NumberMeaning, binding: ChannelBinding): Span {
  const raw = writeLevel(level, meaning, binding);
  const [from, to] = rangeOf(meaning, binding);
  const [low, high] = [Math.min(from, to), Math.max(from, to)];
  const ends = [Math.max(low, raw - tolerance), Math.min(high, raw + tolerance)].map(
    (number) => readLevel(number, meaning, binding) ?? level,
  );
  return [Math.min(...ends), Math.max(...ends)];
}

function rangeOf({ range }: NumberMeaning, { kind }: ChannelBinding): readonly [number, number] {
  return range ?? [kind.range?.least ?? 0, kind.range?.most ?? 0];
}

function rawOf(level: number, meaning: NumberMeaning, binding: ChannelBinding): number {
  const { least, most } = binding.kind.range ?? { least: 0, most: 1 };
  const [from, to] = rangeOf(meaning, binding);
  const share = (level - least) / (most - least);
  return rounded(from + (isTurned(meaning, binding) ? 1 - share : share) * (to - from), meaning.decimals ?? 0);
}

function exactLevel(number: number, meaning: NumberMeaning, binding: ChannelBinding): number | null {
  const { kind, calibration } = binding;
  const { least, most } = kind.range ?? { least: 0, most: 1 };
  const [from, to] = rangeOf(meaning, binding);
  const share = (number - from) / (to - from);
  if (!(share >= 0 && share <= 1)) return null;
  const level = least + (isTurned(meaning, binding) ? 1 - share : share) * (most - least);
  // Standing may lie between two of the device's numbers: the one that is written for it is it.
  if (least <= 0 && number === rawOf(0, meaning, binding)) return 0;
  if (!calibration) return level;
  const sign = Math.sign(level);
  const reach = sign < 0 ? -least : most;
  return sign * reach * shareIn(Math.abs(level) / reach, calibration);
}

function rounded(number: number, decimals: number): number {
  const factor = 10 ** decimals;
  const scaled = number * factor;
  return (Math.sign(scaled) * Math.round(Math.abs(scaled))) / factor + 0;
}
