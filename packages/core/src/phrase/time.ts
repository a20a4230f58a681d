/** Lengths of time as people say them: "5 minutes", "an hour and a half", "1 h 30 min", "half a minute". */
import type { Token } from "./token.ts";
import { numberOf, timeUnits } from "./words.ts";

export interface TimeFound {
  /** ms */
  readonly ms: number;
  /** The first token after it. */
  readonly end: number;
}

/** @returns null when no length of time begins at the token */
export function timeAt(tokens: readonly Token[], from: number): TimeFound | null {
  let found = partAt(tokens, from);
  while (found) {
    const more = nextPart(tokens, found.end);
    if (!more) return found;
    found = { ms: found.ms + more.ms, end: more.end };
  }
  return found;
}

/** "30 min" after "1 h", with or without "and". */
function nextPart(tokens: readonly Token[], at: number): TimeFound | null {
  return partAt(tokens, tokens[at]?.text === "and" ? at + 1 : at);
}

function partAt(tokens: readonly Token[], at: number): TimeFound | null {
  const word = (offset: number) => tokens[at + offset]?.text ?? "";
  const unitAt = (offset: number) => timeUnits.get(word(offset));
  if (word(0) === "half" && isA(word(1))) return partOf(0.5, unitAt(2), at + 3);
  if (word(0) === "half") return partOf(0.5, unitAt(1), at + 2);
  if (isA(word(0)) && word(1) === "quarter" && word(2) === "of" && isA(word(3))) return partOf(0.25, unitAt(4), at + 5);
  if (isA(word(0)) && word(1) === "half") return partOf(0.5, unitAt(2), at + 3);
  const number = isA(word(0)) ? 1 : numberOf(word(0));
  if (number === null) return null;
  // "one and a half hours"
  if (isAndHalf(tokens, at + 1)) {
    const whole = partOf(number + 0.5, unitAt(4), at + 5);
    if (whole) return whole;
  }
  const unit = unitAt(1);
  const part = partOf(number, unit, at + 2);
  // "an hour and a half"
  const isHalfMore = part !== null && isAndHalf(tokens, at + 2) && !timeUnits.has(tokens[at + 5]?.text ?? "");
  return isHalfMore ? partOf(number + 0.5, unit, at + 5) : part;
}

function partOf(number: number, unit: number | undefined, end: number): TimeFound | null {
  return unit === undefined ? null : { ms: number * unit, end };
}

function isAndHalf(tokens: readonly Token[], at: number): boolean {
  return tokens[at]?.text === "and" && isA(tokens[at + 1]?.text ?? "") && tokens[at + 2]?.text === "half";
}

function isA(word: string): boolean {
  return word === "a" || word === "an";
}
