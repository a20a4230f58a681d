/**
 * A typed or spoken phrase → what is asked, or why it cannot be. Whole words only, nothing is guessed: a phrase with a word
 * that is neither a name nor in the grammar does nothing at all. Either everything in a phrase is understood, or none of it acts.
 */
import { kindOf } from "../channel/index.ts";
import type { ChannelId } from "../id.ts";
import { namesWith, nearestNames } from "../site/name.ts";
import { editDistance } from "../site/spelling.ts";
import { actionsInWords } from "./act.ts";
import { joinSegments, type Wanted } from "./join.ts";
import { askOfMany, leftOut, leftOutByName, withScopes } from "./many.ts";
import { questionOf, refersToNothing } from "./question.ts";
import { type Decided, nothing, type PhraseAsk, type Reading, Stop } from "./reading.ts";
import { segmentsOf } from "./segment.ts";
import type { Segment, Used } from "./segmented.ts";
import { askOf, channelsOf, oneOf } from "./target.ts";
import { MOST_PHRASE, type Token, tokensOf } from "./token.ts";
import { isAt, type Place, thingName, type Vocabulary } from "./vocabulary.ts";
import { greetings, helpWords, meantBy, verbs } from "./words.ts";

const NOTHING_DECIDED: Decided = new Map();

/** How many names or words are offered at most in place of what is not known. */
const MOST_OFFERED = 4;

/** In how many rooms that a phrase names it is looked for what may have been meant: each search takes time where there are many names. */
const MOST_PLACES = 2;

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
    const left = segments.flatMap(({ forRequests }) => forRequests)[0] ?? null;
    if (question && left !== null) return unknownWords(left, segments, vocabulary);
    if (question && refersToNothing(segments)) return nothing("no-target", "it");
    if (question) return { reads: "question", question, used: usedIn(segments, []) };
    return readAsks(segments, vocabulary, decided);
  } catch (stop) {
    if (stop instanceof Stop) return stop.reading;
    throw stop;
  }
}

/** @throws Stop where it cannot go on */
function readAsks(segments: readonly Segment[], vocabulary: Vocabulary, decided: Decided): Reading {
  const indefinite = segments.find((segment) => segment.indefinite !== null)?.indefinite ?? null;
  if (indefinite !== null) return unknownWords(indefinite, segments, vocabulary);
  const idle = exceptOfNothing(segments);
  if (idle !== null) return unknownWords(idle, segments, vocabulary);
  const wanted = withScopes(joinSegments(segments), vocabulary, decided);
  const asks = wanted.flatMap((one) => asksOf(one, vocabulary, decided));
  if (asks.length === 0) return nothing("no-target", "");
  if (asksTwice(asks) || contradictsItself(asks, leftOutByName(wanted, decided), vocabulary))
    return nothing("contradicts", "");
  return {
    reads: "asks",
    asks,
    used: [...usedIn(segments, wanted), ...wanted.flatMap((one) => leftOut(one, vocabulary))],
  };
}

/** What each word was taken for. What is left out in the end is told as left out, and nothing else is. */
function usedIn(segments: readonly Segment[], wanted: readonly Wanted[]): Used[] {
  const left = new Set<unknown>(
    wanted.flatMap(({ exceptions }) =>
      exceptions.flatMap(({ names, selections, places }) => [...names, ...selections, ...places]),
    ),
  );
  return segments.flatMap(({ used }) =>
    used.map(({ words, gave, of }) => ({ words, gave: of !== undefined && left.has(of) ? `not ${gave}` : gave })),
  );
}

function isGreeting(wordy: readonly Token[], segments: readonly Segment[]): boolean {
  const named = segments.some(({ names, places }) => names.length > 0 || places.length > 0);
  return !named && wordy.every(({ text }) => greetings.has(text));
}

/** "on except for 5 minutes": the word that leaves something out, where nothing is left out; null: there is none. */
function exceptOfNothing(segments: readonly Segment[]): string | null {
  const isLeft = ({ except: { names, selections, places } }: Segment) =>
    names.length + selections.length + places.length > 0;
  if (segments.some(isLeft)) return null;
  return segments.flatMap(({ used }) => used).find(({ gave }) => gave === "except")?.words ?? null;
}

/** Whether one thing is named twice, and asked two things: "towel rail on and it off". */
function asksTwice(asks: readonly PhraseAsk[]): boolean {
  const named = asks.filter(({ among }) => among === null);
  return named.some(({ target, action, value }, index) =>
    named
      .slice(index + 1)
      .some((other) => other.target === target && (other.action !== action || other.value !== value)),
  );
}

/** Whether something that the phrase leaves out is asked the same elsewhere in it. */
function contradictsItself(asks: readonly PhraseAsk[], left: ReadonlySet<ChannelId>, vocabulary: Vocabulary): boolean {
  if (left.size === 0) return false;
  const actions = new Set(asks.map(({ action, value }) => `${action} ${value}`));
  const reached = asks.flatMap((ask) => reachedBy(ask, vocabulary));
  return reached.some((id) => left.has(id)) && actions.size === 1;
}

function reachedBy(
  { target, among }: PhraseAsk,
  { snapshot: { byAddress, bundles } }: Vocabulary,
): readonly ChannelId[] {
  if (among !== null) return among;
  const channel = byAddress.get(target);
  if (channel) return [channel.id];
  return bundles.find(({ address }) => address === target)?.members.map((member) => member.channel) ?? [];
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
  const places = new Set(segments.flatMap((segment) => segment.places.map(({ name }) => name)));
  const inPlaces = [...places].slice(0, MOST_PLACES).map((name) => `${words} ${name}`);
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
  const meant = meantBy.get(word);
  if (meant) return [...meant];
  // A decimal comma: "12,5". Of "1,000" nobody knows.
  if (/^\d+,\d{1,2}$/.test(word)) return [word.replace(",", ".")];
  if (/^[.,]\d+$/.test(word)) return [`0.${word.slice(1)}`];
  if (word.length < 3 || word.includes(" ")) return [];
  return [...verbs.keys()].filter((known) => known.length > 2 && editDistance(known, word, 1) <= 1);
}

function asksOf(wanted: Wanted, vocabulary: Vocabulary, decided: Decided): PhraseAsk[] {
  const { names, selection, act, words, exceptions } = wanted;
  if (selection || (names.length > 0 && exceptions.length > 0)) return askOfMany(wanted, vocabulary, decided);
  if (names.length === 0) {
    const room = wanted.places[0];
    if (room) throw new Stop(nothing("no-target", room.name, namesIn(room, vocabulary)));
    throw new Stop(nothing("no-target", words));
  }
  return names.map((span) => askOf(oneOf(span, wanted.places, act, decided), act, wanted.forMs));
}

/** Some of what is in a room, for whoever named nothing else: never all of it at once. */
function namesIn(place: Place, { channels }: Vocabulary): string[] {
  const there = channels.filter((channel) => isAt(channel, place) && !kindOf(channel.kind).input);
  return there.slice(0, MOST_OFFERED).map((channel) => thingName({ is: "channel", channel }));
}
