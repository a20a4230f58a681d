/**
 * MQTT as a way to ask: an outside publisher writes on a topic, routes turn it into commands. A connection of its own, which
 * acknowledges an arrival only once what it asked is durable; what was kept at the broker is no wish of now.
 */
import { randomUUID } from "node:crypto";
import { decodeText, NO_ARRIVAL, payloadText, RelayError } from "@bold-relay/core";
import { connect, type MqttClient } from "mqtt";
import type { Log } from "../log.ts";
import type { Inlet, OwnKind } from "./inlet.ts";

export interface TopicParts {
  readonly url: string;
  readonly username: string | undefined;
  readonly password: string | undefined;
  readonly clientId: string;
  readonly log: Log;
}

interface Settings {
  readonly retained?: boolean;
}

/** What the broker keeps for it while it is away, s. */
const KEPT_S = 300;
const AT_ONCE = 64;
/** How long an arrival that could not be taken waits before the broker hands it over again, ms. */
const AGAIN_MS = 1_000;

export class TopicInlet implements OwnKind {
  health = { up: false, trouble: "It has not reached the broker so far." as string | null };
  private readonly inlet: Inlet;
  private readonly parts: TopicParts;
  /** By the number that the broker gave it: arrivals that are not acknowledged yet. */
  private readonly underWay = new Map<number, string>();
  private client: MqttClient | null = null;

  constructor(inlet: Inlet, parts: TopicParts) {
    this.inlet = inlet;
    this.parts = parts;
  }

  start(): void {
    const { url, username, password, clientId } = this.parts;
    const client = connect(url, {
      protocolVersion: 5,
      clientId,
      ...(username === undefined ? {} : { username }),
      ...(password === undefined ? {} : { password }),
      clean: false,
      properties: { sessionExpiryInterval: KEPT_S, receiveMaximum: AT_ONCE },
      reconnectPeriod: 1_000,
      // PUBACK only once it is durable: else a crash would lose what the broker thinks we have.
      customHandleAcks: (topic, message, packet, done) => {
        const { retain, messageId = 0 } = packet as { retain: boolean; messageId?: number };
        // What comes again because its acknowledgement was withheld is the same arrival, and is done once.
        const repeatKey = this.underWay.get(messageId) ?? randomUUID();
        this.underWay.set(messageId, repeatKey);
        this.receive(topic, message as Buffer, retain, repeatKey).then(
          () => {
            this.underWay.delete(messageId);
            done(0);
          },
          (error: Error) => {
            this.parts.log.warn({ err: error, topic }, "an arrival could not be taken");
            // Not acknowledged: with a new connection it comes again.
            setTimeout(() => client.stream.destroy(), AGAIN_MS).unref();
          },
        );
      },
    });
    this.client = client;
    client.on("connect", () => {
      (client.stream as { setNoDelay?: (on: boolean) => void }).setNoDelay?.(true);
      client.subscribeAsync([...this.filters()], { qos: 1, rh: 2 }).then(
        () => {
          this.health = { up: true, trouble: null };
        },
        (error: Error) => {
          this.health = { up: false, trouble: `The broker refuses its topics: ${error.message}` };
        },
      );
    });
    // QoS 0 knows no acknowledgement: such an arrival is taken as it comes, or lost.
    client.on("message", (topic, message, { qos, retain }) => {
      if (qos === 0) this.receive(topic, message, retain, null).catch(() => {});
    });
    client.on("close", () => {
      this.health = { up: false, trouble: "Its connection to the broker is down; it is tried again." };
    });
    client.on("error", (error) => {
      this.health = { up: false, trouble: `The broker: ${error.message}` };
    });
  }

  async stop(): Promise<void> {
    const client = this.client;
    this.client = null;
    await client?.endAsync(!client.connected);
  }

  private filters(): Set<string> {
    const topics = (this.inlet.description.routes ?? []).flatMap(({ when }) => ("topic" in when ? when.topic : []));
    return new Set(topics.map((topic) => topic.replace(/\{[a-zA-Z]\w*\}/g, "+")));
  }

  /** Resolves once it may be acknowledged. Rejects when it should come again. */
  private async receive(topic: string, message: Buffer, retained: boolean, repeatKey: string | null): Promise<void> {
    const { retained: wanted = false } = (this.inlet.description.settings ?? {}) as Settings;
    if (retained && !wanted) return;
    const text = textOf(message);
    const arrival = { ...NO_ARRIVAL, topic, text, fields: documentIn(text) };
    try {
      await this.inlet.hear(arrival, { keyId: null, repeatKey, waitMs: 0 });
    } catch (error) {
      // What is refused for good will not get better by coming again.
      if (error instanceof RelayError && (error.kind.status < 500 || error.code === "inlet-paused")) return;
      throw error;
    }
  }
}

function textOf(message: Buffer): string {
  try {
    return decodeText(message).slice(0, 4_096);
  } catch {
    return payloadText(message);
  }
}

function documentIn(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
