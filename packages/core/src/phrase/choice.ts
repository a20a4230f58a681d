/** The answer to "which one?": a number of the list, or words that only one of them has. */
import type { Choice } from "./reading.ts";
import { nameWords } from "./token.ts";
import { fillers, numberOf } from "./words.ts";

const ORDINALS = ["first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth"];

/**
 * @returns the address of the one that was chosen; null when the words choose none of them, or more than one
 * @example chooseAmong("the one in Finch", choices) // → "alder-row/finch/porch"
 */
export function chooseAmong(answer: string, choices: readonly Choice[]): string | null {
  const words = nameWords(answer).filter((word) => !fillers.has(word) && word !== "one");
  const [word = ""] = words.length === 0 ? nameWords(answer).slice(-1) : words;
  const number = words.length <= 1 ? placeOf(word) : null;
  if (number !== null) return choices[number - 1]?.address ?? null;
  if (words.length === 0) return null;
  const fitting = choices.filter(({ name, address }) => {
    const known = new Set([...nameWords(name), ...nameWords(address.replaceAll("/", " "))]);
    return words.every((one) => known.has(one));
  });
  return fitting.length === 1 ? (fitting[0]?.address ?? null) : null;
}

function placeOf(word: string): number | null {
  const ordinal = ORDINALS.indexOf(word);
  if (ordinal >= 0) return ordinal + 1;
  const number = numberOf(word);
  return number !== null && Number.isInteger(number) && number >= 1 ? number : null;
}
