/** What happens to an arrival at any inlet, in one line: permit, understand, submit, answer. */
import {
  type Arrival,
  type Asker,
  type ChannelEntry,
  fullAddress,
  type InletDescription,
  type InletKind,
  type Intent,
  inletKinds,
  inletWay,
  isPermitted,
  keptFields,
  RelayError,
  type Router,
  routeWays,
  spoken,
  type Understood,
  usedPointers,
  type Vocabulary,
} from "@bold-relay/core";
import type { ArrivalEnd } from "../store/inlet-hours.ts";
import { AnswerWriter } from "./answer.ts";
import { ArrivalReader, type Meaning } from "./arrival-reader.ts";
import { type Became, endOf, endOfRefusal, type Settled, troubleIn } from "./became.ts";
import type { InletResult, ReplyReceipt, RequestCalls, RequestOrigin } from "./inlet.ts";
import { intentOf, plainArrival, refusedIntent, requestIn, wordsOf } from "./intents.ts";
import { Limiter } from "./limiter.ts";
import type { StateInput } from "./words.ts";

export interface RequestService extends RequestCalls, StateInput {
  /** What a channel is known to be now, as text; null when nobody can say. */
  readonly observed: (channel: ChannelEntry) => string | null;
  /** Journals an arrival that asks nothing that could be done; rejects with the refusal. */
  readonly decline: (intent: Intent, asker: Asker, refusal: RelayError) => Promise<never>;
  /** How many instances answer inlets of a kind at the same time: each lets its part of the limit through. */
  readonly instancesOf: (kind: InletKind) => number;
  /** What is asked of channels that are looked after apart is several requests. */
  readonly split: (intent: Intent) => Intent[];
  /** Counts a request that was answered or ignored, and is kept nowhere. */
  readonly caught: (way: string, asker: Asker) => void;
  /** Puts on record what was said back to a request. */
  readonly told: (request: string, receipt: ReplyReceipt) => void;
}

interface Speaker {
  readonly sites: readonly string[] | null;
  readonly memberId: number;
}

/** Counts what came, and what became of it. */
export interface ArrivalCounter {
  arrived(): void;
  ended(end: ArrivalEnd): void;
}

/** For rehearsals, and for members who say something at the console: no inlet of the team's counts that. */
export const UNCOUNTED: ArrivalCounter = { arrived: () => {}, ended: () => {} };

/** An arrival with all that is known of where it came from. */
interface FromSender {
  readonly arrival: Arrival;
  readonly asker: Asker;
  readonly origin: RequestOrigin;
}

const MOST_NOT_UNDERSTOOD = 100;
/** How long an outcome is waited for after the first answer. */
const LATER_MS = 120_000;

/** What an arrival would mean and be answered. */
interface Rehearsed {
  readonly understood: Understood;
  readonly asker: Asker;
  readonly permitted: boolean;
  readonly reply: string;
  /** Set where it asks nothing that can be understood. */
  readonly refusal: RelayError | null;
}

export class InletHandler {
  readonly description: InletDescription;
  /** When it last refused what went round in circles, and what was beyond its limit, ms since 1970. */
  circledAt: number | null = null;
  floodedAt: number | null = null;
  /** ms since 1970. */
  readonly openedAt = Date.now();
  private readonly notUnderstoodAt: number[] = [];
  private readonly requests: RequestService;
  private readonly perMinute: number;
  private readonly limiter: Limiter;
  private readonly reader: ArrivalReader;
  private readonly writer: AnswerWriter;
  private readonly sites: readonly string[] | null;
  private readonly counter: ArrivalCounter;
  private readonly memberId: number | null;
  /** The places of a document that are kept of what was understood. */
  private readonly used: readonly string[] | null;
  /** Under which each of its routes is counted, in order. */
  private readonly ways: readonly string[];

  /** @param speaker a member who speaks for themselves, and the sites that they may ask for; left out: an inlet of the team's */
  constructor(description: InletDescription, requests: RequestService, counter: ArrivalCounter, speaker?: Speaker) {
    this.counter = counter;
    this.sites = speaker ? speaker.sites : description.site === null ? null : [description.site];
    this.memberId = speaker?.memberId ?? null;
    this.used = usedPointers(description);
    this.ways = routeWays(description);
    this.description = description;
    this.requests = requests;
    this.reader = new ArrivalReader(description, this.sites, requests);
    this.writer = new AnswerWriter(description, requests, () => this.reader.vocabulary);
    this.perMinute = description.perMinute ?? inletKinds[description.kind].perMinute;
    this.limiter = new Limiter(this.perMinute, performance.now());
  }

  get router(): Router {
    return this.reader.router;
  }

  get vocabulary(): Vocabulary {
    return this.reader.vocabulary;
  }

  /** @throws RelayError inlet-paused or rate-exceeded: nothing was looked at */
  admit(): void {
    const { paused, name } = this.description;
    if (paused) throw new RelayError("inlet-paused", { inlet: name });
    const seconds = this.limiter.take(performance.now(), this.requests.instancesOf(this.description.kind));
    if (seconds === null) return;
    this.floodedAt = Date.now();
    throw new RelayError("rate-exceeded", { inlet: name, perMinute: this.perMinute, seconds });
  }

  /** When arrivals were not understood since then, ms since 1970, oldest first; the last hundred at most. */
  notUnderstoodSince(since: number): number[] {
    return this.notUnderstoodAt.filter((at) => at >= since);
  }

  noteArrival(): void {
    this.counter.arrived();
  }

  /** Counts what became of an arrival that this kind took by itself. */
  noteEnd(outcome: PromiseSettledResult<unknown>): void {
    this.counter.ended(outcome.status === "fulfilled" ? "asked" : endOfRefusal(outcome.reason));
  }

  /** @throws RelayError where it was not taken, and not for what it asks: the caller should try again */
  async hear(received: Arrival, origin: RequestOrigin): Promise<InletResult> {
    const from = this.arrived(received, origin);
    const became = this.permits(from.arrival) ? await this.take(from) : ({ became: "unknown-sender" } as const);
    this.counter.ended(endOf(became));
    const trouble = troubleIn(became);
    if (trouble) throw trouble.reason;
    return { ...this.writer.answer(became, from.arrival), later: this.later(became, from.arrival) };
  }

  /** Puts an arrival on record that is refused before it is read. Rejects with the refusal. */
  async refuse(received: Arrival, origin: RequestOrigin, refusal: RelayError): Promise<never> {
    const { arrival, asker } = this.arrived(received, origin);
    this.counter.ended("refused");
    if (refusal.code === "going-round") this.circledAt = Date.now();
    return this.requests.decline(refusedIntent(wordsOf(arrival), arrival, origin), asker, refusal);
  }

  /** What would be made of it. Nothing is sent, kept or counted. */
  rehearse(received: Arrival): Rehearsed {
    const { kind, settings = {} } = this.description;
    const arrival = spoken(kind, settings, this.addressed(received));
    const { understood } = this.reader.understood(arrival);
    const permitted = this.permits(arrival);
    const meaning = this.reader.meaningOf(understood);
    const reply = this.writer.rehearsed(meaning, permitted, arrival);
    const refusal = meaning.means === "nothing" ? meaning.refusal : null;
    return { understood, asker: this.askerOf(arrival, { keyId: null }), permitted, reply, refusal };
  }

  private arrived(received: Arrival, origin: RequestOrigin): FromSender {
    this.admit();
    this.noteArrival();
    const arrival = plainArrival(received);
    return { arrival, asker: this.askerOf(arrival, origin), origin };
  }

  /** Whoever types an input may leave out the site. */
  private addressed(arrival: Arrival): Arrival {
    const { channel } = arrival;
    return channel === null ? arrival : { ...arrival, channel: fullAddress(channel, this.description.site) };
  }

  private permits({ room, sender }: Arrival): boolean {
    const { senders, kind } = this.description;
    return senders === undefined ? !inletKinds[kind].needsSenders : isPermitted(senders, room, sender);
  }

  private async take(from: FromSender): Promise<Became> {
    const { meaning, text } = this.reader.read(from.arrival);
    switch (meaning.means) {
      case "asks":
        return { became: "asked", settled: await this.submit(meaning, text, from), reply: meaning.reply };
      case "talk":
        this.requests.caught(this.wayOf(meaning.route), from.asker);
        if (meaning.reading.reads === "which") this.reader.rememberChoice(from.arrival, text, meaning.reading);
        return { became: "talk", reading: meaning.reading };
      case "ignore":
        this.requests.caught(this.wayOf(meaning.route), from.asker);
        return { became: "ignored" };
      case "nothing": {
        const { refusal, route } = meaning;
        return { became: "not-understood", refusal, made: await this.decline(refusal, route, text, from) };
      }
    }
  }

  private submit(
    { asks, used, route }: Extract<Meaning, { means: "asks" }>,
    text: string,
    { arrival, asker, origin }: FromSender,
  ): Promise<Settled> {
    const said = { words: text.slice(0, 500), route, used: used.slice(0, 50) };
    const kept = { ...arrival, fields: keptFields(arrival.fields, this.used) };
    const way = this.wayOf(route);
    const intents = asks.map((ask, index) => intentOf(ask, said, origin, index, kept, way));
    const parts = intents.flatMap((intent) => this.requests.split(intent));
    return Promise.allSettled(parts.map((intent) => this.requests.ask(intent, asker, origin.waitMs)));
  }

  /** Puts on record what was not understood. */
  private async decline(
    refusal: RelayError,
    route: number | null,
    text: string,
    { arrival, asker, origin }: FromSender,
  ): Promise<string[]> {
    this.notUnderstoodAt.push(Date.now());
    if (this.notUnderstoodAt.length > MOST_NOT_UNDERSTOOD) this.notUnderstoodAt.shift();
    try {
      return await this.requests.decline(refusedIntent(text, arrival, origin, this.wayOf(route)), asker, refusal);
    } catch (error) {
      if (error instanceof RelayError && error.code === refusal.code) return requestIn(error);
      this.counter.ended("notUnderstood");
      throw error;
    }
  }

  private wayOf(route: number | null): string {
    return (route === null ? undefined : this.ways[route - 1]) ?? inletWay(this.description.slug, null);
  }

  /** The answer once all outcomes are known: followed, without asking twice. null: nothing is open. */
  private later(became: Became, arrival: Arrival): Promise<InletResult> | null {
    if (became.became !== "asked") return null;
    const { settled, reply } = became;
    if (!settled.some((one) => one.status === "fulfilled" && one.value.outcome === "open")) return null;
    const follow = (one: Settled[number]) =>
      one.status === "fulfilled" ? this.requests.follow(one.value.id, LATER_MS) : Promise.reject(one.reason);
    return Promise.allSettled(settled.map(follow)).then((followed) => ({
      ...this.writer.answer({ became: "asked", settled: followed, reply }, arrival),
      later: null,
    }));
  }

  private askerOf({ sender }: Arrival, { keyId, session }: Pick<RequestOrigin, "keyId" | "session">): Asker {
    const { slug, name } = this.description;
    const { sites, memberId } = this;
    const who = { inlet: slug, name: (sender ?? name).slice(0, 80) || name, sites, keyId };
    if (memberId === null) return { requester: "inlet", memberId, ...who };
    return { requester: "member", memberId, ...who, ...(session === undefined ? {} : { session }) };
  }
}
