/**
 * A device's own words for on, off, pulse and stop. They are compared exactly first; without regard to case only where no other
 * word of the device differs from it by case alone. A profile may list words channel by channel: "A" and "a" are the first's,
 * "B" and "b" the second's.
 */
import type { ChannelBinding } from "./codec.ts";
import { type Scalar, WORD_VALUES, type Words, type WordValue } from "./word-values.ts";

/** For all channels, or for each by its place on the device. */
export type WordSettings = Words | readonly Words[];

export interface WordMeaning {
  readonly words?: WordSettings;
  /** On is off and off is on, in this direction; beside `reversed` of the channel, which turns both. */
  readonly turned?: boolean;
}

/** The word that is told for a value of this channel. */
export function wordFor(value: WordValue, meaning: WordMeaning, binding: ChannelBinding): Scalar {
  return wordsFor(value, meaning, binding)[0] ?? value;
}

/** All words that are read as a value of this channel, the one that is told first. */
function wordsFor(value: WordValue, meaning: WordMeaning, binding: ChannelBinding): readonly Scalar[] {
  const name = isTurned(meaning, binding) ? (OTHER[value] ?? value) : value;
  return allOf(wordsOf(meaning, binding)[name]) ?? [name];
}

/** Whether the device has a word of its own for this. */
export function hasWordFor(value: WordValue, meaning: WordMeaning, binding: ChannelBinding): boolean {
  const name = isTurned(meaning, binding) ? (OTHER[value] ?? value) : value;
  return wordsOf(meaning, binding)[name] !== undefined;
}

/** What a value is where it is wired the other way round. */
const OTHER: Partial<Record<WordValue, WordValue>> = { on: "off", off: "on", open: "shut", shut: "open" };

function allOf(words: Scalar | readonly Scalar[] | undefined): readonly Scalar[] | undefined {
  return isScalarList(words) || words === undefined ? words : [words];
}

function isScalarList(words: Scalar | readonly Scalar[] | undefined): words is readonly Scalar[] {
  return Array.isArray(words);
}

/** Whether values are the other way round in this direction. */
export function isTurned({ turned = false }: WordMeaning, { reversed }: ChannelBinding): boolean {
  return turned !== reversed;
}

/** @returns null when it is no word of this channel */
export function readWord(raw: Scalar, meaning: WordMeaning, binding: ChannelBinding): WordValue | null {
  const spoken = spokenBy(binding);
  const saying = (isWord: (word: Scalar) => boolean) =>
    spoken.find((value) => wordsFor(value, meaning, binding).some(isWord)) ?? null;
  const exact = saying((word) => isSame(raw, word));
  if (exact !== null || typeof raw !== "string" || !ignoresCase(meaning, binding)) return exact;
  return saying((word) => sameScalar(raw, word));
}

/** Whether it is a word of another channel of this device, by the profile's list. */
export function isOthersWord(raw: unknown, { words }: WordMeaning, { place = 0, words: own }: ChannelBinding): boolean {
  if (!isList(words) || own !== undefined) return false;
  return words.some((one, at) => at !== place && everyWord(one).some((word) => isSame(raw, word)));
}

/** Whether the words alone tell which channel is meant. */
export function wordsNameChannel({ words }: WordMeaning): boolean {
  if (!isList(words) || words.length < 2) return false;
  const all = words.flatMap((one) => everyWord(one).map(textOf));
  return new Set(all).size === all.length;
}

/**
 * What makes words ambiguous, in words for whoever wrote them; empty when nothing does.
 *
 * @example wordConflicts({ words: { on: "1", off: "1" } }, relay) // → ["on and off are both written 1"]
 */
export function wordConflicts(meaning: WordMeaning, binding: ChannelBinding): string[] {
  const values = spokenBy(binding);
  return values.flatMap((one, at) =>
    values.slice(at + 1).flatMap((other) => {
      const others = wordsFor(other, meaning, binding).map(textOf);
      const both = wordsFor(one, meaning, binding).find((word) => others.includes(textOf(word)));
      return both === undefined ? [] : [`${one} and ${other} are both written ${JSON.stringify(both)}`];
    }),
  );
}

/** The same whatever the case, with spaces around. */
export function sameScalar(one: unknown, other: Scalar): boolean {
  if (typeof one === "string" || typeof other === "string") {
    if (typeof one === "symbol" || typeof one === "object") return false;
    return String(one).trim().toLowerCase() === String(other).trim().toLowerCase();
  }
  return one === other;
}

/** One of a list, exactly, or without regard to case where no other of the lists differs from it by case alone. */
export function isOneOf(raw: unknown, list: readonly Scalar[], others: readonly Scalar[]): boolean {
  if (list.some((one) => isSame(raw, one))) return true;
  if (others.some((one) => isSame(raw, one)) || others.some((one) => sameScalar(raw, one))) return false;
  return list.some((one) => sameScalar(raw, one));
}

function isSame(raw: unknown, word: Scalar): boolean {
  if (typeof raw === "string" || typeof word === "string")
    return typeof raw !== "symbol" && typeof raw !== "object" && String(raw).trim() === String(word).trim();
  return raw === word;
}

/** The words that a kind can be told or be seen to be. */
function spokenBy({ kind }: ChannelBinding): readonly WordValue[] {
  if (kind.answers === "opening") return ["on", "off", "stop", "open", "shut", "moving"];
  if (kind.range !== null || typeof kind.rest === "number")
    return "stop" in kind.actions ? ["on", "off", "stop", "open", "shut"] : ["on", "off", "stop"];
  return kind.repeatable ? ["on", "off"] : ["pulse", "on", "off"];
}

function wordsOf({ words = {} }: WordMeaning, { place = 0, words: own }: ChannelBinding): Words {
  if (own !== undefined) return own;
  return isList(words) ? (words[place] ?? {}) : words;
}

/** Whether "on" may be read where "ON" is written: no two words of the device differ by case alone. */
function ignoresCase(meaning: WordMeaning, binding: ChannelBinding): boolean {
  const { words = {} } = meaning;
  const lists = binding.words !== undefined ? [binding.words] : isList(words) ? words : [words];
  const all = lists.flatMap((one) => WORD_VALUES.flatMap((value) => (allOf(one[value]) ?? [value]).map(textOf)));
  const distinct = new Set(all);
  return new Set([...distinct].map((word) => word.toLowerCase())).size === distinct.size;
}

function everyWord(words: Words): Scalar[] {
  return WORD_VALUES.flatMap((value) => allOf(words[value]) ?? []);
}

function isList(words: WordSettings | undefined): words is readonly Words[] {
  return Array.isArray(words);
}

function textOf(word: Scalar): string {
  return String(word).trim();
}
