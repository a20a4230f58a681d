/** A string of lamps, each with a colour of its own. */
import { colour, parseColour } from "./colour.ts";
import type { ChannelKind } from "./kind.ts";
import { type Colour, coloursIn, type Value } from "./value.ts";

/** Colours in one value; a longer string of lamps begins with the first one again. */
export const MOST_COLOURS = 64;

export const lamps: ChannelKind = {
  ...colour,
  name: "lamps",
  about: `a string of lamps with a colour each: one for all, or up to ${MOST_COLOURS} that repeat along it`,
  actions: { ...colour.actions, pattern: { asks: "pattern" } },
  trials: [{ action: "pattern", value: "red, green, blue" }, { action: "colour", value: "#0000ff" }, { action: "off" }],
  control: { ...colour.control, setting: "pattern" },
  suggestedBy: null,
  words(value) {
    const colours = coloursIn(value);
    if (colours.length < 2) return colour.words(value);
    return colours.length > 4 ? `${colours.length} colours` : colours.join(", ");
  },
};

/**
 * Reads colours one after the other, as people and devices write them: "red, green, #0000ff". One alone is a colour.
 *
 * @param readOne reads one colour; a device may write its parts in an order of its own
 * @returns null when one of them is none, or when there are too many
 * @example parsePattern("red, green") // → "#ff0000,#008000"
 */
export function parsePattern(text: string, readOne: (text: string) => Colour | null = parseColour): Value | null {
  const parts = splitColours(text).map((part) => readOne(part));
  if (parts.length === 0 || parts.length > MOST_COLOURS || parts.includes(null)) return null;
  return patternOf(parts as `#${string}`[]);
}

/** All lamps alike are one colour. */
function patternOf(colours: readonly `#${string}`[]): Value {
  const [first = "#000000"] = colours;
  return colours.every((one) => one === first) ? first : (colours.join(",") as Value);
}

/** Semicolons and spaces part colours; so do commas, unless they part the numbers of one. */
function splitColours(text: string): string[] {
  const plain = text.trim();
  if (plain === "") return [];
  if (/^\d{1,3}\s*,\s*\d{1,3}\s*,\s*\d{1,3}(?:\s*;|$)/.test(plain)) return plain.split(";");
  return plain.split(/\s*[,;]\s*|\s+/).filter((part) => part !== "");
}
