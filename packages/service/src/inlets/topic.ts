/**
 * MQTT as a way to ask: an outside publisher writes on a topic, routes turn it into commands. A connection of its own, which
 * acknowledges an arrival only once what it asked is durable; what was kept at the broker is no wish of now. A publisher that
 * names a response topic (MQTT 5, 4.10) is told there what became of it, if the inlet answers at all.
 */
import { decodeText, NO_ARRIVAL, payloadText, plainText, RelayError, readTraceparent } from "@bold-relay/core";
import type { BrokerAccess } from "../config/broker-access.ts";
import type { Log } from "../log.ts";
import { Circles } from "./circles.ts";
import type { Heard, Inlet, OwnKind } from "./inlet.ts";
import { type Received, Receiver } from "./receiver.ts";

export interface TopicParts {
  readonly access: BrokerAccess;
  readonly clientId: string;
  /** Whether a topic is one on which devices are told, or tell: no place for an answer. */
  readonly isDeviceTopic: (topic: string) => boolean;
  readonly log: Log;
}

interface Settings {
  readonly retained?: boolean;
  readonly answer?: boolean;
}

const MOST_TEXT = 4_096;

export class TopicInlet implements OwnKind {
  private readonly inlet: Inlet;
  private readonly parts: TopicParts;
  private readonly settings: Settings;
  private readonly receiver: Receiver;
  private readonly circles = new Circles();

  constructor(inlet: Inlet, parts: TopicParts) {
    this.inlet = inlet;
    this.parts = parts;
    this.settings = (inlet.description.settings ?? {}) as Settings;
    const { access, clientId } = parts;
    this.receiver = new Receiver({ access, clientId, filters: [...this.filters()], take: (one) => this.take(one) });
  }

  get health(): OwnKind["health"] {
    return this.receiver.health;
  }

  start(): void {
    this.receiver.start();
  }

  stop(): Promise<void> {
    return this.receiver.stop();
  }

  private filters(): Set<string> {
    const topics = (this.inlet.description.routes ?? []).flatMap(({ when }) => ("topic" in when ? when.topic : []));
    return new Set(topics.map((topic) => topic.replace(/\{[a-zA-Z]\w*\}/g, "+")));
  }

  /** Resolves once it may be acknowledged. Rejects when it should come again. */
  private async take(message: Received): Promise<void> {
    const { topic, payload, retained, repeatKey, again, respondTo } = message;
    if (retained && !this.settings.retained) return;
    const text = textOf(payload);
    const hex = isPlain(text, payload) ? null : Buffer.from(payload).toString("hex");
    const traceparent = readTraceparent(message.traceparent);
    const arrival = { ...NO_ARRIVAL, topic, text, hex, fields: documentIn(text) };
    try {
      const from = { keyId: null, repeatKey, waitMs: 0, traceparent };
      // What comes again because it could not be taken has not gone round.
      const isRound = again ? this.circles.wasRound(traceparent) : this.circles.isRound(traceparent);
      if (isRound) await this.inlet.refuse(arrival, from, new RelayError("going-round"));
      const heard = await this.inlet.hear(arrival, from);
      if (respondTo && this.settings.answer) void this.answer(heard, respondTo);
    } catch (error) {
      // What is refused for good will not get better by coming again.
      if (error instanceof RelayError && (error.kind.status < 500 || error.code === "inlet-paused")) return;
      this.parts.log.warn({ err: error, topic }, "an arrival could not be taken");
      throw error;
    }
  }

  private async answer(first: Heard, respondTo: NonNullable<Received["respondTo"]>): Promise<void> {
    const heard = first.later === null ? first : await first.later.catch(() => first);
    const { reply, outcome, made } = heard;
    const said = JSON.stringify({ reply, outcome, requests: made });
    const why = this.whyNotThere(respondTo.topic) ?? notTaken(await this.receiver.answer(respondTo, said));
    this.inlet.told(heard, { how: "topic", said: reply, taken: why === null, why });
  }

  /** An answer must not switch anything: the publisher chose its topic. */
  private whyNotThere(topic: string): string | null {
    if (topic.startsWith("$") || /[+#]/.test(topic)) return `${topic} is no topic for an answer`;
    return this.parts.isDeviceTopic(topic) ? `${topic} belongs to a device` : null;
  }
}

function notTaken(reason: number): string | null {
  if (reason === 16) return "nobody listens there";
  return reason < 128 ? null : `the broker did not take it (reason ${reason})`;
}

function textOf(message: Uint8Array): string {
  try {
    return decodeText(message).slice(0, MOST_TEXT);
  } catch {
    return payloadText(message);
  }
}

function isPlain(text: string, payload: Uint8Array): boolean {
  return plainText(text) === text && Buffer.from(payload).equals(Buffer.from(text));
}

/** Most payloads are a bare word: trying and failing to read each as JSON would cost more than all the rest. */
function documentIn(text: string): unknown {
  if (!/^\s*[[{"]/.test(text)) return null;
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
