/** Numbers in a channel's own unit, as a device counts them: readings of sensors and setpoints. Pure. */
import { clampLevel } from "../channel/kind.ts";
import type { ChannelBinding } from "./codec.ts";

export interface ReadingForm {
  /** What one of the device's numbers stands for, in the channel's unit. Default 1. */
  readonly scale?: number;
  /** Added after scaling, in the channel's unit. Default 0. */
  readonly offset?: number;
  /** The device counts mireds, millionths of a kelvin turned over, and the channel kelvins; in place of scale and offset. Default false. */
  readonly mireds?: boolean;
  /** Digits after the point in the device's numbers, 0 to 6. Default: as many as the number has; none of mireds. */
  readonly decimals?: number;
}

/**
 * A number of the device as what it stands for.
 *
 * @example readingOf(215, { scale: 0.1 }) // → 21.5
 * @example readingOf(250, { mireds: true }) // → 4000
 */
function readingOf(number: number, { scale = 1, offset = 0, mireds = false }: ReadingForm): number {
  if (mireds) return kelvinsOf(number);
  return rounded(number * scale + offset);
}

/** Whole kelvins, as long as no two numbers of the device would be the same: up to 999 they lie a kelvin apart or more. */
function kelvinsOf(mireds: number): number {
  const kelvins = 1_000_000 / mireds;
  return mireds > 0 && mireds <= 999 ? Math.round(kelvins) : rounded(kelvins);
}

/** The number that the device writes for it. */
export function writtenReading(value: number, form: ReadingForm): number {
  const { scale = 1, offset = 0, mireds = false, decimals = mireds ? 0 : null } = form;
  const raw = rounded(mireds ? 1_000_000 / value : (value - offset) / scale);
  if (decimals === null) return raw;
  const factor = 10 ** decimals;
  return (Math.sign(raw) * Math.round(Math.abs(raw) * factor)) / factor + 0;
}

/**
 * A number of the device as a value of the channel. Where just this number is written for a step of a setpoint's range, it is that
 * step: 370 mireds are 2 700 K to a lamp that takes hundreds.
 *
 * @returns null when it stands for nothing
 */
export function readReading(number: number, form: ReadingForm, { kind }: Pick<ChannelBinding, "kind">): number | null {
  const exact = readingOf(number, form);
  if (!Number.isFinite(exact)) return null;
  const near = kind.range ? clampLevel(kind, exact) : exact;
  return writtenReading(near, form) === number ? near : exact;
}

/** Between which values a report must lie to be a setpoint. @param tolerance in the device's own numbers */
export function spanOfReading(
  value: number,
  tolerance: number,
  form: ReadingForm,
  binding: Pick<ChannelBinding, "kind">,
): readonly [least: number, most: number] {
  const raw = writtenReading(value, form);
  const ends = [raw - tolerance, raw + tolerance].map((number) => readReading(number, form, binding) ?? value);
  return [Math.min(...ends), Math.max(...ends)];
}

/** Ten digits are more than any device has, and hide what binary fractions add. Minus zero is zero. */
function rounded(number: number): number {
  return Number(number.toPrecision(10)) + 0;
}
