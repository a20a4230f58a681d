/** What a channel can be told or be seen to be, as a value that means the same to every device. */

/** "#rrggbb" in small letters; of a string of lamps several, "#rrggbb,#rrggbb", which repeat along it. */
export type Colour = `#${string}`;

/**
 * An absolute setpoint or observation: a word, a colour, or a number in the unit of its channel's kind. "stop" is a
 * setpoint only: stand wherever you are. "read" is none: it asks the device to say what it is. "between" and "moving" are seen only:
 * neither shut nor open, or on the way, and nobody can say how far. "on" of what has levels is seen only, too: no level was reported.
 */
export type Value = "on" | "off" | "pulse" | "stop" | "between" | "moving" | typeof READ | Colour | number;

/** What a command asks for that changes nothing. No device can ever be seen to be this. */
export const READ = "read";

const WORDS: readonly unknown[] = ["on", "off", "pulse", "stop", "between", "moving"];
const UNLIT: Colour = "#000000";

export function isColour(candidate: unknown): candidate is Colour {
  return typeof candidate === "string" && /^#[0-9a-f]{6}$/.test(candidate);
}

const PATTERN = /^#[0-9a-f]{6}(?:,#[0-9a-f]{6}){1,63}$/;

/** Whether it is more than one colour, for the lamps of a string one after the other. */
export function isPattern(candidate: unknown): candidate is Colour {
  return typeof candidate === "string" && PATTERN.test(candidate);
}

/** The colours of a value, in order: one, or those of a pattern; none where it has none. */
export function coloursIn(value: unknown): Colour[] {
  if (isColour(value)) return [value];
  return isPattern(value) ? (value.split(",") as Colour[]) : [];
}

/** Whether a decoded payload is a value that some channel can have. */
export function isValue(candidate: unknown): candidate is Value {
  if (typeof candidate === "number") return Number.isFinite(candidate);
  return WORDS.includes(candidate) || isColour(candidate) || isPattern(candidate);
}

/** Whether something is made, lit, moving, or not shut. */
export function isOn(value: Value): boolean {
  if (typeof value === "number") return value !== 0;
  return (
    value === "on" || value === "between" || value === "moving" || coloursIn(value).some((colour) => colour !== UNLIT)
  );
}

/** What of a device's reports is a setpoint: numbers within a span, or another colour than the commanded one; null: the setpoint itself. */
export type Accepted = readonly [least: number, most: number] | Colour | null;

/** Whether an observed value is what was commanded. Commanded to stop, a channel may stand anywhere. */
export function agrees(observed: Value, commanded: Value, accepted: Accepted): boolean {
  if (typeof observed === "number" && typeof commanded === "number") {
    // However coarse a device is: what stands or is unlit is not what was commanded to move or to be lit.
    if (observed === 0 && commanded !== 0) return false;
    if (accepted === null || typeof accepted === "string") return observed === commanded;
    return observed >= accepted[0] && observed <= accepted[1];
  }
  if (typeof accepted === "string") return observed === accepted;
  return observed === commanded || (commanded === "stop" && typeof observed === "number");
}

/** Whether it stands between its two ends, or is on the way to one. */
export function isMidway(value: Value): boolean {
  if (typeof value === "number") return value > 0 && value < 100;
  return value === "between" || value === "moving";
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
  if (isValue(text) || text === READ) return text;
  const number = text.trim() === "" ? Number.NaN : Number(text);
  if (!Number.isFinite(number)) throw new RangeError(`“${text}” is not the value of a channel`);
  return number;
}
