/**
 * MQTT as a way to ask: an outside publisher writes on a topic, routes turn it into commands. A connection of its own, which
 * acknowledges an arrival only once what it asked is durable; what was kept at the broker is no wish of now. A publisher that
 * names a response topic (MQTT 5, 4.10) is told there what became of it, if the inlet answers at all.
 */
import { setTimeout as pause } from "node:timers/promises";
import { RelayError, readTraceparent, topicListener } from "@bold-relay/core";
import type { Log } from "../../platform/log.ts";
import type { Inlet, InletResult, OwnKind } from "../inlet.ts";
import type { Exchange, InletKindWay, Trial } from "../kind.ts";
import { LoopDetector } from "../loop-detector.ts";
import { type Received, Receiver } from "../receiver.ts";
import { topicArrival } from "../topic-arrival.ts";
import type { TopicPlace } from "../topic-place.ts";
import { needed } from "../trial-exchange.ts";

interface TopicDeps extends TopicPlace {
  readonly log: Log;
}

interface Settings {
  readonly retained?: boolean;
  readonly answer?: boolean;
}

const MOST_FOREIGN = 100;

class TopicInlet implements OwnKind {
  private readonly inlet: Inlet;
  private readonly deps: TopicDeps;
  private readonly settings: Settings;
  private readonly receiver: Receiver;
  private readonly loops = new LoopDetector();
  private readonly foreign = new Set<string>();

  constructor(inlet: Inlet, deps: TopicDeps) {
    this.inlet = inlet;
    this.deps = deps;
    this.settings = (inlet.description.settings ?? {}) as Settings;
    const { access, clientId } = deps;
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
    return new Set(topicListener(this.inlet.description).flatMap(({ filters }) => filters));
  }

  /** Resolves once it may be acknowledged. Rejects when it should come again. */
  private async take(message: Received): Promise<void> {
    const { topic, payload, retained, delivery, again, respondTo } = message;
    if (retained && !this.settings.retained) return;
    if (!this.deps.mayHear(this.inlet.description, topic)) return this.noteForeign(topic);
    const traceparent = readTraceparent(message.traceparent);
    const arrival = topicArrival(topic, payload);
    try {
      const from = { keyId: null, repeatKey: null, delivery, waitMs: 0, traceparent };
      // What comes again because it could not be taken has not gone round.
      const isRound = again ? this.loops.wasRound(traceparent) : this.loops.isRound(traceparent);
      if (isRound) await this.inlet.refuse(arrival, from, new RelayError("going-round"));
      const result = await this.inlet.hear(arrival, from);
      if (respondTo && this.settings.answer) void this.answer(result, respondTo);
    } catch (error) {
      // What is refused for good will not get better by coming again.
      if (error instanceof RelayError && (error.kind.status < 500 || error.code === "inlet-paused")) return;
      this.deps.log.warn({ err: error, topic }, "an arrival could not be taken");
      throw error;
    }
  }

  private async answer(first: InletResult, respondTo: NonNullable<Received["respondTo"]>): Promise<void> {
    const result = first.later === null ? first : await first.later.catch(() => first);
    const { reply, outcome, made } = result;
    const said = JSON.stringify({ reply, outcome, requests: made });
    const { description } = this.inlet;
    const problem = this.deps.answerProblem(description, respondTo.topic);
    const why = problem ?? notTaken(await this.receiver.answer(respondTo, said));
    this.inlet.told(result, { how: "topic", said: reply, taken: why === null, why });
  }

  /** Once for each topic: its owner came later than this inlet, and a chatty one must not fill the log. */
  private noteForeign(topic: string): void {
    if (this.foreign.has(topic) || this.foreign.size >= MOST_FOREIGN) return;
    this.foreign.add(topic);
    this.deps.log.warn({ inlet: this.inlet.description.slug, topic }, "not taken: the topic belongs to somebody else");
  }
}

function notTaken(reason: number): string | null {
  if (reason === 16) return "nobody listens there";
  return reason < 128 ? null : `the broker did not take it (reason ${reason})`;
}

export const topicWay: InletKindWay = {
  open: (inlet, { topic, log }) =>
    new TopicInlet(inlet, { ...topic, clientId: `${topic.clientId}-${inlet.description.slug}`, log }),
  trial: async (trial) => [await topicTrial(needed(trial.arrival.topic, "the topic"), trial)],
};

/** How long a message on a topic is given to become a request, ms. */
const TRIAL_MS = 500;

async function topicTrial(topic: string, { arrival: { text, hex }, publish }: Trial): Promise<Exchange> {
  const payload = hex ? Buffer.from(hex, "hex") : Buffer.from(text ?? "");
  await publish(topic, payload);
  await pause(TRIAL_MS);
  return { sent: `${topic}  ${hex ?? text ?? ""}`, got: "The broker has it." };
}
