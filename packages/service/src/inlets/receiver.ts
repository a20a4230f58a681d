/**
 * Receives at the broker, and acknowledges an arrival once what it asked is durable: many are under way at once, and are
 * acknowledged in the order in which they came (MQTT 5, 4.6). The broker's limit is our receive maximum: it sends no more
 * than that unacknowledged (3.3.4).
 */
import { randomUUID } from "node:crypto";
import type { IPublishPacket } from "mqtt-packet";
import { BrokerConnection } from "../broker/broker-connection.ts";
import type { BrokerAccess } from "../platform/config/broker-access.ts";

export interface Received {
  readonly topic: string;
  readonly payload: Uint8Array;
  readonly retained: boolean;
  /** The same when it comes again for want of an acknowledgement; null at QoS 0, where nothing comes again. */
  readonly delivery: string | null;
  /** It came before, and was not acknowledged, or its acknowledgement was lost. */
  readonly again: boolean;
  /** As its publisher gave it, unchecked. */
  readonly traceparent: unknown;
  /** Where its publisher wants to be answered (MQTT 5, 4.10). */
  readonly respondTo: { readonly topic: string; readonly correlation: Buffer | undefined } | null;
}

export interface ReceiverDeps {
  readonly access: BrokerAccess;
  readonly clientId: string;
  readonly filters: readonly string[];
  /** Resolves once it may be acknowledged. Rejects when it should come again. */
  readonly take: (message: Received) => Promise<void>;
}

/** What the broker keeps for us while we are away, s. */
const KEPT_S = 300;
const AT_ONCE = 256;
const LARGEST_BYTES = 65_536;
/** Arrivals that are known again when the acknowledgement of them was lost with the connection. */
const MOST_REMEMBERED = 4 * AT_ONCE;
/** How long before it is tried again, and before an arrival that could not be taken is fetched again, ms. */
const AGAIN_MS = 1_000;
const ANSWER_WITHIN_MS = 5_000;
/** PUBACK reason for what was never receipted. */
const LOST = 0x80;

interface UnderWay {
  readonly messageId: number;
  done: boolean;
}

export class Receiver {
  health = { up: false, trouble: "It has not reached the broker so far." as string | null };
  private readonly deps: ReceiverDeps;
  /** By the number that the broker gave it: what makes an arrival that comes again the same one. The oldest first. */
  private readonly deliveries = new Map<number, string>();
  private readonly answers = new Set<(reason: number) => void>();
  private connection: BrokerConnection | null = null;
  private underWay: UnderWay[] = [];
  private unacknowledgedByUs = 0;
  private again: NodeJS.Timeout | null = null;
  private stopped = false;

  constructor(deps: ReceiverDeps) {
    this.deps = deps;
  }

  start(): void {
    this.open().catch((error: Error) => this.lost(error.message));
  }

  /** Takes leave: what the broker sends from now on waits there. */
  async stop(): Promise<void> {
    this.stopped = true;
    if (this.again) clearTimeout(this.again);
    await this.connection?.close();
  }

  /**
   * Answers a publisher.
   *
   * @returns the PUBACK's reason code (MQTT 5, 3.4.2.1): 16 when nobody listens there
   */
  answer({ topic, correlation }: NonNullable<Received["respondTo"]>, payload: string): Promise<number> {
    const { connection } = this;
    if (!connection?.isOpen || !this.health.up || this.answers.size >= AT_ONCE) return Promise.resolve(LOST);
    return new Promise((resolve) => {
      const settle = (reason: number): void => {
        clearTimeout(timer);
        this.answers.delete(settle);
        resolve(reason);
      };
      const timer = setTimeout(() => settle(LOST), ANSWER_WITHIN_MS);
      timer.unref();
      this.answers.add(settle);
      const message = { topic, payload: Buffer.from(payload), qos: 1 } as const;
      connection.publish(correlation === undefined ? message : { ...message, correlation }, settle);
    });
  }

  private async open(): Promise<void> {
    const { access, clientId, filters } = this.deps;
    const connection = await BrokerConnection.connect(
      { access, clientId, sessionExpiryS: KEPT_S, receiveMaximum: AT_ONCE, largestBytes: LARGEST_BYTES },
      {
        onMessage: (message, from) => {
          this.begin(from);
          this.arrived(message, from);
        },
        onClose: (why, which) => {
          if (which === this.connection) this.lost(why);
        },
      },
    );
    this.begin(connection);
    if (this.stopped) return connection.destroy(new Error("it is stopped"));
    try {
      const granted = await connection.subscribe(filters, { qos: 1, newsOnly: true });
      const refused = filters.filter((_, index) => (granted[index] ?? 128) >= 128);
      this.health =
        refused.length === 0
          ? { up: true, trouble: null }
          : { up: false, trouble: `The broker does not let it listen to ${refused.join(", ")}.` };
    } catch {
      // The connection has ended meanwhile, and says so itself.
    }
  }

  /** A new connection: what was under way on the one before comes again. */
  private begin(connection: BrokerConnection): void {
    if (connection === this.connection) return;
    this.connection = connection;
    this.underWay = [];
    // A broker that has forgotten us gives out its numbers anew.
    if (!connection.isKnown) this.deliveries.clear();
  }

  private arrived(
    { topic, payload, qos, dup, retain, messageId = 0, properties }: IPublishPacket,
    connection: BrokerConnection,
  ): void {
    const entry: UnderWay = { messageId, done: false };
    // Only what is marked as sent again may be one that we know: numbers are used anew (MQTT 5, 3.3.1.1 and 2.2.1).
    const known = dup ? this.deliveries.get(messageId) : undefined;
    const delivery = qos === 0 ? null : (known ?? randomUUID());
    if (delivery !== null) {
      this.remember(messageId, delivery);
      this.underWay.push(entry);
    }
    this.unacknowledgedByUs += 1;
    // QoS 0 knows no receive maximum: the socket is what holds a flood back.
    if (this.unacknowledgedByUs >= 2 * AT_ONCE) connection.pause();
    const respondTo = properties?.responseTopic
      ? { topic: properties.responseTopic, correlation: properties.correlationData }
      : null;
    const bytes = typeof payload === "string" ? Buffer.from(payload) : payload;
    const traceparent = properties?.userProperties?.traceparent;
    this.deps
      .take({ topic, payload: bytes, retained: retain, delivery, again: known !== undefined, traceparent, respondTo })
      .then(
        () => {
          entry.done = true;
          this.acknowledge(connection);
        },
        () => {
          // Not acknowledged: with a new connection it comes again.
          const fetch = () => connection.destroy(new Error("an arrival could not be taken"));
          if (delivery !== null) setTimeout(fetch, AGAIN_MS).unref();
        },
      )
      .finally(() => {
        this.unacknowledgedByUs -= 1;
        if (this.unacknowledgedByUs < AT_ONCE) connection.resume();
      });
  }

  /** In the order of arrival, as far as they are durable. */
  private acknowledge(connection: BrokerConnection): void {
    if (connection !== this.connection) return;
    const open = this.underWay.findIndex(({ done }) => !done);
    const ready = this.underWay.splice(0, open < 0 ? this.underWay.length : open);
    for (const { messageId } of ready) connection.acknowledge(messageId);
  }

  private remember(messageId: number, delivery: string): void {
    this.deliveries.delete(messageId);
    this.deliveries.set(messageId, delivery);
    const [oldest] = this.deliveries.keys();
    if (this.deliveries.size > MOST_REMEMBERED && oldest !== undefined) this.deliveries.delete(oldest);
  }

  private lost(trouble: string): void {
    for (const settle of [...this.answers]) settle(LOST);
    this.health = { up: false, trouble: `Its connection to the broker is down: ${trouble}. It is tried again.` };
    if (!this.stopped) this.again = setTimeout(() => this.start(), AGAIN_MS).unref();
  }
}
