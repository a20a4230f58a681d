/**
 * How a device writes values, and how they are read back: its own words for on and off, its own range of numbers, its
 * own way with colours, and which way round it is wired. Shared by all forms of payload; the same settings serve both ways.
 */
import { colourOf, colourParts, isColourName, parseColour } from "../channel/colour.ts";
import { type ChannelKind, countsNumbers, takesPatterns } from "../channel/kind.ts";
import { parsePattern } from "../channel/lamps.ts";
import { type Colour, coloursIn, isColour, isPattern, READ, type Value } from "../channel/value.ts";
import { type BitForm, bitFor, readBit } from "./bits.ts";
import type { ChannelBinding, LevelScale } from "./codec.ts";
import { colourFromHsv, type HsvForm, hsvOf } from "./hsv.ts";
import { levelWritten, type NumberMeaning, readLevel, spanAround, writeLevel } from "./level.ts";
import { type NumberForm, numberText, readNumberText } from "./number-text.ts";
import { type ReadingForm, readReading, spanOfReading, writtenReading } from "./reading.ts";
import type { Scalar, WordValue } from "./word-values.ts";
import { hasWordFor, readWord, wordFor } from "./words.ts";

export type { Scalar } from "./word-values.ts";
export { sameScalar } from "./words.ts";

/** In which order the three parts of a colour stand. */
export const COLOUR_ORDERS = ["rgb", "rbg", "grb", "gbr", "brg", "bgr"] as const;
type ColourOrder = (typeof COLOUR_ORDERS)[number];

export interface Meaning extends NumberMeaning, NumberForm, ReadingForm, HsvForm, BitForm {
  /**
   * How colours are written: #ff8800, ff8800 or 255,136,0. All of these are read. Default `hash`. Several, of a string of
   * lamps, have commas between them, or semicolons between parts. `hsv`: hue, saturation and brightness, 32,100,100, and nothing else.
   */
  readonly colours?: "hash" | "hex" | "parts" | "hsv";
  /** In which order red, green and blue stand in such a text. Default `rgb`. */
  readonly colourOrder?: ColourOrder;
}

/** @example writeValue(100, { range: [0, 255] }, dimmer) // → 255 */
export function writeValue(value: Value, meaning: Meaning, binding: ChannelBinding): Scalar {
  if (meaning.bits && (value === "on" || value === "off"))
    return numberText((binding.others ?? 0) + bitFor(value, meaning, binding), meaning);
  if (isColour(value)) return writeColour(value, meaning);
  // Where a colour is three numbers, commas part those.
  if (isPattern(value))
    return coloursIn(value)
      .map((colour) => writeColour(colour, meaning))
      .join(meaning.colours === "parts" || meaning.colours === "hsv" ? ";" : ",");
  if (typeof value === "number") {
    const end = endOf(value, binding);
    return end !== null && hasWordFor(end, meaning, binding)
      ? wordFor(end, meaning, binding)
      : numberText(numberFor(value, meaning, binding), meaning);
  }
  return value === READ || value === "between" ? value : wordFor(value, meaning, binding);
}

function numberFor(value: number, meaning: Meaning, binding: ChannelBinding): number {
  return countsNumbers(binding.kind) ? writtenReading(value, meaning) : writeLevel(value, meaning, binding);
}

/** What a level is called where the device has a word for it. */
function endOf(level: number, { kind }: ChannelBinding): WordValue | null {
  const travels = kind.answers === "opening" || "stop" in kind.actions;
  if (!travels || !kind.range) return null;
  if (level === kind.range.most) return "open";
  if (level === kind.range.least) return "shut";
  return level === kind.rest ? "stop" : null;
}

/**
 * How levels and colours are compared with what is reported: see `ChannelCodec`.
 *
 * @param countsHue whether colours are told as hue, saturation and brightness
 */
export function levelsOf(meaning: Meaning, binding: ChannelBinding, countsHue = meaning.colours === "hsv"): LevelScale {
  const isCounted = countsNumbers(binding.kind);
  return {
    levelWritten: (level) =>
      isCounted
        ? (readReading(writtenReading(level, meaning), meaning, binding) ?? level)
        : levelWritten(level, meaning, binding),
    spanAround: (level, tolerance) =>
      isCounted ? spanOfReading(level, tolerance, meaning, binding) : spanAround(level, tolerance, meaning, binding),
    colourWritten: (colour) => (countsHue ? (colourFromHsv(hsvOf(colour, meaning), meaning) ?? colour) : colour),
  };
}

/**
 * @returns null when it is no value of this channel's kind
 * @example readValue("OPEN", { words: { on: "CLOSED", off: "OPEN" } }, relay) // → "off"
 */
export function readValue(raw: unknown, meaning: Meaning, binding: ChannelBinding): Value | null {
  if (typeof raw !== "string" && typeof raw !== "number" && typeof raw !== "boolean") return null;
  const { kind } = binding;
  if (meaning.bits) return bitIn(raw, meaning, binding);
  if (isColour(kind.rest)) return typeof raw === "string" ? readColour(raw, meaning, kind) : null;
  if (countsNumbers(kind)) {
    const number = readNumberText(raw, meaning);
    return number === null ? null : readReading(number, meaning, binding);
  }
  const word = readWord(raw, meaning, binding);
  if (kind.range === null) return isSwitched(word) ? word : null;
  // A number of the range is a level, also where it is the word for on.
  const number = readNumberText(raw, meaning);
  const level = number === null ? null : readLevel(number, meaning, binding);
  return level === null && word !== null ? levelOfWord(word, kind) : level;
}

/** Only what is on or off has room in a bit. */
function bitIn(raw: Scalar, meaning: Meaning, binding: ChannelBinding): Value | null {
  const number = binding.kind.range === null ? readNumberText(raw, meaning) : null;
  return number === null ? null : readBit(number, meaning, binding);
}

/** See `ChannelCodec.bitOf`. */
export function bitOf(
  meaning: Meaning,
  binding: ChannelBinding,
  tellsAll = meaning.bits === true,
): ((value: Value) => number) | null {
  if (!tellsAll) return null;
  return (value) => (value === "on" || value === "off" ? bitFor(value, meaning, binding) : 0);
}

/** A channel with what the others add to a number that tells all. */
export function beside(binding: ChannelBinding, others: number | undefined): ChannelBinding {
  return others === undefined ? binding : { ...binding, others };
}

function isSwitched(word: WordValue | null): word is "on" | "off" | "pulse" {
  return word === "on" || word === "off" || word === "pulse";
}

/** On tells that it is lit or not shut, and no level. */
function levelOfWord(word: WordValue, { range, rest, answers, actions }: ChannelKind): Value | null {
  if (word === "off") return rest;
  if (word === "open") return range?.most ?? null;
  if (word === "shut") return range?.least ?? null;
  if (word === "on" || word === "moving") return word;
  if (word !== "stop" || !("stop" in actions)) return null;
  return answers === "opening" ? word : rest;
}

/**
 * A plain decimal number, whatever form the device's values have.
 *
 * @example readNumber(" 21.5 ") // → 21.5
 * @example readNumber("10abc") // → null
 */
export function readNumber(raw: Scalar): number | null {
  return readNumberText(raw, {});
}

function writeColour(value: `#${string}`, meaning: Meaning): string {
  const { colours = "hash", colourOrder = "rgb" } = meaning;
  if (colours === "hsv") return hsvOf(value, meaning).join(",");
  const parts = inOrder(colourParts(value), colourOrder);
  if (colours === "parts") return parts.join(",");
  const hex = parts.map((part) => part.toString(16).padStart(2, "0")).join("");
  return colours === "hex" ? hex : `#${hex}`;
}

function inOrder(parts: readonly [number, number, number], order: ColourOrder): number[] {
  return [...order].map((letter) => parts["rgb".indexOf(letter)] ?? 0);
}

function readColour(raw: string, meaning: Meaning, kind: ChannelKind): Value | null {
  const { colourOrder = "rgb" } = meaning;
  const readOne = (text: string) => {
    if (meaning.colours === "hsv") return colourFromHsv(text.split(",").map(readNumber), meaning);
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
