/** What happens to an arrival at any inlet: is the sender permitted, what does it mean, ask it, say back what became of it. */
import type { RequestView } from "@bold-relay/api";
import {
  type Arrival,
  type Asker,
  buildRouter,
  buildVocabulary,
  type ChannelEntry,
  type Choice,
  type Decided,
  defaultReplies,
  type ErrorCode,
  fillReply,
  type InletDescription,
  type Intent,
  inletKinds,
  isPermitted,
  keptFields,
  kindOf,
  RelayError,
  type Replies,
  type Router,
  roleAt,
  type Snapshot,
  spoken,
  type Understood,
  understand,
  unreadWords,
  usedPointers,
  type Vocabulary,
} from "@bold-relay/core";
import type { ArrivalEnd } from "../store/inlet-hours.ts";
import type { InletResult, ReplyReceipt, RequestCalls, RequestOrigin } from "./inlet.ts";
import { directAsk, intentOf, plainArrival, refusedIntent, requestIn, wordsOf } from "./intents.ts";
import { Limiter } from "./limiter.ts";
import { PendingChoices } from "./pending.ts";
import { refusalWords, resultWords, type StateInput, stateWords } from "./words.ts";

export interface RequestService extends RequestCalls, StateInput {
  /** What a channel is known to be now, as text; null when nobody can say. */
  readonly observed: (channel: ChannelEntry) => string | null;
  /** Journals an arrival that asks nothing that could be done; rejects with the refusal. */
  readonly decline: (intent: Intent, asker: Asker, refusal: RelayError) => Promise<never>;
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

const MOST_UNMATCHED = 100;
/** How long an outcome is waited for after the first answer. */
const LATER_MS = 120_000;

export class InletHandler {
  readonly description: InletDescription;
  readonly router: Router;
  /** When it last refused what went round in circles, and what was beyond its limit, ms since 1970. */
  circledAt: number | null = null;
  floodedAt: number | null = null;
  /** ms since 1970. */
  readonly openedAt = Date.now();
  private readonly unmatchedAt: number[] = [];
  private readonly requests: RequestService;
  private readonly limiter: Limiter;
  private readonly replies: Replies;
  private readonly pending = new PendingChoices();
  private known: { readonly snapshot: Snapshot; readonly vocabulary: Vocabulary } | null = null;

  private readonly sites: readonly string[] | null;
  private readonly counter: ArrivalCounter;
  private readonly memberId: number | null;
  /** The places of a document that are kept of what was understood. */
  private readonly used: readonly string[] | null;

  /** @param speaker a member who speaks for themselves, and the sites that they may ask for; left out: an inlet of the team's */
  constructor(description: InletDescription, requests: RequestService, counter: ArrivalCounter, speaker?: Speaker) {
    this.counter = counter;
    this.sites = speaker ? speaker.sites : sitesOf(description);
    this.memberId = speaker?.memberId ?? null;
    this.used = usedPointers(description);
    this.description = description;
    this.requests = requests;
    this.router = buildRouter(description.routes ?? []);
    this.limiter = new Limiter(description.perMinute ?? inletKinds[description.kind].perMinute, performance.now());
    this.replies = { ...defaultReplies, ...description.replies };
  }

  /** @throws RelayError inlet-paused or too-many-attempts: nothing was looked at */
  admit(): void {
    const { paused, name } = this.description;
    if (paused) throw new RelayError("inlet-paused", { inlet: name });
    const seconds = this.limiter.take(performance.now());
    if (seconds === null) return;
    this.floodedAt = Date.now();
    throw new RelayError("too-many-attempts", { seconds });
  }

  /** When arrivals were not understood since then, ms since 1970, oldest first; the last hundred at most. */
  unmatchedSince(since: number): number[] {
    return this.unmatchedAt.filter((at) => at >= since);
  }

  noteArrival(): void {
    this.counter.arrived();
  }

  /** Counts what became of an arrival that this kind took by itself. */
  noteEnd(outcome: PromiseSettledResult<unknown>): void {
    this.counter.ended(outcome.status === "fulfilled" ? "asked" : endOfRefusal(outcome.reason));
  }

  async hear(received: Arrival, origin: RequestOrigin): Promise<InletResult> {
    this.admit();
    this.noteArrival();
    const arrival = plainArrival(received);
    if (!this.permits(arrival)) {
      this.counter.ended("unknownSenders");
      return this.said("stranger", "stranger", arrival);
    }
    const { understood, text } = this.understood(arrival);
    const asker = this.askerOf(arrival, origin);
    if ("asks" in understood) return this.askAll(understood, text, arrival, asker, origin);
    if ("ignored" in understood) this.counter.ended("answered");
    if ("ignored" in understood) return { reply: "", outcome: "ignored", requests: [], made: [], later: null };
    if ("reading" in understood) return this.answer(understood.reading, text, arrival, asker, origin);
    const refusal = this.refusalOf(understood);
    return this.decline(refusal, text, arrival, asker, origin);
  }

  /** Puts an arrival on record that is refused before it is read. Rejects with the refusal. */
  async refuse(received: Arrival, origin: RequestOrigin, refusal: RelayError): Promise<never> {
    this.admit();
    this.noteArrival();
    this.counter.ended("refused");
    if (refusal.code === "going-round") this.circledAt = Date.now();
    const arrival = plainArrival(received);
    return this.requests.decline(
      refusedIntent(wordsOf(arrival), arrival, origin),
      this.askerOf(arrival, origin),
      refusal,
    );
  }

  /** What would be made of it. Nothing is sent, kept or counted. */
  rehearse(received: Arrival): { understood: Understood; asker: Asker; permitted: boolean; reply: string } {
    const { kind, settings = {} } = this.description;
    const arrival = spoken(kind, settings, received);
    const { understood } = this.understood(arrival, false);
    const permitted = this.permits(arrival);
    const reply = permitted ? this.replyTo(understood, arrival) : this.fill("stranger", arrival, {});
    return { understood, asker: this.askerOf(arrival, { keyId: null }), permitted, reply };
  }

  get vocabulary(): Vocabulary {
    const snapshot = this.requests.snapshot();
    if (this.known?.snapshot !== snapshot) {
      this.known = { snapshot, vocabulary: buildVocabulary(snapshot, this.sites, this.description.synonyms) };
    }
    return this.known.vocabulary;
  }

  private permits({ room, sender }: Arrival): boolean {
    const { senders, kind } = this.description;
    return senders === undefined ? !inletKinds[kind].needsSenders : isPermitted(senders, room, sender);
  }

  /** With what the sender was asked before: "which one?" */
  private understood(arrival: Arrival, forget = true): { understood: Understood; text: string } {
    const who = senderOf(arrival);
    const answered = arrival.text === null ? null : this.pending.answered(who, arrival.text);
    if (forget) this.pending.forget(who);
    if (!answered) return { understood: this.read(arrival), text: wordsOf(arrival) };
    const { text, decided } = answered;
    return { understood: this.read({ ...arrival, text }, decided), text };
  }

  private read(arrival: Arrival, decided?: Decided): Understood {
    const direct = directAsk(this.description.kind, arrival.fields);
    if (direct) return { asks: [direct], used: [], route: null, reply: null };
    const input = {
      observed: (channel: ChannelEntry) => this.requests.observed(channel),
      roleOf: (from: Arrival) => roleAt(this.description.roles, from),
    };
    const { router, vocabulary } = this;
    return understand(arrival, { router, vocabulary, input, ...(decided ? { decided } : {}) });
  }

  private askerOf({ sender }: Arrival, { keyId }: Pick<RequestOrigin, "keyId">): Asker {
    const { slug, name } = this.description;
    const { sites, memberId } = this;
    const who = { inlet: slug, name: (sender ?? name).slice(0, 80) || name, sites, keyId };
    return memberId === null ? { requester: "inlet", memberId, ...who } : { requester: "member", memberId, ...who };
  }

  private async askAll(
    { asks, used, route, reply }: Extract<Understood, { asks: unknown }>,
    text: string,
    arrival: Arrival,
    asker: Asker,
    origin: RequestOrigin,
  ): Promise<InletResult> {
    const said = { words: text.slice(0, 500), route, used: used.slice(0, 50) };
    const kept = { ...arrival, fields: keptFields(arrival.fields, this.used) };
    const intents = asks.map((ask, index) => intentOf(ask, said, origin, index, kept));
    const settled = await Promise.allSettled(intents.map((intent) => this.requests.ask(intent, asker, origin.waitMs)));
    const refused = settled.filter((one) => one.status === "rejected");
    this.counter.ended(refused.length < settled.length ? "asked" : endOfRefusal(refused[0]?.reason));
    if (refused.length === settled.length) {
      // Where nothing was taken, and not for what was asked, that is no answer: the caller must hear it, and try again.
      for (const { reason } of refused) if (!isAnswer(reason)) throw reason;
    }
    const requests = settled.flatMap((one) => (one.status === "fulfilled" ? one.value : []));
    const result = this.heardOf(settled, requests, reply, arrival);
    const open = requests.filter(({ outcome }) => outcome === "open");
    if (open.length === 0) return result;
    return { ...result, later: this.later(settled, reply, arrival) };
  }

  private heardOf(
    settled: readonly PromiseSettledResult<RequestView>[],
    requests: readonly RequestView[],
    reply: string | null,
    arrival: Arrival,
  ): InletResult {
    const outcome = outcomeOfAll(settled);
    const words = { result: resultWords(settled), why: refusalWords(settled) };
    const made = settled.flatMap((one) => (one.status === "fulfilled" ? one.value.id : requestIn(one.reason)));
    const text = this.fillWith(this.templateFor(outcome, reply), arrival, words);
    return { reply: text, outcome, requests, made, later: null };
  }

  /** A route's own words are for what has been done: they may not say what it came to. */
  private templateFor(outcome: string, reply: string | null): string {
    if (outcome === "complete") return reply ?? this.replies.result;
    if (outcome === "refused") return this.replies.refused;
    return outcome === "open" ? this.replies.waiting : this.replies.result;
  }

  /** The outcome, once it is known: asked for anew, without asking twice. */
  private async later(
    settled: readonly PromiseSettledResult<RequestView>[],
    reply: string | null,
    arrival: Arrival,
  ): Promise<InletResult> {
    const followed = await Promise.allSettled(
      settled.map((one) =>
        one.status === "fulfilled" ? this.requests.follow(one.value.id, LATER_MS) : Promise.reject(one.reason),
      ),
    );
    const requests = followed.flatMap((one) => (one.status === "fulfilled" ? one.value : []));
    return this.heardOf(followed, requests, reply, arrival);
  }

  private async answer(
    reading: Extract<Understood, { reading: unknown }>["reading"],
    text: string,
    arrival: Arrival,
    asker: Asker,
    origin: RequestOrigin,
  ): Promise<InletResult> {
    if (reading.reads !== "nothing") this.counter.ended("answered");
    if (reading.reads === "which") {
      this.pending.remember(senderOf(arrival), { ...reading, text });
      return this.said("asked-which", "which", arrival, { choices: choicesIn(reading.choices) });
    }
    if (reading.reads !== "nothing") {
      const reply = this.replyTo({ reading, route: null }, arrival);
      return { reply, outcome: "answered", requests: [], made: [], later: null };
    }
    const why = unreadWords(reading.why, reading.words, reading.nearest);
    const refusal = new RelayError("not-understood", { why, nearest: [...reading.nearest] });
    return this.decline(refusal, text, arrival, asker, origin);
  }

  private refusalOf(understood: Extract<Understood, { unmapped: string } | { noRoute: true }>): RelayError {
    if ("noRoute" in understood) return new RelayError("no-route", { inlet: this.description.name });
    const known = understood.known.slice(0, 10).map((one) => `“${one}”`);
    const why = `“${understood.unmapped}” means nothing here.${known.length > 0 ? ` It takes ${known.join(", ")}.` : ""}`;
    return new RelayError("not-understood", { why, nearest: understood.known.slice(0, 10) });
  }

  /** Kept in the journal, then told. */
  private async decline(
    refusal: RelayError,
    text: string,
    arrival: Arrival,
    asker: Asker,
    origin: RequestOrigin,
  ): Promise<InletResult> {
    this.counter.ended("notUnderstood");
    this.unmatchedAt.push(Date.now());
    if (this.unmatchedAt.length > MOST_UNMATCHED) this.unmatchedAt.shift();
    const kept = await this.requests
      .decline(refusedIntent(text, arrival, origin), asker, refusal)
      .catch((error: unknown) => {
        if (!(error instanceof RelayError) || error.code !== refusal.code) throw error;
        return requestIn(error);
      });
    return { ...this.said("unmatched", "unknown", arrival, { why: whyOf(refusal) }), made: kept };
  }

  private said(
    outcome: string,
    which: keyof Replies,
    arrival: Arrival,
    more: Record<string, string> = {},
  ): InletResult {
    return { reply: this.fill(which, arrival, more), outcome, requests: [], made: [], later: null };
  }

  private fill(which: keyof Replies, arrival: Arrival, more: Record<string, string>): string {
    return this.fillWith(this.replies[which], arrival, more);
  }

  private fillWith(template: string, { sender, text }: Arrival, more: Record<string, string>): string {
    const { name } = this.description;
    return fillReply(template, { sender: sender ?? "", words: text ?? "", name, example: this.example(), ...more });
  }

  private replyTo(understood: Understood, arrival: Arrival): string {
    if ("ignored" in understood) return "";
    if ("asks" in understood) return this.fillWith(understood.reply ?? this.replies.result, arrival, { result: "…" });
    if (!("reading" in understood)) return this.fill("unknown", arrival, { why: whyOf(this.refusalOf(understood)) });
    const { reading } = understood;
    switch (reading.reads) {
      case "help":
        return this.fill("help", arrival, {});
      case "greeting":
        return this.fill("greeting", arrival, {});
      case "question":
        return stateWords(reading.question, this.requests);
      case "which":
        return this.fill("which", arrival, { choices: choicesIn(reading.choices) });
      case "nothing":
        return this.fill("unknown", arrival, { why: unreadWords(reading.why, reading.words, reading.nearest) });
    }
  }

  private example(): string {
    const channel = this.vocabulary.channels.find(({ kind }) => "on" in kindOf(kind).actions);
    return channel ? `${channel.name.toLowerCase()} in ${channel.room.name} on` : "porch lantern on";
  }
}

function sitesOf({ site }: InletDescription): readonly string[] | null {
  return site === null ? null : [site];
}

/** Whether an error is about what was asked: not our own trouble, and not about who asks. */
function isAnswer(reason: unknown): boolean {
  return reason instanceof RelayError && reason.kind.status < 500 && reason.kind.status !== 401;
}

/** Nothing of that name, or no words that are known: not understood. Everything else was, and is refused. */
function endOfRefusal(reason: unknown): ArrivalEnd {
  const code = reason instanceof RelayError ? reason.code : "internal";
  return NOT_UNDERSTOOD.includes(code) ? "notUnderstood" : "refused";
}

const NOT_UNDERSTOOD: readonly ErrorCode[] = [
  "bad-json",
  "bad-request",
  "unknown-channel",
  "ambiguous-name",
  "wildcard-in-name",
  "not-understood",
  "no-route",
];

function senderOf({ room, sender }: Arrival): string {
  return `${room ?? ""} ${sender ?? ""}`;
}

function choicesIn(choices: readonly Choice[]): string {
  return choices.map(({ name }, index) => `(${index + 1}) ${name}`).join(" ");
}

/** The refusal's own reason, without the words that every reply has around it. */
function whyOf(refusal: RelayError): string {
  const { why } = refusal.facts;
  return typeof why === "string" ? why : refusal.message;
}

function outcomeOfAll(settled: readonly PromiseSettledResult<RequestView>[]): string {
  const outcomes = new Set(settled.map((one) => (one.status === "fulfilled" ? one.value.outcome : "refused")));
  const [only] = outcomes;
  if (outcomes.size === 1 && only) return only;
  if (outcomes.has("open")) return "open";
  return outcomes.has("complete") || outcomes.has("partly") ? "partly" : "not-at-all";
}
