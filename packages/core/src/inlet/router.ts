/**
 * Routes, indexed by what they catch: finding the first that fits costs as much as the arrival is deep, not as there are
 * routes. Each kind of match has its own index; the routes found there are tried in the order in which they were written.
 */
import { lookUp } from "../codec/pointer.ts";
import { tokensOf } from "../phrase/token.ts";
import { withoutSecrets } from "../team/secret-text.ts";
import { eventOf, inputLevels } from "./input.ts";
import type { Arrival, Route, When } from "./model.ts";
import { payloadOf, readPayload } from "./payload.ts";
import type { InputEvent } from "./press.ts";

export type Holes = Readonly<Record<string, string>>;

export interface Matched {
  readonly route: Route;
  /** Its place among the routes, from 1. */
  readonly place: number;
  readonly holes: Holes;
}

/** There may be very many: what most of them do not have is made only where it is needed. */
interface TopicNode {
  next: Map<string, TopicNode> | null;
  /** Where the level may be any. */
  any: TopicNode | null;
  /** Routes whose filter ends here, or goes on with whatever follows. */
  ends: number[] | null;
  rest: number[] | null;
}

export interface Router {
  readonly routes: readonly Route[];
  readonly general: readonly number[];
  readonly words: ReadonlyMap<string, readonly number[]>;
  readonly digits: ReadonlyMap<string, readonly number[]>;
  /** By pointer: routes that want a certain thing there, by that thing, and those that take whatever stands there. */
  readonly fields: ReadonlyMap<
    string,
    { readonly byValue: ReadonlyMap<string, number[]>; readonly whatever: number[] }
  >;
  readonly topics: TopicNode;
  /** By the levels of the input's address. */
  readonly channels: TopicNode;
}

const HOLE = /^\{([a-zA-Z]\w{0,30})\}$/;

/** Indexes routes; done once when they are saved. */
export function buildRouter(routes: readonly Route[]): Router {
  const general: number[] = [];
  const words = new Map<string, number[]>();
  const digits = new Map<string, number[]>();
  const fields = new Map<string, { byValue: Map<string, number[]>; whatever: number[] }>();
  const topics = topicNode();
  const channels = topicNode();
  for (const [index, { when }] of routes.entries()) {
    if ("words" in when) add(words, wordsKey(when.words), index);
    else if ("digits" in when) add(digits, when.digits, index);
    else if ("topic" in when) addTopic(topics, when.topic.split("/"), index);
    else if ("channel" in when) addTopic(channels, inputLevels(when.channel), index);
    else if ("fields" in when) addFields(fields, when.fields, index);
    else general.push(index);
  }
  return { routes, general, words, digits, fields, topics, channels };
}

/**
 * The first route that catches the arrival; null when none does.
 *
 * @param fits whether a route that catches it may act, by its conditions
 */
export function matchRoute(router: Router, arrival: Arrival, fits: (route: Route) => boolean): Matched | null {
  const found = [
    ...router.general,
    // Cutting a text into words costs more than all the rest, and most inlets have no route for certain words.
    ...(arrival.text === null || router.words.size === 0 ? [] : (router.words.get(wordsKey(arrival.text)) ?? [])),
    ...(arrival.digits === null ? [] : (router.digits.get(arrival.digits) ?? [])),
    ...(arrival.topic === null ? [] : topicsAt(router.topics, arrival.topic.split("/"))),
    ...(arrival.channel === null ? [] : topicsAt(router.channels, arrival.channel.split("/"))),
    ...fieldsIn(router, arrival.fields),
  ].sort((one, other) => one - other);
  for (const index of found) {
    const route = router.routes[index];
    const holes = route ? holesIn(route.when, arrival) : null;
    if (route && holes && fits(route)) return { route, place: index + 1, holes };
  }
  return null;
}

/** What routes wait for of an input. @param address of its channel */
export function eventsWanted({ channels, routes }: Router, address: string): Set<InputEvent> {
  const found = topicsAt(channels, address.split("/"));
  return new Set(
    found.flatMap((index) => {
      const when = routes[index]?.when;
      return when && "channel" in when ? [eventOf(when)] : [];
    }),
  );
}

/** @returns what stands in the holes of a route; null when it does not catch this after all */
function holesIn(when: When, arrival: Arrival): Holes | null {
  if ("topic" in when) {
    const asked = when.payload ? readPayload(when.payload, payloadOf(arrival)) : {};
    return asked && { ...topicHoles(when.topic.split("/"), arrival.topic?.split("/") ?? []), ...asked };
  }
  if ("channel" in when) {
    const isMeant = eventOf(when) === arrival.text;
    return isMeant ? topicHoles(inputLevels(when.channel), arrival.channel?.split("/") ?? []) : null;
  }
  return "fields" in when ? fieldHoles(when.fields, arrival.fields) : {};
}

function fieldHoles(fields: Extract<When, { fields: object }>["fields"], document: unknown): Holes | null {
  const holes: Record<string, string> = {};
  for (const [pointer, wanted] of Object.entries(fields)) {
    const is = scalarAt(document, pointer);
    if (is === null) return null;
    const hole = typeof wanted === "string" ? HOLE.exec(wanted)?.[1] : undefined;
    if (hole !== undefined) holes[hole] = is;
    else if (is.toLowerCase() !== String(wanted).toLowerCase()) return null;
  }
  return holes;
}

/** Words as they are compared: marks, case and spaces do not alert. */
function wordsKey(text: string): string {
  return tokensOf(text)
    .map((token) => token.text)
    .filter((word) => /[\p{L}\p{N}]/u.test(word))
    .join(" ");
}

function add(index: Map<string, number[]>, key: string, place: number): void {
  const known = index.get(key);
  if (known) known.push(place);
  else index.set(key, [place]);
}

function topicNode(): TopicNode {
  return { next: null, any: null, ends: null, rest: null };
}

function addTopic(root: TopicNode, levels: readonly string[], place: number): void {
  let node = root;
  for (const level of levels) {
    if (level === "#") {
      node.rest = [...(node.rest ?? []), place];
      return;
    }
    node = level === "+" || HOLE.test(level) ? anyOf(node) : nextOf(node, level);
  }
  node.ends = [...(node.ends ?? []), place];
}

function anyOf(node: TopicNode): TopicNode {
  node.any ??= topicNode();
  return node.any;
}

function nextOf(node: TopicNode, level: string): TopicNode {
  node.next ??= new Map();
  const next = node.next.get(level) ?? topicNode();
  node.next.set(level, next);
  return next;
}

/** As deep as the topic is, and twice as wide at each level at most: the level itself, or any. */
function topicsAt(root: TopicNode, levels: readonly string[]): number[] {
  const found: number[] = [];
  const walk = (node: TopicNode, depth: number): void => {
    if (node.rest) found.push(...node.rest);
    const level = levels[depth];
    if (level === undefined) {
      if (node.ends) found.push(...node.ends);
      return;
    }
    const next = node.next?.get(level);
    if (next) walk(next, depth + 1);
    if (node.any) walk(node.any, depth + 1);
  };
  walk(root, 0);
  return found;
}

function topicHoles(filter: readonly string[], levels: readonly string[]): Holes {
  const holes: Record<string, string> = {};
  for (const [index, level] of filter.entries()) {
    const hole = HOLE.exec(level)?.[1];
    if (hole !== undefined) holes[hole] = levels[index] ?? "";
  }
  return holes;
}

function addFields(
  index: Map<string, { byValue: Map<string, number[]>; whatever: number[] }>,
  fields: object,
  place: number,
) {
  const all = Object.entries(fields) as [string, string | number | boolean][];
  // One that says what must stand there narrows it down more than one that takes anything.
  const [pointer, wanted] = all.find(([, value]) => typeof value !== "string" || !HOLE.test(value)) ??
    all[0] ?? ["", ""];
  const known = index.get(pointer) ?? { byValue: new Map<string, number[]>(), whatever: [] };
  index.set(pointer, known);
  if (typeof wanted === "string" && HOLE.test(wanted)) known.whatever.push(place);
  else add(known.byValue, String(wanted).toLowerCase(), place);
}

function fieldsIn({ fields }: Router, document: unknown): number[] {
  const found: number[] = [];
  for (const [pointer, { byValue, whatever }] of fields) {
    const is = scalarAt(document, pointer);
    if (is === null) continue;
    found.push(...(byValue.get(is.toLowerCase()) ?? []), ...whatever);
  }
  return found;
}

/** @returns a text, number or truth value as text; null when there is none at this place */
export function scalarAt(document: unknown, pointer: string): string | null {
  const is = lookUp(document, pointer);
  return typeof is === "string" || typeof is === "number" || typeof is === "boolean" ? plainText(String(is)) : null;
}

/** Text that a journal can keep and a terminal can show: no control characters, nothing that turns the writing round, no half of a character. */
export function plainText(text: string): string {
  return withoutSecrets(text.replace(/[\p{Cc}\p{Cs}\u2028\u2029\u202a-\u202e\u2066-\u2069]/gu, " "));
}

/** The same of every text and name in a document. */
export function plainDocument(document: unknown): unknown {
  if (typeof document === "string") return plainText(document);
  if (typeof document !== "object" || document === null) return document;
  if (Array.isArray(document)) return document.map(plainDocument);
  return Object.fromEntries(Object.entries(document).map(([name, value]) => [plainText(name), plainDocument(value)]));
}

/** Routes that can never act, for an earlier one catches all that they would. */
export function shadowedRoutes(routes: readonly Route[]): { readonly place: number; readonly by: number }[] {
  const shadowed: { place: number; by: number }[] = [];
  const catchAll = routes.findIndex(({ when, only }) => "any" in when && only === undefined);
  const first = new Map<string, number>();
  for (const [index, { when, only }] of routes.entries()) {
    const key = JSON.stringify(sameCatch(when));
    const before = catchAll >= 0 && catchAll < index ? catchAll : first.get(key);
    if (before !== undefined) shadowed.push({ place: index + 1, by: before + 1 });
    else if (only === undefined) first.set(key, index);
  }
  return shadowed;
}

/** Two routes with the same of this catch the same. */
function sameCatch(when: When): unknown {
  if ("words" in when) return ["words", wordsKey(when.words)];
  if ("digits" in when) return ["digits", when.digits];
  if ("topic" in when) {
    const levels = when.topic.split("/").map((level) => (HOLE.test(level) ? "+" : level));
    return ["topic", levels, when.payload ?? null];
  }
  if ("channel" in when) {
    const levels = inputLevels(when.channel).map((level) => (HOLE.test(level) ? "+" : level));
    return ["channel", levels, eventOf(when)];
  }
  if (!("fields" in when)) return ["any" in when ? "any" : "phrase"];
  const fields = Object.entries(when.fields).map(([pointer, wanted]) => {
    const whatever = typeof wanted === "string" && HOLE.test(wanted);
    return [pointer, whatever ? null : String(wanted).toLowerCase()];
  });
  return ["fields", fields.sort()];
}
