/** A lamp whose colour can be set: a stage light, a lamp string. */
import type { ChannelKind } from "./kind.ts";
import { type Colour, isColour } from "./value.ts";

export const colour: ChannelKind = {
  name: "colour",
  about: "a lamp with a colour, as #rrggbb or one of the usual names; #000000 is unlit",
  actions: {
    on: { asks: "to", to: "#ffffff" },
    off: { asks: "to", to: "#000000" },
    colour: { asks: "colour" },
    toggle: { asks: "toggle" },
    back: { asks: "back" },
  },
  range: null,
  full: "#ffffff",
  rest: "#000000",
  repeatable: true,
  restorable: true,
  input: false,
  nouns: [
    ["light", "lights"],
    ["lamp", "lamps"],
  ],
  verbs: {},
  trials: [{ action: "colour", value: "#ff0000" }, { action: "colour", value: "#0000ff" }, { action: "off" }],
  blinks: true,
  control: { keys: ["off", "on"], setting: "colour" },
  answers: "switched",
  seenBy: [],
  suggestedBy: isColour,
  words: (value) => (value === "#000000" ? "unlit" : String(value)),
};

/** The sixteen colour names of HTML 4 and a few that stages use. */
const NAMED: Readonly<Record<string, Colour>> = {
  black: "#000000",
  white: "#ffffff",
  red: "#ff0000",
  lime: "#00ff00",
  green: "#008000",
  blue: "#0000ff",
  yellow: "#ffff00",
  cyan: "#00ffff",
  aqua: "#00ffff",
  magenta: "#ff00ff",
  fuchsia: "#ff00ff",
  silver: "#c0c0c0",
  gray: "#808080",
  grey: "#808080",
  maroon: "#800000",
  olive: "#808000",
  navy: "#000080",
  purple: "#800080",
  teal: "#008080",
  orange: "#ffa500",
  amber: "#ffbf00",
  pink: "#ffc0cb",
};

export const colourNames = Object.keys(NAMED);

export function isColourName(text: string): boolean {
  return Object.hasOwn(NAMED, text.trim().toLowerCase());
}

/**
 * Reads a colour as people and devices write it: a name, #rrggbb, rrggbb, #rgb, or "255, 136, 0".
 *
 * @returns null when it is none of these
 * @example parseColour("Amber") // → "#ffbf00"
 * @example parseColour("255,136,0") // → "#ff8800"
 */
export function parseColour(text: string): Colour | null {
  const plain = text.trim().toLowerCase();
  if (Object.hasOwn(NAMED, plain)) return NAMED[plain] ?? null;
  const parts = /^(\d{1,3})\s*[, ]\s*(\d{1,3})\s*[, ]\s*(\d{1,3})$/.exec(plain);
  if (parts) return colourOf(parts.slice(1).map(Number));
  const hex = plain.replace(/^#/, "");
  const full = hex.length === 3 ? [...hex].map((digit) => digit + digit).join("") : hex;
  const candidate = `#${full}`;
  return isColour(candidate) ? candidate : null;
}

/** @returns null when a part is no whole number from 0 to 255 */
export function colourOf(parts: readonly number[]): Colour | null {
  if (parts.length !== 3 || parts.some((part) => !Number.isInteger(part) || part < 0 || part > 255)) return null;
  return `#${parts.map((part) => part.toString(16).padStart(2, "0")).join("")}`;
}

/** Red, green and blue, 0 to 255 each. */
export function colourParts(value: Colour): [number, number, number] {
  const part = (from: number) => Number.parseInt(value.slice(from, from + 2), 16);
  return [part(1), part(3), part(5)];
}
