/**
 * One piece of a phrase, between "and", commas and the like: what it names and what it wishes, before anything is put together. Long because
 * it is one reader: each word is offered to its functions in turn.
 */

import { colourNames, parseColour } from "../channel/colour.ts";
import type { Segment, Segmented, UsedDraft } from "./segmented.ts";
import { timeAt } from "./time.ts";
import type { Token } from "./token.ts";
import { unitAt } from "./unit.ts";
import { nameAt, thingName, type Vocabulary } from "./vocabulary.ts";
import {
  conditions,
  everything,
  exceptions,
  extents,
  fillerPairs,
  fillers,
  indefinites,
  kindWords,
  negations,
  numberOf,
  pronouns,
  questionWords,
  splitters,
  type Verb,
  verbs,
} from "./words.ts";

const TIME_OF_DAY = /^\d{1,2}:\d{2}(?::\d{2})?$/;

/** How the number after it is meant. */
const NUMBER_BY: Readonly<Record<string, "by" | "to">> = { by: "by", to: "to", at: "to" };

function emptySegment(carried = false): Segment {
  return {
    names: [],
    places: [],
    selection: null,
    except: { names: [], selections: [], places: [] },
    carried,
    verb: null,
    extent: null,
    number: null,
    numberBy: null,
    numberUnit: null,
    colour: null,
    indefinite: null,
    forMs: null,
    pronoun: false,
    unknown: [],
    forRequests: [],
    used: [],
    excepting: carried,
  };
}

/** Cuts a phrase into segments. Each token is looked at once, and once more for each name that begins before it. */
export function segmentsOf(tokens: readonly Token[], vocabulary: Vocabulary): Segmented {
  return new Reader(withSynonyms(tokens, vocabulary), vocabulary).read();
}

/** A sender's own words become what they stand for, the longest first. */
function withSynonyms(tokens: readonly Token[], { synonyms, longestSynonym }: Vocabulary): Token[] {
  if (synonyms.size === 0) return [...tokens];
  const meant: Token[] = [];
  for (let at = 0; at < tokens.length; ) {
    let taken = 0;
    for (let length = Math.min(longestSynonym, tokens.length - at); length > 0 && taken === 0; length -= 1) {
      const said = tokens.slice(at, at + length).map(({ text }) => text);
      const own = synonyms.get(said.join(" "));
      if (!own) continue;
      for (const text of own) meant.push({ text, quoted: false });
      taken = length;
    }
    if (taken === 0) meant.push(tokens[at] as Token);
    at += Math.max(1, taken);
  }
  return meant;
}

class Reader {
  private readonly tokens: readonly Token[];
  private readonly vocabulary: Vocabulary;
  private readonly segments: Segment[] = [];
  private segment = emptySegment();
  private forbids: Segmented["forbids"] = null;
  private at = 0;
  /** The word between this segment and the one before it. */
  private joint = "";
  /** Where "except" and the wish stand in this segment; -1: nowhere. */
  private exceptAt = -1;
  private wishAt = -1;

  constructor(tokens: readonly Token[], vocabulary: Vocabulary) {
    this.tokens = tokens;
    this.vocabulary = vocabulary;
  }

  read(): Segmented {
    while (this.at < this.tokens.length) this.step();
    this.split("");
    return { segments: this.segments, forbids: this.forbids };
  }

  private get word(): string {
    return this.tokens[this.at]?.text ?? "";
  }

  private step(): void {
    if (this.takeName() || this.takeTime() || this.takeNumber() || this.takeColour()) return;
    const { word } = this;
    this.at += 1;
    if (splitters.has(word)) return this.split(word);
    if (exceptions.has(word)) return this.except(word);
    if (conditions.has(word) || TIME_OF_DAY.test(word)) return this.forbid(word, "condition");
    if (negations.has(word)) return this.forbid(word, "negated");
    if (this.takeWish(word)) return;
    if (pronouns.has(word)) this.segment.pronoun = true;
    const asks = this.at === 1 && questionWords.has(word);
    if (asks || fillers.has(word) || word === "?" || this.takePair(word)) return;
    this.addUnknown(word);
  }

  /** "right now", "good evening" */
  private takePair(word: string): boolean {
    if (!fillerPairs.has(`${word} ${this.word}`)) return false;
    this.at += 1;
    return true;
  }

  /** A name of several words is one, whatever its words mean by themselves; a single word that the grammar has is not. */
  private takeName(): boolean {
    const { tokens, vocabulary, at } = this;
    const found = nameAt(vocabulary, tokens, at);
    if (!found) return false;
    const { things, end } = found;
    const isGrammar = verbs.has(this.word) || everything.has(this.word) || kindWords.has(this.word);
    if (end === at + 1 && isGrammar && !tokens[at]?.quoted) return false;
    const words = tokens
      .slice(at, end)
      .map(({ text }) => text)
      .join(" ")
      .replaceAll(" ,", ",");
    this.at = end;
    const places = things.flatMap((thing) => (thing.is === "place" ? thing.place : []));
    const named = things.filter(({ is }) => is !== "place");
    if (named.length === 0) {
      const isOut = this.isExceptedPlace(at);
      (isOut ? this.segment.except : this.segment).places.push(...places);
      this.use(words, places.map(({ name }) => name).join(" or "), places[0]);
    } else {
      const span = { at, words, things: named };
      (this.segment.excepting ? this.segment.except : this.segment).names.push(span);
      this.use(words, named.length > 3 ? `one of ${named.length}` : named.map(thingName).join(" or "), span);
    }
    return true;
  }

  /**
   * After "except" a place is left out, or limits what is. One that comes after the wish says where all of it is meant, "everything
   * except the porch off in Finch"; so does one after a comma, "everything off except the lights, in Wren".
   */
  private isExceptedPlace(at: number): boolean {
    const { excepting, carried, verb, extent, number, colour } = this.segment;
    if (!excepting) return false;
    if (!carried) return at > this.exceptAt && !(this.wishAt > this.exceptAt);
    if (verb !== null || extent !== null || number !== null || colour !== null) return false;
    const isSaidWhere =
      [",", ";", ".", ":"].includes(this.joint) && ["in", "at"].includes(this.tokens[at - 1]?.text ?? "");
    return !isSaidWhere || this.segments.some(({ except }) => except.places.length > 0);
  }

  /** "for 5 minutes", "for an hour and a half". A number after "for" that is no time has no meaning: it is not taken for a level. */
  private takeTime(): boolean {
    if (this.word !== "for") return false;
    const sign = this.tokens[this.at + 1]?.text === "-" ? 1 : 0;
    const from = this.at + 1 + sign;
    const time = timeAt(this.tokens, from);
    if (time === null) {
      const next = this.tokens[from]?.text ?? "";
      if (numberOf(next) === null) return false;
      this.at = from + 1;
      this.addUnknown(`for ${next}`);
      return true;
    }
    const words = this.tokens.slice(from, time.end).map(({ text }) => text);
    const said = `${sign === 1 ? "-" : ""}${words.join(" ")}`;
    this.at = time.end;
    // Whatever is asked is read; whether a time may be that long is the same question for every way of asking.
    if (this.segment.forMs === null) this.segment.forMs = Math.round(sign === 1 ? -time.ms : time.ms);
    else this.addUnknown(`for ${said}`);
    this.useForRequest(`for ${said}`, `for ${said}`);
    return true;
  }

  private takeNumber(): boolean {
    const sign = this.word === "-" ? -1 : 1;
    const at = sign < 0 ? this.at + 1 : this.at;
    const word = this.tokens[at]?.text ?? "";
    const number = numberOf(word);
    if (number === null) return false;
    const counted = unitAt(this.tokens, at + 1, this.vocabulary);
    const unit = counted === null ? "" : ` ${counted.unit}`;
    // A second number in one segment has nothing to belong to.
    if (this.segment.number !== null) this.addUnknown(word);
    else {
      this.segment.number = number * sign;
      this.segment.numberBy = NUMBER_BY[this.tokens[this.at - 1]?.text ?? ""] ?? null;
      this.segment.numberUnit = counted?.unit ?? null;
      this.useForRequest(`${word}${unit}`, `${number * sign}${unit}`);
    }
    this.at = counted?.end ?? at + 1;
    return true;
  }

  private takeColour(): boolean {
    const { word } = this;
    const isParts = /^\d+,\d+,\d+$/.test(word);
    if (!colourNames.includes(word) && !word.startsWith("#") && !isParts) return false;
    const colour = parseColour(word);
    if (colour === null) return false;
    this.at += 1;
    // One thing has one colour: of two nobody knows which is meant.
    if (this.segment.colour !== null) this.addUnknown(word);
    else this.segment.colour = isParts ? colour : word;
    this.useForRequest(word, `the colour ${colour}`);
    return true;
  }

  /** @returns whether the word says what is wished, or of what kinds of channels */
  private takeWish(word: string): boolean {
    return this.takeSelection(word) || this.takeExtent(word) || this.takeVerb(word);
  }

  private takeSelection(word: string): boolean {
    const { segment } = this;
    if (everything.has(word)) {
      segment.selection ??= { kinds: null, many: true, word: "everything" };
      this.use(word, "every channel", segment.selection);
      return true;
    }
    if (indefinites.has(word)) {
      if (word === "anything") segment.selection ??= { kinds: null, many: true, word: "anything" };
      segment.indefinite = word;
      this.use(word, "any of them");
      return true;
    }
    return this.takeKinds(word);
  }

  private takeKinds(word: string): boolean {
    const { segment } = this;
    const kinds = kindWords.get(word);
    if (kinds && segment.excepting) {
      const left = { kinds: kinds.kinds, many: kinds.many, word: `${kinds.many ? "all" : "the"} ${word}` };
      segment.except.selections.push(left);
      this.use(word, kinds.kinds.join(", "), left);
      return true;
    }
    if (!kinds || (word === "dimmer" && segment.names.length > 0)) return false;
    // "lights relays off": of two kinds side by side one would be dropped.
    if (segment.selection?.kinds) return this.unknownWish(word);
    const many = kinds.many || segment.selection?.many === true;
    segment.selection = { kinds: kinds.kinds, many, word: many ? `all ${word}` : `the ${word}` };
    this.use(word, kinds.kinds.join(", "), segment.selection);
    return true;
  }

  private takeExtent(word: string): boolean {
    const { segment } = this;
    const extent = extents.get(word);
    if (!extent) return false;
    if (segment.extent !== null && segment.extent !== extent) return this.unknownWish(word);
    segment.extent = extent;
    this.useForRequest(word, extent);
    return true;
  }

  private takeVerb(word: string): boolean {
    const { segment } = this;
    const verb = verbs.get(word);
    if (!verb) return false;
    // "turn it up" is brighter or open, by its kind; "switch on" has a verb already that says nothing.
    if (segment.verb !== null && segment.verb !== verb) return this.second(word, verb);
    segment.verb = verb;
    this.wishAt = this.at - 1;
    this.use(word, verb);
    return true;
  }

  /** "on at level 40", "put back on": one of the two adds nothing. Whatever else contradicts is unknown. */
  private second(word: string, verb: Verb): boolean {
    const { segment } = this;
    const isPlain = verb === "on" || verb === "off";
    if (verb === "level" || (verb === "back" && (segment.verb === "on" || segment.verb === "off"))) return true;
    if (segment.verb !== "level" && !(segment.verb === "back" && isPlain)) return this.unknownWish(word);
    segment.verb = verb;
    this.use(word, verb);
    return true;
  }

  private unknownWish(word: string): true {
    this.addUnknown(word);
    return true;
  }

  private except(word: string): void {
    // "but not the porch": the word that follows belongs to it.
    if (word === "but" && this.word === "not") this.at += 1;
    this.segment.excepting = true;
    this.exceptAt = this.at - 1;
    this.useForRequest(word, "except");
  }

  private forbid(word: string, why: "negated" | "condition"): void {
    this.forbids ??= { word, why };
  }

  private addUnknown(word: string): void {
    const last = this.segment.unknown.at(-1);
    const goesOn = last && last.from + last.words.split(" ").length === this.at - 1;
    if (goesOn)
      this.segment.unknown[this.segment.unknown.length - 1] = { words: `${last.words} ${word}`, from: last.from };
    else this.segment.unknown.push({ words: word, from: this.at - 1 });
  }

  private use(words: string, gave: string, of?: UsedDraft["of"]): void {
    this.segment.used.push(of === undefined ? { words, gave } : { words, gave, of });
  }

  private useForRequest(words: string, gave: string): void {
    this.segment.forRequests.push(words);
    this.use(words, gave);
  }

  private split(word: string): void {
    // "except the porch, and Finch" is joined by both.
    const isBlank = this.segment.used.length === 0 && this.joint !== "";
    this.joint = isBlank && word === "," ? this.joint : word;
    this.segments.push(this.segment);
    this.segment = emptySegment(this.segment.excepting);
    this.exceptAt = -1;
    this.wishAt = -1;
  }
}
