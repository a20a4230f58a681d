/** What a kind of inlet says of itself: everything about it but its form of settings and its way in. */
import type { PhraseAsk } from "../../phrase/reading.ts";
import type { Finding } from "../../site/finding.ts";
import type { Snapshot } from "../../site/snapshot.ts";
import type { TopicTeller } from "../../site/topic-right.ts";
import type { Arrival, InletDescription } from "../model.ts";

export interface InletKindForm {
  /** One line for lists and forms. */
  readonly about: string;
  /** Arrivals a minute unless its description says otherwise. Where people write a flood is a mistake; where programs call it may be their day. */
  readonly perMinute: number;
  /** What a first description has beside name and site. */
  readonly draft: Pick<InletDescription, "routes" | "settings" | "senders" | "synonyms">;
  /** What to try one of the kind with first. */
  readonly example: Partial<Arrival>;
  /** The same of a certain one, where its description tells; null: it does not. */
  exampleOf?(inlet: InletDescription): Partial<Arrival> | null;
  /** Where its callers are, an address or words. Left out: `/in/<slug>`. */
  place?(inlet: InletDescription): string;
  /** It is a page of its own, put together of items and shared by links. */
  readonly page?: true;
  /** How a caller calls it, ready to paste; the key is left out. */
  caller(inlet: InletDescription, place: CallerPlace): string;
  /** What else than fields, words and phrases its routes may look at. */
  readonly catches?: "topic" | "digits" | "channel";
  /** With what a test request proves itself: one of its keys, a key or its signature, or nothing. Default: a key. */
  readonly proof?: "key or signature" | "none";
  /** What a person types to rehearse it, each with its label. */
  readonly typed: readonly (readonly [part: keyof Arrival, label: string])[];
  /** Programs name target and action in fields; no words are read. */
  readonly direct?: true;
  /** Whether its callers may ask this there. Left out: whatever the inlet's sites have. */
  offers?(inlet: InletDescription, ask: Pick<PhraseAsk, "target" | "action">, snapshot: Snapshot): boolean;
  /** Its documents are made by others: only what a route or a setting looks at is kept of them. */
  readonly foreign?: true;
  /** Nobody may ask until its description names senders. Default: whoever has a key may. */
  readonly needsSenders?: true;
  /** Its callers have no key of ours: the broker says who may write on its topics. */
  readonly keyless?: true;
  /** What is wrong with a description of this kind, beyond its form. */
  findings?(inlet: InletDescription, around: InletSurroundings): Finding[];
  /** What an arrival of programs or keys says in words; null: nothing. Left out: it comes in words. */
  spoken?(arrival: Arrival, settings: Readonly<Record<string, unknown>>): string | null;
}

/** What a description is checked against. */
interface InletSurroundings {
  readonly snapshot: Snapshot;
  /** The other inlets that there are. */
  readonly others: readonly InletDescription[];
  /** The notifications that are published. */
  readonly tellers: readonly TopicTeller[];
  /** Filters of topics that the service keeps for itself. */
  readonly reserved: readonly string[];
}

export interface CallerPlace {
  /** Of the service: http://127.0.0.1:4180 */
  readonly origin: string;
  /** The address of some channel. */
  readonly channel: string;
}

const KEY = '-H "Authorization: Bearer $KEY"';

/** A POST with one of the inlet's keys. */
export function curlPost(origin: string, path: string, type: string, body: string): string {
  return `curl -X POST '${origin}/in/${path}' ${KEY} \\\n  -H 'Content-Type: ${type}' -H 'Prefer: wait=5' -d '${body}'`;
}

/** A GET with one of the inlet's keys. */
export function curlGet(origin: string, path: string): string {
  return `curl ${KEY} '${origin}/in/${path}'`;
}

/** The route of an inlet where people write. */
export const PHRASES = { name: "whatever is understood", when: { phrase: true }, do: { phrase: "{text}" } } as const;
