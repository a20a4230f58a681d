/**
 * Which channels a phrase with holes may mean. Words that stand in it and belong to the grammar say nothing about that; every other word has to
 * be one of the channel's own, or of its room, site, device, group or scene. A value that brings words of the grammar itself could mean more.
 */
import { tokensOf } from "../phrase/token.ts";
import {
  conditions,
  everything,
  exceptions,
  fillers,
  kindWords,
  negations,
  pronouns,
  splitters,
  timeUnits,
  verbs,
} from "../phrase/words.ts";

/** What a part of a phrase wants of a name. */
interface Wanted {
  readonly words: readonly string[];
  /** Kinds of channels that its nouns name; a name may have the noun in it just as well. */
  readonly nouns: readonly string[];
  readonly hasHole: boolean;
}

/** A channel, a group or a scene, as far as words go. */
export interface Worded {
  readonly words: ReadonlySet<string>;
  /** null: a group or a scene. */
  readonly kind: string | null;
}

const HOLE_WORD = "holeofaroute";
const GRAMMAR: readonly { has(word: string): boolean }[] = [
  verbs,
  fillers,
  negations,
  conditions,
  exceptions,
  everything,
  pronouns,
  timeUnits,
];

/**
 * @param synonyms words of the inlet's own, which stand for others
 * @returns tells whether something may be meant; null: anything may
 * @example phraseFit("porch lantern in {cottage} on", {})?.({ words: new Set(["porch", "lantern", "wren"]), kind: "light" }) // → true
 */
export function phraseFit(
  phrase: string,
  synonyms: Readonly<Record<string, string>>,
): ((one: Worded) => boolean) | null {
  const own = new Set(Object.keys(synonyms).flatMap((said) => tokensOf(said).map(({ text }) => text)));
  const parts = partsOf(phrase, own);
  if (parts.some(({ words, nouns, hasHole }) => hasHole && words.length + nouns.length === 0)) return null;
  const wanted = parts.filter(({ words, nouns }) => words.length + nouns.length > 0);
  if (wanted.length === 0) return null;
  return (one) => wanted.some((part) => fits(part, one));
}

function fits({ words, nouns }: Wanted, { words: own, kind }: Worded): boolean {
  return (
    words.every((word) => own.has(word)) &&
    nouns.every((noun) => own.has(noun) || (kind !== null && kindWords.get(noun)?.kinds.includes(kind) === true))
  );
}

/** One for each ask that the phrase may be made of. */
function partsOf(phrase: string, own: ReadonlySet<string>): Wanted[] {
  const parts = [{ words: [] as string[], nouns: [] as string[], hasHole: false }];
  for (const { text } of tokensOf(phrase.replace(/\{[a-zA-Z]\w{0,30}\}/g, ` ${HOLE_WORD} `))) {
    const part = parts.at(-1);
    if (splitters.has(text)) parts.push({ words: [], nouns: [], hasHole: false });
    else if (text === HOLE_WORD && part) part.hasHole = true;
    else if (kindWords.has(text)) part?.nouns.push(text);
    else if (isName(text) && !own.has(text)) part?.words.push(text);
  }
  return parts;
}

function isName(word: string): boolean {
  return /\p{L}/u.test(word) && !GRAMMAR.some((words) => words.has(word));
}
