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
  /** It says “everything”. */
  readonly all: boolean;
  readonly hasHole: boolean;
}

/** A channel, a group or a scene, as far as words go. */
export interface Worded {
  readonly words: ReadonlySet<string>;
  /** null: a group or a scene. */
  readonly kind: string | null;
  /** Whether “everything” means it. */
  readonly inAll: boolean;
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
 * @example phraseFit("porch lantern in {cottage} on", {})?.({ words: new Set(["porch", "lantern", "wren"]), kind: "light", inAll: true }) // → true
 */
export function phraseFit(
  phrase: string,
  synonyms: Readonly<Record<string, string>>,
): ((one: Worded) => boolean) | null {
  const own = new Set(Object.keys(synonyms).flatMap((said) => tokensOf(said).map(({ text }) => text)));
  const parts = partsOf(phrase, own);
  if (parts.some((part) => part.hasHole && saysNothing(part))) return null;
  const wanted = parts.filter((part) => !saysNothing(part));
  if (wanted.length === 0) return null;
  return (one) => wanted.some((part) => fits(part, one));
}

function saysNothing({ words, nouns, all }: Wanted): boolean {
  return words.length + nouns.length === 0 && !all;
}

function fits({ words, nouns }: Wanted, { words: own, kind, inAll }: Worded): boolean {
  if (words.length + nouns.length === 0) return inAll;
  return (
    words.every((word) => own.has(word)) &&
    nouns.every((noun) => own.has(noun) || (kind !== null && kindWords.get(noun)?.kinds.includes(kind) === true))
  );
}

/** One for each ask that the phrase may be made of. */
function partsOf(phrase: string, own: ReadonlySet<string>): Wanted[] {
  const begin = () => ({ words: [] as string[], nouns: [] as string[], all: false, hasHole: false });
  const parts = [begin()];
  for (const { text } of tokensOf(phrase.replace(/\{[a-zA-Z]\w{0,30}\}/g, ` ${HOLE_WORD} `))) {
    const part = parts.at(-1);
    if (splitters.has(text)) parts.push(begin());
    else if (text === HOLE_WORD && part) part.hasHole = true;
    else if (everything.has(text) && part) part.all = true;
    else if (kindWords.has(text)) part?.nouns.push(text);
    else if (isName(text) && !own.has(text)) part?.words.push(text);
  }
  return parts;
}

function isName(word: string): boolean {
  return /\p{L}/u.test(word) && !GRAMMAR.some((words) => words.has(word));
}
