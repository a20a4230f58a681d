/** What a channel can be told or be seen to be, as a value that means the same to every device. */

/** An absolute setpoint or observation: a word, or a number in the unit of its channel's kind. */
export type Value = "on" | "off" | "pulse" | number;

const WORDS: readonly unknown[] = ["on", "off", "pulse"];

/** Whether a decoded payload is a value that some channel can have. */
export function isValue(candidate: unknown): candidate is Value {
  return WORDS.includes(candidate) || (typeof candidate === "number" && Number.isFinite(candidate));
}

/** Whether something is made, lit or moving. */
export function isOn(value: Value): boolean {
  return typeof value === "number" ? value !== 0 : value === "on";
}

/**
 * Whether an observed value is what was commanded.
 *
 * @param tolerance how far two numbers may lie apart, in the channel's unit
 */
export function agrees(observed: Value, commanded: Value, tolerance: number): boolean {
  if (typeof observed === "number" && typeof commanded === "number") return Math.abs(observed - commanded) <= tolerance;
  return observed === commanded;
}

/** As the journal keeps it. @example valueText(35) // → "35" */
export function valueText(value: Value): string {
  return String(value);
}

/**
 * Reads back what `valueText` wrote.
 *
 * @throws RangeError when no value is written so
 */
export function parseValue(text: string): Value {
  if (WORDS.includes(text)) return text as Value;
  const number = text.trim() === "" ? Number.NaN : Number(text);
  if (!Number.isFinite(number)) throw new RangeError(`“${text}” is not the value of a channel`);
  return number;
}
