/**
 * A route made from an arrival that came, without writing it: each part of the arrival is wanted as it is, is a hole, or does not matter;
 * values are mapped by examples. Pure.
 */
import { inletKinds } from "./kind/index.ts";
import { PHRASES } from "./kind/kind.ts";
import type { Arrival, Deed, InletDescription, InletKind, Mapping, Route, When } from "./model.ts";

/** Something of an arrival that a route may look at. */
export interface ArrivalPart {
  readonly kind: "topic level" | "channel level" | "input event" | "field" | "words" | "digits";
  /** The number of the level from 0, or a JSON Pointer (RFC 6901); "" for words, digits and what an input does. */
  readonly place: string;
  /** What came there. */
  readonly text: string;
}

/** What a route wants there: just that, anything under a name, or it does not look. */
export type PartChoice =
  | { readonly as: "literal" }
  | { readonly as: "hole"; readonly name: string }
  | { readonly as: "ignored" };

/** What was said and what it means: “1023” → “100”. */
export interface ValueExample {
  readonly said: string;
  readonly means: string;
}

export interface RouteDraft {
  readonly name: string;
  /** One for each part of the arrival, in order. */
  readonly choices: readonly PartChoice[];
  /** A name or an address; may have holes. */
  readonly target: string;
  readonly action: string;
  /** "": the action takes none. */
  readonly value: string;
  /** Of the hole in value or action. */
  readonly examples: readonly ValueExample[];
  /** Only this sender; "": any that the inlet permits. */
  readonly onlySender: string;
  /** "": the inlet's own words. */
  readonly reply: string;
}

/** So many fields of a document are offered. */
const MOST_FIELDS = 40;
const HOLE = /^\{([a-zA-Z]\w{0,30})\}$/;

/**
 * The parts of an arrival in the order in which they are offered.
 *
 * @example arrivalParts({ topic: "buttons/finch", text: "1" }) // → two topic levels
 * @example arrivalParts({ channel: "alder-row/finch/button", text: "once" }) // → three levels of the channel, and what it does
 */
export function arrivalParts({ topic, text, fields, digits, channel }: Partial<Arrival>): ArrivalPart[] {
  if (topic) return levelParts("topic level", topic);
  if (channel) return [...levelParts("channel level", channel), { kind: "input event", place: "", text: text ?? "" }];
  if (digits) return [{ kind: "digits", place: "", text: digits }];
  const words: ArrivalPart[] = text ? [{ kind: "words", place: "", text }] : [];
  const document = typeof fields === "object" && fields !== null ? fieldsOf(fields, "") : [];
  return [...words, ...document.slice(0, MOST_FIELDS)];
}

function levelParts(kind: "topic level" | "channel level", path: string): ArrivalPart[] {
  return path.split("/").map((level, at) => ({ kind, place: String(at), text: level }));
}

function fieldsOf(document: object, before: string): ArrivalPart[] {
  return Object.entries(document).flatMap(([name, value]: [string, unknown]): ArrivalPart[] => {
    const place = `${before}/${name.replaceAll("~", "~0").replaceAll("/", "~1")}`;
    if (typeof value === "object" && value !== null) return fieldsOf(value, place);
    const isScalar = typeof value === "string" || typeof value === "number" || typeof value === "boolean";
    return isScalar ? [{ kind: "field", place, text: String(value) }] : [];
  });
}

/** What is chosen first: topics and words as they came; where there are no words, the first field as it came. */
export function firstChoices(parts: readonly ArrivalPart[]): PartChoice[] {
  return parts.map(({ kind }, at) => ({ as: kind === "field" && at > 0 ? "ignored" : "literal" }));
}

/** The choices after one of them. A route looks at the words or at fields: choosing the one lets go of the other. */
export function withChoice(
  parts: readonly ArrivalPart[],
  choices: readonly PartChoice[],
  at: number,
  choice: PartChoice,
): PartChoice[] {
  const kind = parts[at]?.kind;
  return parts.map((part, place): PartChoice => {
    if (place === at) return choice;
    const isOther = (kind === "words" && part.kind === "field") || (kind === "field" && part.kind === "words");
    return isOther && choice.as !== "ignored" ? { as: "ignored" } : (choices[place] ?? { as: "literal" });
  });
}

/** The holes that a draft may use, with what stood there in the arrival. */
export function draftHoles(
  parts: readonly ArrivalPart[],
  choices: readonly PartChoice[],
  { text, sender, room }: Partial<Arrival>,
): Readonly<Record<string, string>> {
  const byWords = parts[0]?.kind === "words" && choices[0]?.as === "literal";
  const own = parts.flatMap((part, at) => {
    const choice = choices[at];
    const isLookedAt = part.kind.endsWith(" level") || (part.kind === "field" && !byWords);
    return choice?.as === "hole" && isLookedAt ? [[choice.name, part.text] as const] : [];
  });
  const basic = [
    ["payload", text],
    ["sender", sender],
    ["room", room],
  ] as const;
  return Object.fromEntries([...basic.flatMap(([name, said]) => (said ? [[name, said] as const] : [])), ...own]);
}

/** What makes no sense in it is found by the check of the description. */
export function routeFrom(draft: RouteDraft, parts: readonly ArrivalPart[]): Route {
  const { name, target, action, value, examples, onlySender, reply, choices } = draft;
  const hole = HOLE.exec(value === "" ? action : value)?.[1];
  const map = hole !== undefined && examples.length > 0 ? { map: { [hole]: mappingFrom(examples) } } : {};
  const deed: Deed = { target, action, ...(value === "" ? {} : { value: numberOr(value) }), ...map };
  return {
    ...(name === "" ? {} : { name }),
    when: whenOf(parts, choices),
    ...(onlySender === "" ? {} : { only: { senders: [onlySender] } }),
    do: deed,
    ...(reply === "" ? {} : { reply }),
  };
}

/** Whether an inlet of this kind reads phrases where it has no routes. */
export function readsPhrases(kind: InletKind): boolean {
  const { direct, catches } = inletKinds[kind];
  return direct !== true && kind !== "hook" && catches !== "topic" && catches !== "channel";
}

/**
 * An inlet with one more route. Without a route it may have read phrases: the first one does not take that away.
 *
 * @param at its place among the routes, from 0
 */
export function withNewRoute(inlet: InletDescription, route: Route, at: number): InletDescription {
  const routes = inlet.routes ?? [];
  const rest = routes.length === 0 && readsPhrases(inlet.kind) ? [PHRASES] : [];
  return { ...inlet, routes: [...routes.slice(0, at), route, ...routes.slice(at), ...rest] };
}

function whenOf(parts: readonly ArrivalPart[], choices: readonly PartChoice[]): When {
  const [first] = parts;
  if (!first) return { any: true };
  const written = parts.map((part, at) => ({ part, choice: choices[at] ?? { as: "literal" } }));
  const levels = written.flatMap(({ part, choice }) => (part.kind.endsWith(" level") ? [levelOf(part, choice)] : []));
  if (first.kind === "topic level") return { topic: levels.join("/") };
  if (first.kind === "channel level") return inputWhen(levels.join("/"), parts.at(-1)?.text ?? "");
  const [words] = written;
  if (first.kind === "words" && words?.choice.as === "literal") return { words: first.text };
  if (first.kind !== "digits") {
    const looked = written.filter(({ part, choice }) => part.kind === "field" && choice.as !== "ignored");
    const fields = looked.map(({ part, choice }) => [
      part.place,
      choice.as === "hole" ? `{${choice.name}}` : part.text,
    ]);
    return looked.length === 0 ? { any: true } : { fields: Object.fromEntries(fields) };
  }
  return words?.choice.as === "literal" ? { digits: first.text } : { any: true };
}

function levelOf({ text }: ArrivalPart, choice: PartChoice): string {
  return choice.as === "hole" ? `{${choice.name}}` : choice.as === "ignored" ? "+" : text;
}

function inputWhen(channel: string, event: string): When {
  if (event === "on" || event === "off") return { channel, becomes: event };
  return { channel, pressed: event === "twice" || event === "long" ? event : "once" };
}

/**
 * Two examples of numbers are both ends of a scale; all others are a table.
 *
 * @example mappingFrom([{ said: "0", means: "off" }, { said: "1", means: "on" }]) // → { table: { "0": "off", "1": "on" } }
 * @example mappingFrom([{ said: "1023", means: "100" }, { said: "0", means: "0" }]) // → { scale: { from: [0, 1023], to: [0, 100] } }
 */
export function mappingFrom(examples: readonly ValueExample[]): Mapping {
  const [one, other] = [...examples].sort((a, b) => Number(a.said) - Number(b.said));
  const numbers = examples
    .flatMap(({ said, means }) => [said, means])
    .every((text) => typeof numberOr(text) === "number");
  if (one && other && examples.length === 2 && numbers && one.said !== other.said) {
    const from = [Number(one.said), Number(other.said)] as const;
    return { scale: { from, to: [Number(one.means), Number(other.means)] } };
  }
  return { table: Object.fromEntries(examples.map(({ said, means }) => [said, numberOr(means)])) };
}

function numberOr(text: string): string | number {
  return /^-?\d+(\.\d+)?$/.test(text.trim()) ? Number(text) : text.trim();
}
