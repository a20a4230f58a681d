/** What a number in a phrase counts: "50 %", "21.5 degrees", "2700 K". A number with a unit is for a channel that has that unit. */
import { kindOf } from "../channel/index.ts";
import type { ChannelEntry } from "../site/entry.ts";
import type { Token } from "./token.ts";
import { nameAt, type Vocabulary } from "./vocabulary.ts";

/** "°": degrees of whatever scale the channel has. */
export type SaidUnit = "%" | "°" | "°C" | "°F" | "K";

const UNITS: Readonly<Record<string, SaidUnit>> = {
  "%": "%",
  percent: "%",
  "°": "°",
  degree: "°",
  degrees: "°",
  celsius: "°C",
  fahrenheit: "°F",
  kelvin: "K",
  kelvins: "K",
};
/** Only after a number, and only where no name begins: "lamp 5 C" may be in room C. */
const LETTERS: Readonly<Record<string, SaidUnit>> = { c: "°C", f: "°F", k: "K" };

/** @returns null where no unit stands at the token */
export function unitAt(tokens: readonly Token[], at: number, vocabulary: Vocabulary) {
  const word = (offset: number) => tokens[at + offset]?.text ?? "";
  const letterAt = (offset: number) => (nameAt(vocabulary, tokens, at + offset) ? undefined : LETTERS[word(offset)]);
  const first = UNITS[word(0)] ?? letterAt(0);
  if (first !== "°") return first === undefined ? null : { unit: first, end: at + 1 };
  const second = UNITS[word(1)] ?? letterAt(1);
  return second === "°C" || second === "°F" ? { unit: second, end: at + 2 } : { unit: first, end: at + 1 };
}

/** Whether a number that was said in a unit is one for this channel. */
export function suitsUnit(said: SaidUnit | null, { kind, unit }: Pick<ChannelEntry, "kind" | "unit">): boolean {
  if (said === null) return true;
  const own = (unit ?? kindOf(kind).range?.unit ?? "").toLowerCase();
  if (said === "°") return own.startsWith("°") || own === "c" || own === "f";
  return own.replace("°", "") === said.toLowerCase().replace("°", "");
}
