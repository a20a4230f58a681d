/**
 * How a device writes values, and how they are read back: its own words for on and off, its own range of numbers, its
 * own way with colours, and which way round it is wired. Shared by all forms of payload; the same settings serve both ways.
 */
import { colourOf, colourParts, isColourName, parseColour } from "../channel/colour.ts";
import { type ChannelKind, takesPatterns } from "../channel/kind.ts";
import { parsePattern } from "../channel/lamps.ts";
import { type Colour, coloursIn, isColour, isPattern, READ, type Value } from "../channel/value.ts";
import { shareIn, shareOut } from "./calibration.ts";
import type { ChannelBinding } from "./codec.ts";
import type { Scalar } from "./word-values.ts";
import { isTurned, readWord, type WordMeaning, wordFor } from "./words.ts";

export type { Scalar } from "./word-values.ts";
export { sameScalar } from "./words.ts";

/** In which order the three parts of a colour stand. */
export const COLOUR_ORDERS = ["rgb", "rbg", "grb", "gbr", "brg", "bgr"] as const;
type ColourOrder = (typeof COLOUR_ORDERS)[number];

export interface Meaning extends WordMeaning {
  /** The device's numbers for the least and the most of the channel's kind; the first may be the larger. */
  readonly range?: readonly [number, number];
  /** Digits after the point in the device's numbers, 0 to 6. Default 0. */
  readonly decimals?: number;
  /**
   * How colours are written: #ff8800, ff8800 or 255,136,0. All of them are read. Default `hash`. Several, of a string of
   * lamps, have commas between them, or semicolons between parts.
   */
  readonly colours?: "hash" | "hex" | "parts";
  /** In which order red, green and blue stand in such a text. Default `rgb`. */
  readonly colourOrder?: ColourOrder;
}

/** @example writeValue(100, { range: [0, 255] }, dimmer) // → 255 */
export function writeValue(value: Value, meaning: Meaning, binding: ChannelBinding): Scalar {
  if (isColour(value)) return writeColour(value, meaning);
  // Where a colour is three numbers, commas part those.
  if (isPattern(value))
    return coloursIn(value)
      .map((colour) => writeColour(colour, meaning))
      .join(meaning.colours === "parts" ? ";" : ",");
  if (typeof value === "number") return writeNumber(value, meaning, binding);
  return value === READ || value === "between" ? value : wordFor(value, meaning, binding);
}

/**
 * @returns null when it is no value of this channel's kind
 * @example readValue("OPEN", { words: { on: "CLOSED", off: "OPEN" } }, relay) // → "off"
 */
export function readValue(raw: unknown, meaning: Meaning, binding: ChannelBinding): Value | null {
  if (typeof raw !== "string" && typeof raw !== "number" && typeof raw !== "boolean") return null;
  const { kind } = binding;
  if (isColour(kind.rest)) return typeof raw === "string" ? readColour(raw, meaning, kind) : null;
  const word = readWord(raw, meaning, binding);
  const counts = kind.range !== null || typeof kind.rest === "number";
  if (!counts) return word;
  if (word === "on") return kind.full;
  if (word === "off") return kind.rest;
  if (word === "stop" && Object.values(kind.actions).some((action) => action.asks === "to" && action.to === word))
    return word;
  if (word !== null) return null;
  const number = readNumber(raw);
  return number === null ? null : scaleIn(number, meaning, binding);
}

/** How far apart two neighbouring numbers of the device lie, in the kind's unit; null: finer than the kind's own. */
export function stepOf(meaning: Meaning, binding: ChannelBinding): number | null {
  const { kind, calibration } = binding;
  if (calibration && kind.range) return calibratedStep(meaning, binding);
  const { range, decimals = 0 } = meaning;
  if (!range || !kind.range) return null;
  const steps = Math.abs(range[1] - range[0]) * 10 ** decimals;
  const span = kind.range.most - kind.range.least;
  return steps === 0 || steps >= span ? null : span / steps;
}

/** With a curve steps differ along the range: the widest counts, found by writing and reading each level. */
function calibratedStep(meaning: Meaning, binding: ChannelBinding): number | null {
  const { least, most } = binding.kind.range ?? { least: 0, most: 0 };
  let widest = 0;
  for (let level = least; level <= most; level += 1) {
    const back = scaleIn(writeNumber(level, meaning, binding), meaning, binding);
    if (back !== null) widest = Math.max(widest, Math.abs(back - level));
  }
  return widest <= 1 ? null : widest;
}

/**
 * Decimal numbers only: no hexadecimal, no exponent, nothing after it. Minus zero is zero.
 *
 * @example readNumber(" 21.5 ") // → 21.5
 * @example readNumber("10abc") // → null
 */
export function readNumber(raw: Scalar): number | null {
  if (typeof raw === "number") return Number.isFinite(raw) ? raw + 0 : null;
  if (typeof raw !== "string") return null;
  const text = raw.trim();
  return /^[-+]?\d{1,9}(?:\.\d{1,6})?$/.test(text) ? Number(text) + 0 : null;
}

/** A level of ours as the device's number: calibrated, turned, then put on its range. Halves are rounded away from zero. */
function writeNumber(value: number, meaning: Meaning, binding: ChannelBinding): number {
  const { range, decimals = 0 } = meaning;
  const { kind, calibration } = binding;
  if (!kind.range) return value;
  const { least, most } = kind.range;
  const [from, to] = range ?? [least, most];
  const turned = isTurned(meaning, binding);
  const raw = (level: number) => {
    const share = (level - least) / (most - least);
    return rounded(from + (turned ? 1 - share : share) * (to - from), decimals);
  };
  if (!calibration || value === 0) return raw(value);
  const sign = Math.sign(value);
  const reach = sign < 0 ? -least : most;
  const number = raw(sign * reach * shareOut(Math.abs(value) / reach, calibration));
  // The least level there is must not be rounded to nothing.
  const nothing = raw(0);
  return number === nothing
    ? rounded(nothing + Math.sign(raw(sign * reach) - nothing) * 10 ** -decimals, decimals)
    : number;
}

function scaleIn(number: number, meaning: Meaning, binding: ChannelBinding): number | null {
  const { kind, calibration } = binding;
  if (!kind.range) return number;
  const { least, most } = kind.range;
  const [from, to] = meaning.range ?? [least, most];
  const share = (number - from) / (to - from);
  // A little beyond is a device that rounds; more is another device, or another range.
  if (!(share >= -0.02 && share <= 1.02)) return null;
  const kept = Math.min(1, Math.max(0, share));
  const level = least + (isTurned(meaning, binding) ? 1 - kept : kept) * (most - least);
  if (!calibration) return rounded(level, 0);
  // Standing may lie between two of the device's numbers: the one that is written for it is it.
  if (least <= 0 && number === writeNumber(0, meaning, binding)) return 0;
  const sign = Math.sign(level);
  const reach = sign < 0 ? -least : most;
  const magnitude = Math.round(shareIn(Math.abs(level) / reach, calibration) * reach);
  return sign === 0 ? 0 : sign * Math.max(1, magnitude);
}

function rounded(number: number, decimals: number): number {
  const factor = 10 ** decimals;
  const scaled = number * factor;
  return (Math.sign(scaled) * Math.round(Math.abs(scaled))) / factor + 0;
}

function writeColour(value: `#${string}`, { colours = "hash", colourOrder = "rgb" }: Meaning): string {
  const parts = inOrder(colourParts(value), colourOrder);
  if (colours === "parts") return parts.join(",");
  const hex = parts.map((part) => part.toString(16).padStart(2, "0")).join("");
  return colours === "hex" ? hex : `#${hex}`;
}

function inOrder(parts: readonly [number, number, number], order: ColourOrder): number[] {
  return [...order].map((letter) => parts["rgb".indexOf(letter)] ?? 0);
}

function readColour(raw: string, { colourOrder = "rgb" }: Meaning, kind: ChannelKind): Value | null {
  const readOne = (text: string) => {
    const found = parseColour(text);
    // A name says its colour whatever the order of the parts; "aabbcc" is no name, though it is letters only.
    return found === null || isColourName(text) ? found : inOurOrder(found, colourOrder);
  };
  return takesPatterns(kind) ? parsePattern(raw, readOne) : readOne(raw);
}

function inOurOrder(found: Colour, order: ColourOrder): Colour | null {
  const parts = colourParts(found);
  return colourOf([..."rgb"].map((letter) => parts[order.indexOf(letter)] ?? 0));
}

/** The parts of a colour that came one by one. */
export function readColourParts(parts: readonly unknown[]): Value | null {
  const numbers = parts.map((part) => (typeof part === "string" || typeof part === "number" ? readNumber(part) : null));
  return numbers.some((part) => part === null) ? null : colourOf(numbers as number[]);
}
