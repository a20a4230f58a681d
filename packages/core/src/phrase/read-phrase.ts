/**
 * A typed or spoken phrase → what is asked, or why it cannot be. Whole words only, nothing is guessed: a phrase with a word
 * that is neither a name nor in the grammar does nothing at all. Either everything in a phrase is understood, or none of it acts.
 */
import { kindOf } from "../channel/index.ts";
import type { ChannelId } from "../id.ts";
import type { ChannelEntry } from "../site/entry.ts";
import { editDistance, namesWith, nearestNames } from "../site/name.ts";
import { type Act, actionFor, actionsInWords } from "./act.ts";
import { isMeantByAll, placesNamed, sitesOf } from "./everything.ts";
import { type Exception, joinSegments, type Wanted } from "./join.ts";
import { type Question, questionOf } from "./question.ts";
import { type Segment, type Span, segmentsOf, type Used } from "./segment.ts";
import { MOST_PHRASE, type Token, tokensOf } from "./token.ts";
import { isAt, type Place, type Thing, thingName, type Vocabulary } from "./vocabulary.ts";
import { greetings, helpWords, verbs } from "./words.ts";

/** One thing that is asked. */
export interface PhraseAsk {
  /** The address of a channel, a group or a scene; or words for several channels: "every light in Wren". */
  readonly target: string;
  /** The channels, where they have no name together. */
  readonly among: readonly ChannelId[] | null;
  readonly action: string;
  readonly value: number | string | null;
  /** ms */
  readonly forMs: number | null;
}

export interface Choice {
  readonly address: string;
  /** As people say it. */
  readonly name: string;
}

/** Why a phrase asks nothing. */
export type Unread =
  | "empty"
  | "too-long"
  | "negated"
  | "condition"
  | "unknown-words"
  | "no-target"
  | "no-action"
  | "cannot"
  | "several-sites"
  | "nothing-there";

export type Reading =
  | { readonly reads: "asks"; readonly asks: readonly PhraseAsk[]; readonly used: readonly Used[] }
  | { readonly reads: "question"; readonly question: Question; readonly used: readonly Used[] }
  /** It may mean several: the sender must say which. `at` tells which name of the phrase it is about. */
  | { readonly reads: "which"; readonly at: number; readonly words: string; readonly choices: readonly Choice[] }
  | { readonly reads: "help" }
  | { readonly reads: "greeting" }
  | {
      readonly reads: "nothing";
      readonly why: Unread;
      /** What was not understood, or cannot be done. */
      readonly words: string;
      /** The nearest names or words that there are, best first. */
      readonly nearest: readonly string[];
    };

/** Which of several was meant, by the place of the name in the phrase. */
export type Decided = ReadonlyMap<number, string>;

const NOTHING_DECIDED: Decided = new Map();
/** How many choices are offered at most. */
const MOST_CHOICES = 10;
/** How many names or words are offered at most in place of what is not known. */
const MOST_OFFERED = 4;

/** @param decided what the sender has said since, of names that several have */
export function readPhrase(phrase: string, vocabulary: Vocabulary, decided = NOTHING_DECIDED): Reading {
  if (phrase.length > MOST_PHRASE) return nothing("too-long", `${phrase.slice(0, 40)}…`);
  const tokens = tokensOf(phrase);
  const wordy = tokens.filter(({ text }) => /[\p{L}\p{N}?]/u.test(text));
  if (wordy.length === 0) return nothing("empty", "");
  if (wordy.every(({ text }) => helpWords.has(text))) return { reads: "help" };
  const { segments, forbids } = segmentsOf(tokens, vocabulary);
  const unknown = segments.flatMap((segment) => segment.unknown)[0];
  if (isGreeting(wordy, segments)) return { reads: "greeting" };
  if (forbids) return nothing(forbids.why, forbids.word);
  if (unknown) return unknownWords(unknown.words, segments, vocabulary);
  try {
    const question = questionOf(tokens, segments, (span, places) => channelsOf(span, places, decided), vocabulary);
    // What an answer leaves out cannot be said of a question so far.
    const left = usedIn(segments).find(({ gave }) => gave === "except");
    if (question && left) return unknownWords(left.words, segments, vocabulary);
    if (question) return { reads: "question", question, used: usedIn(segments) };
    const wanted = withScopes(joinSegments(segments), vocabulary, decided);
    const asks = wanted.flatMap((one) => asksOf(one, vocabulary, decided));
    if (asks.length === 0) return nothing("no-target", "");
    return { reads: "asks", asks, used: [...usedIn(segments), ...wanted.flatMap((one) => leftOut(one, vocabulary))] };
  } catch (stop) {
    if (stop instanceof Stop) return stop.reading;
    throw stop;
  }
}

/** What a reading comes to on the way, where it cannot go on. Never leaves this folder. */
export class Stop extends Error {
  readonly reading: Reading;
  constructor(reading: Reading) {
    super(reading.reads);
    this.reading = reading;
  }
}

export function nothing(why: Unread, words: string, nearest: readonly string[] = []): Reading {
  return { reads: "nothing", why, words, nearest };
}

function usedIn(segments: readonly Segment[]): Used[] {
  return segments.flatMap(({ used }) => used);
}

function isGreeting(wordy: readonly Token[], segments: readonly Segment[]): boolean {
  const named = segments.some(({ names, places }) => names.length > 0 || places.length > 0);
  return !named && wordy.every(({ text }) => greetings.has(text));
}

function unknownWords(words: string, segments: readonly Segment[], vocabulary: Vocabulary): Reading {
  const offered = offeredFor(words, segments, vocabulary).slice(0, MOST_OFFERED);
  const [only, ...others] = segments.flatMap((segment) => segment.names);
  const thing = only?.things.length === 1 && others.length === 0 ? only.things[0] : undefined;
  // Of one thing that is named rightly it helps to know what it takes.
  return nothing("unknown-words", words, offered.length === 0 && thing ? actionsInWords(thing) : offered);
}

/** What may have been meant: names that hold the words, in the room that stands beside them if there; else what is spelt nearly so. */
function offeredFor(words: string, segments: readonly Segment[], vocabulary: Vocabulary): string[] {
  const { snapshot, sites } = vocabulary;
  const inPlaces = segments.flatMap((segment) => segment.places.map(({ name }) => `${words} ${name}`));
  for (const held of [inPlaces.flatMap((text) => namesWith(snapshot, text, sites)), namesWith(snapshot, words, sites)])
    if (held.length > 0) return namesAt(held, vocabulary);
  const spelt = [words, ...inPlaces].flatMap((text) => nearestNames(snapshot, text, sites));
  return [...nearWords(words), ...namesAt(spelt, vocabulary)];
}

function namesAt(addresses: readonly string[], vocabulary: Vocabulary): string[] {
  return [...new Set(addresses)].map((address) => nameAt(address, vocabulary));
}

/** As people say it: “Towel rail, Wren”. */
function nameAt(address: string, { snapshot: { byAddress, bundles } }: Vocabulary): string {
  const channel = byAddress.get(address);
  if (channel) return thingName({ is: "channel", channel });
  return bundles.find((bundle) => bundle.address === address)?.name ?? address;
}

function nearWords(word: string): string[] {
  if (word.length < 3 || word.includes(" ")) return [];
  return [...verbs.keys()].filter((known) => known.length > 2 && editDistance(known, word, 1) <= 1);
}

function asksOf(wanted: Wanted, vocabulary: Vocabulary, decided: Decided): PhraseAsk[] {
  const { names, selection, act, words } = wanted;
  if (selection) return askOfMany(wanted, vocabulary, decided);
  if (names.length === 0) {
    const room = wanted.places[0];
    if (room) throw new Stop(nothing("no-target", room.name, namesIn(room, vocabulary)));
    throw new Stop(nothing("no-target", words));
  }
  return names.map((span) => askOf(oneOf(span, wanted.places, act, decided), act, wanted.forMs));
}

/** @throws Stop when the sender must say which, or it cannot be asked this */
function oneOf(span: Span, places: readonly Place[], act: Act | null, decided: Decided): Thing {
  const meant = decided.get(span.at);
  if (meant !== undefined) {
    const chosen = span.things.find((thing) => addressOf(thing) === meant);
    if (chosen) return chosen;
  }
  const there = span.things.filter((thing) => isIn(thing, places));
  if (there.length === 0) throw new Stop(nothing("nothing-there", span.words, span.things.slice(0, 3).map(thingName)));
  // "dim the hall": only one of those of that name can be dimmed.
  const able = there.filter((thing) => actionOfThing(thing, act) !== null);
  const left = able.length > 0 ? able : there;
  const [first] = left;
  if (left.length > 1 || !first) throw new Stop(whichOf(span, left));
  return first;
}

function whichOf({ at, words }: Span, things: readonly Thing[]): Reading {
  const choices = things.slice(0, MOST_CHOICES).map((thing) => ({ address: addressOf(thing), name: fullName(thing) }));
  return { reads: "which", at, words, choices };
}

function askOf(thing: Thing, act: Act | null, forMs: number | null): PhraseAsk {
  const found = actionOfThing(thing, act);
  if (!found) throw new Stop(cannot(thing, act));
  return { target: addressOf(thing), among: null, ...found, forMs };
}

function cannot(thing: Thing, act: Act | null): Reading {
  const can = actionsInWords(thing);
  if (!act) return nothing("no-action", thingName(thing), can);
  return nothing("cannot", thingName(thing), can);
}

function actionOfThing(thing: Thing, act: Act | null) {
  if (thing.is === "place") return null;
  if (thing.is === "channel") return act && actionFor(thing.channel.kind, act);
  const { bundle } = thing;
  if (bundle.kind === "scene") {
    const recalls = act === null || ["on", "recall"].includes(act.verb ?? "") || (act.verb === null && act.isEmpty);
    return recalls ? { action: "recall", value: null } : null;
  }
  if (!act) return null;
  // Of a group each member is asked the same: what the first can be asked is tried of all.
  return thing.channels.map(({ kind }) => actionFor(kind, act)).find((found) => found !== null) ?? null;
}

/** Some of what is in a room, for whoever named nothing else: never all of it at once. */
function namesIn(place: Place, { channels }: Vocabulary): string[] {
  const there = channels.filter((channel) => isAt(channel, place) && !kindOf(channel.kind).input);
  return there.slice(0, MOST_OFFERED).map((channel) => thingName({ is: "channel", channel }));
}

/**
 * "Everything" without a place of its own, in a phrase that names one elsewhere: it may mean all there is, or all that is there.
 *
 * @throws Stop when the sender must say which
 */
function withScopes(wanted: readonly Wanted[], vocabulary: Vocabulary, decided: Decided): Wanted[] {
  return wanted.map((one) => {
    if (one.selection?.many !== true || one.places.length > 0 || one.names.length > 0) return one;
    const named = placesNamed(wanted, one);
    if (named.length === 0) return one;
    const scopes = [
      ...named,
      ...sitesOf(vocabulary.channels.filter((one) => named.some(({ site }) => site === one.site.slug))),
    ];
    const meant = scopes.find((place) => addressOf({ is: "place", place }) === decided.get(SCOPE));
    if (meant) return { ...one, places: [meant] };
    const things = scopes.map((place): Thing => ({ is: "place", place }));
    throw new Stop(whichOf({ at: SCOPE, words: one.selection.word, things }, things));
  });
}

/** What "everything" does not mean: told, so that nobody takes it for switched. */
function leftOut(wanted: Wanted, vocabulary: Vocabulary): Used[] {
  const { selection, act } = wanted;
  if (selection?.many !== true || !act) return [];
  const out = ableOf(wanted, vocabulary, new Map()).filter((channel) => !isMeantByAll(channel, selection, vocabulary));
  if (out.length === 0) return [];
  const names = out.slice(0, MOST_CHOICES).map((channel) => thingName({ is: "channel", channel }));
  return [{ words: selection.word, gave: `not ${names.join("; ")}: asked by name only` }];
}

/** “everything in Wren except Path lights, Wren” */
function wordsForMany({ selection, places, names, exceptions }: Wanted): string {
  const where = [...places.map(({ name }) => name), ...names.map(({ words }) => words)];
  const out = exceptions.map(wordsForException);
  const inPlace = where.length === 0 ? "" : ` in ${where.join(" and ")}`;
  return `${selection?.word ?? ""}${inPlace}${out.length === 0 ? "" : ` except ${out.join(" and ")}`}`;
}

/** “the lights in Finch” */
function wordsForException({ names, kinds, places }: Exception): string {
  const things = [...names.map(({ words }) => words), ...kinds].join(" and ");
  const where = places.map(({ name }) => name).join(" and ");
  return things === "" || where === "" ? things + where : `${things} in ${where}`;
}

/** Every channel of some kinds, or of any, in a room or at a site. */
function askOfMany(wanted: Wanted, vocabulary: Vocabulary, decided: Decided): PhraseAsk[] {
  const { selection, act, forMs } = wanted;
  const words = wordsForMany(wanted);
  if (!act) throw new Stop(nothing("no-action", words, ["on", "off"]));
  const all = ableOf(wanted, vocabulary, decided);
  const able = selection?.many === false ? all : all.filter((one) => isMeantByAll(one, selection, vocabulary));
  if (able.length === 0) throw new Stop(nothing("nothing-there", words));
  if (selection?.many === false && able.length > 1) {
    const things = able.map((channel): Thing => ({ is: "channel", channel }));
    const chosen = things.find((thing) => addressOf(thing) === decided.get(SELECTION));
    if (chosen) return [askOf(chosen, act, forMs)];
    throw new Stop(whichOf({ at: SELECTION, words, things }, things));
  }
  const sites = [...new Map(able.map(({ site }) => [site.slug, site.name])).values()];
  if (sites.length > 1) throw new Stop(nothing("several-sites", words, sites));
  // Kinds have their own words for the same wish, "up" is open or brighter: one ask for each.
  const byAction = new Map<string, ChannelEntry[]>();
  for (const channel of able) {
    const { action } = actionFor(channel.kind, act) ?? { action: "" };
    byAction.set(action, [...(byAction.get(action) ?? []), channel]);
  }
  return [...byAction.values()].flatMap((same) => {
    const [one] = same;
    const found = one && actionFor(one.kind, act);
    if (!found) return [];
    if (same.length === 1) return askOf({ is: "channel", channel: one }, act, forMs);
    return { target: words, among: same.map(({ id }) => id), ...found, forMs };
  });
}

/** Channels that are there and can be asked this, without those that are excepted. */
function ableOf({ selection, places, names, exceptions, act }: Wanted, vocabulary: Vocabulary, decided: Decided) {
  const isOutside = exceptions.map((exception) => leavesOut(exception, places, decided));
  const among = names.length > 0 ? names.flatMap((span) => channelsOf(span, places, decided)) : vocabulary.channels;
  const kinds = selection?.kinds ?? null;
  return among.filter(
    (channel) =>
      (kinds === null || kinds.includes(channel.kind)) &&
      (places.length === 0 || places.some((place) => isAt(channel, place))) &&
      !isOutside.some((isOut) => isOut(channel)) &&
      act !== null &&
      actionFor(channel.kind, act) !== null,
  );
}

function leavesOut({ names, kinds, places: its }: Exception, places: readonly Place[], decided: Decided) {
  const among = its.length > 0 ? its : places;
  const named = new Set(names.flatMap((span) => channelsOf(span, among, decided)).map(({ id }) => id));
  const isThere = (channel: ChannelEntry) => its.some((place) => isAt(channel, place));
  if (names.length + kinds.length === 0) return isThere;
  return (channel: ChannelEntry) =>
    named.has(channel.id) || (kinds.includes(channel.kind) && (its.length === 0 || isThere(channel)));
}

/** The place of a choice that no name of the phrase stands for. */
const SELECTION = -1;
/** The place of the choice how far "everything" reaches. */
const SCOPE = -2;

/** Every channel that a name stands for; those of a group are its members. */
function channelsOf(span: Span, places: readonly Place[], decided: Decided): ChannelEntry[] {
  const thing = oneOf(span, places, null, decided);
  if (thing.is === "channel") return [thing.channel];
  return thing.is === "bundle" ? [...thing.channels] : [];
}

function isIn(thing: Thing, places: readonly Place[]): boolean {
  if (places.length === 0 || thing.is === "place") return true;
  if (thing.is === "channel") return places.some((place) => isAt(thing.channel, place));
  return places.some(({ site }) => thing.bundle.site.slug === site);
}

function addressOf(thing: Thing): string {
  if (thing.is === "channel") return thing.channel.address;
  if (thing.is === "bundle") return thing.bundle.address;
  const { site, room } = thing.place;
  return room === null ? site : `${site}/${room}`;
}

function fullName(thing: Thing): string {
  const site = thing.is === "channel" ? thing.channel.site.name : thing.is === "bundle" ? thing.bundle.site.name : "";
  return `${thingName(thing)}${site === "" ? "" : `, ${site}`}`;
}
