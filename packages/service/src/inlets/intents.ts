/** From what an arrival was understood to ask to the intents that are journaled, with what came word for word. */
import {
  type Arrival,
  eventWords,
  type InletKind,
  type Intent,
  inletKinds,
  isInputEvent,
  type PhraseAsk,
  plainDocument,
  plainText,
  RelayError,
  type Said,
} from "@bold-relay/core";
import type { RequestOrigin } from "./inlet.ts";

/** Characters of JSON. */
const MOST_KEPT = 4_000;

/** Of an arrival that asks several things, the first keeps what came word for word. */
export function intentOf(
  ask: PhraseAsk,
  said: Said,
  { repeatKey, delivery = null, traceparent = null }: RequestOrigin,
  index: number,
  arrival: Arrival,
  way: string,
): Intent {
  // Each of several asks of one arrival is a call of its own.
  const own = (name: string | null) => (name === null || index === 0 ? name : `${name}#${index}`);
  const kept = index === 0 ? { ...said, ...keptArrival(arrival) } : said;
  return { ...ask, until: null, repeatKey: own(repeatKey), delivery: own(delivery), said: kept, traceparent, way };
}

/** Of an arrival that asks nothing that could be done. */
export function refusedIntent(
  text: string,
  arrival: Arrival,
  { repeatKey, delivery = null, traceparent = null }: RequestOrigin,
  way: string | null = null,
): Intent {
  const words = text === "" ? "(nothing)" : text;
  const said = { words: words.slice(0, 500), route: null, used: [], ...keptArrival(arrival) };
  const asked = { target: words.slice(0, 200), action: "say", value: null, forMs: null, until: null };
  return { ...asked, repeatKey, delivery, said, traceparent, way };
}

/** What is kept word for word, to be tried again against other routes; what is very long is not. */
export function keptArrival(arrival: Arrival): Pick<Said, "arrival"> {
  const known: Record<string, unknown> = {};
  for (const [name, value] of Object.entries(arrival))
    if (value !== null && value !== undefined) known[name] = plainDocument(value);
  return JSON.stringify(known).length > MOST_KEPT ? {} : { arrival: known as Partial<Arrival> };
}

/** The request that a refusal was put on record as. */
export function requestIn(reason: unknown): string[] {
  const request = reason instanceof RelayError ? reason.facts.request : undefined;
  return typeof request === "string" ? [request] : [];
}

/** What programs ask of a web inlet or a panel needs no reading; it comes by here only to be rehearsed. */
export function directAsk(kind: InletKind, fields: unknown): PhraseAsk | null {
  const { target, action, value = null, forMs = null } = (fields ?? {}) as Partial<PhraseAsk>;
  if (!inletKinds[kind].direct || typeof target !== "string" || typeof action !== "string") return null;
  return { target, among: null, action, value, forMs };
}

/** What can be journaled and shown, whatever came. */
export function plainArrival(arrival: Arrival): Arrival {
  const { text, sender, room, topic } = arrival;
  const plain = (one: string | null) => (one === null ? null : plainText(one));
  return { ...arrival, text: plain(text), sender: plain(sender), room: plain(room), topic: plain(topic) };
}

/** An arrival as one line of words. */
export function wordsOf({ text, topic, fields, digits, channel }: Arrival): string {
  if (channel !== null) return `${channel} ${isInputEvent(text) ? eventWords(text) : (text ?? "")}`.trim();
  if (topic !== null) return `${topic} ${text ?? ""}`.trim();
  return (
    text?.replaceAll('"', "").trim() ??
    digits ??
    (fields === null || fields === undefined ? "" : JSON.stringify(fields).slice(0, 500))
  );
}
