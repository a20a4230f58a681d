/**
 * How a device writes values, and how they are read back: its own words for on and off, its own range of numbers, its
 * own way with colours, and which way round it is wired. Shared by all forms of payload; the same settings serve both ways.
 */
import { colourOf, colourParts, parseColour } from "../channel/colour.ts";
import { parsePattern } from "../channel/lamps.ts";
import { coloursIn, isColour, isPattern, READ, type Value } from "../channel/value.ts";
import type { Seat } from "./codec.ts";

/** A single thing in a payload. */
export type Scalar = string | number | boolean;

export interface Meaning {
  /** What the device writes instead of on, off, pulse and stop. Read whatever the case, with spaces around. */
  readonly words?: Partial<Record<"on" | "off" | "pulse" | "stop", Scalar>>;
  /** The device's numbers for the least and the most of the channel's kind; the first may be the larger. */
  readonly range?: readonly [number, number];
  /** Digits after the point in the device's numbers, 0 to 6. Default 0. */
  readonly decimals?: number;
  /**
   * How colours are written: #ff8800, ff8800 or 255,136,0. All of them are read. Default `hash`. Several, of a string of
   * lamps, have commas between them, or semicolons between parts.
   */
  readonly colours?: "hash" | "hex" | "parts";
}

/** @example writeValue(100, { range: [0, 255] }, dimmerSeat) // → 255 */
export function writeValue(value: Value, meaning: Meaning, seat: Seat): Scalar {
  if (isColour(value)) return writeColour(value, meaning);
  // Where a colour is three numbers, commas part those.
  if (isPattern(value))
    return coloursIn(value)
      .map((colour) => writeColour(colour, meaning))
      .join(meaning.colours === "parts" ? ";" : ",");
  if (typeof value === "number") return writeNumber(value, meaning, seat);
  return value === READ ? value : (wordFor(value, meaning, seat) ?? value);
}

/**
 * @returns null when it is no value of this channel's kind
 * @example readValue("OPEN", { words: { on: "CLOSED", off: "OPEN" } }, relaySeat) // → "off"
 */
export function readValue(raw: unknown, meaning: Meaning, seat: Seat): Value | null {
  if (typeof raw !== "string" && typeof raw !== "number" && typeof raw !== "boolean") return null;
  const { kind } = seat;
  if (isColour(kind.rest)) {
    const parse = kind.name === "lamps" ? parsePattern : parseColour;
    return typeof raw === "string" ? parse(raw) : null;
  }
  const word = readWord(raw, meaning, seat);
  const counts = kind.range !== null || typeof kind.rest === "number";
  if (!counts) return word;
  if (word === "on") return kind.full;
  if (word === "off") return kind.rest;
  if (word === "stop" && Object.values(kind.actions).some((action) => action.asks === "to" && action.to === word))
    return word;
  if (word !== null) return null;
  const number = readNumber(raw);
  return number === null ? null : scaleIn(number, meaning, seat);
}

/** How far apart two neighbouring numbers of the device lie, in the kind's unit; null: finer than the kind's own. */
export function stepOf({ range, decimals = 0 }: Meaning, { kind }: Seat): number | null {
  if (!range || !kind.range) return null;
  const steps = Math.abs(range[1] - range[0]) * 10 ** decimals;
  const span = kind.range.most - kind.range.least;
  return steps === 0 || steps >= span ? null : span / steps;
}

/** Whole words that may be compared whatever their case. */
export function sameScalar(one: unknown, other: Scalar): boolean {
  if (typeof one === "string" || typeof other === "string") {
    if (typeof one === "symbol" || typeof one === "object") return false;
    return String(one).trim().toLowerCase() === String(other).trim().toLowerCase();
  }
  return one === other;
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

function wordFor(value: "on" | "off" | "pulse" | "stop", { words }: Meaning, { reversed }: Seat): Scalar | undefined {
  if (!reversed || (value !== "on" && value !== "off")) return words?.[value];
  const turned = value === "on" ? "off" : "on";
  return words?.[turned] ?? turned;
}

function readWord(raw: Scalar, meaning: Meaning, seat: Seat): "on" | "off" | "pulse" | "stop" | null {
  for (const value of ["on", "off", "pulse", "stop"] as const) {
    if (sameScalar(raw, wordFor(value, meaning, seat) ?? value)) return value;
  }
  return null;
}

function writeNumber(value: number, meaning: Meaning, { kind, reversed }: Seat): number {
  const { range, decimals = 0 } = meaning;
  if (!kind.range) return value;
  const { least, most } = kind.range;
  const [from, to] = range ?? [least, most];
  const share = (value - least) / (most - least);
  return rounded(from + (reversed ? 1 - share : share) * (to - from), decimals);
}

function scaleIn(number: number, { range }: Meaning, { kind, reversed }: Seat): number | null {
  if (!kind.range) return number;
  const { least, most } = kind.range;
  const [from, to] = range ?? [least, most];
  const share = (number - from) / (to - from);
  // A little beyond is a device that rounds; more is another device, or another range.
  if (!(share >= -0.02 && share <= 1.02)) return null;
  const kept = Math.min(1, Math.max(0, share));
  return rounded(least + (reversed ? 1 - kept : kept) * (most - least), 0);
}

function rounded(number: number, decimals: number): number {
  const factor = 10 ** decimals;
  return Math.round(number * factor) / factor + 0;
}

function writeColour(value: `#${string}`, { colours = "hash" }: Meaning): string {
  if (colours === "hash") return value;
  return colours === "hex" ? value.slice(1) : colourParts(value).join(",");
}

/** The parts of a colour that came one by one. */
export function readColourParts(parts: readonly unknown[]): Value | null {
  const numbers = parts.map((part) => (typeof part === "string" || typeof part === "number" ? readNumber(part) : null));
  return numbers.some((part) => part === null) ? null : colourOf(numbers as number[]);
}
