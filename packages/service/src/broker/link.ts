/**
 * The broker connection: one fixed client id, MQTT 5, connected anew for as long as the service runs.
 *
 * A connection never sends anything again by itself: only the lanes send a command again. After connecting, a marker is sent to ourselves and waited for: the
 * broker keeps order, so once it is back, everything that was queued for us while we were away has
 * been read, and what comes from then on is news. Only then is the link up.
 */
import type { IPublishPacket } from "mqtt-packet";
import { BrokerConnection } from "../broker/broker-connection.ts";
import type { BrokerAccess } from "../platform/config/broker-access.ts";
import type { Log } from "../platform/log.ts";
import { requireGranted } from "./granted.ts";
import type { LinkListener, LinkTopics, Publication } from "./link-listener.ts";
import { Subscriptions } from "./subscriptions.ts";

export interface LinkOptions {
  readonly access: BrokerAccess;
  readonly clientId: string;
  /** Where the marker goes; see `Link.markerTopicOf`. */
  readonly markerTopic: string;
  readonly window: number;
  readonly log: Log;
  /**
   * Whether this instance may be the one that is connected; looked at before every connecting, and again before the
   * first write. Who connects ends the connection of whoever held the lanes before, so nobody may who has lost them.
   */
  readonly mayConnect: () => Promise<boolean>;
  /** Told of everything that is written. */
  readonly onWrite: (topic: string, payload: Uint8Array) => void;
}

/** How long the broker keeps what is meant for us while we are away, s. */
const SESSION_EXPIRY_S = 300;
/** A way to the broker that is lost without a word is noticed by this. */
const MARKER_EVERY_MS = 2_500;
const MARKER_WITHIN_MS = 5_000;
const FIRST_PAUSE_MS = 100;
const LONGEST_PAUSE_MS = 5_000;
/** How much the broker may send us at once before we have taken any of it, messages. Evidence is taken as it comes. */
const AT_ONCE = 1_000;
/** No device says more at once, bytes. */
const LARGEST_BYTES = 262_144;

export class Link {
  private readonly options: LinkOptions;
  private listener: LinkListener | null = null;
  private connection: BrokerConnection | null = null;
  private readonly subscriptions = new Subscriptions();
  private window: number;
  private up = false;
  private stopping = false;
  private wakeUp: (() => void) | null = null;
  private marker: { sentAt: number; text: string } | null = null;
  private markerTimer: NodeJS.Timeout | null = null;
  private downSince = performance.now();
  /** Last round trip through the broker, ms. */
  roundTripMs: number | null = null;
  /** Why the link is down, in words; null while it is up. */
  trouble: string | null = "not connected so far";

  constructor(options: LinkOptions) {
    this.options = options;
    this.window = options.window;
  }

  get isUp(): boolean {
    return this.up;
  }

  /** For how long it has been down, ms; 0: it is up. */
  get downMs(): number {
    return this.up ? 0 : performance.now() - this.downSince;
  }

  /** Whether a write would go out now. */
  get isReady(): boolean {
    return this.up && (this.connection?.unreceipted ?? 0) < this.window;
  }

  /** Ends the pause between two tries to connect. */
  hurry(): void {
    this.wakeUp?.();
  }

  /** Connects, and keeps connecting until `stop`. Returns at once. */
  start(topics: LinkTopics, listener: LinkListener): void {
    this.subscriptions.begin(topics);
    this.listener = listener;
    void this.keepConnected();
  }

  async stop(): Promise<void> {
    this.stopping = true;
    this.wakeUp?.();
    await this.connection?.close();
  }

  /** See `Subscriptions.change`. */
  listen(topics: LinkTopics, again: (filter: string) => boolean): void {
    const { connection } = this;
    this.subscriptions.change(topics, again, (error) => {
      this.options.log.warn({ err: error }, "the broker did not take on the changed topics, connecting again");
      connection?.destroy(error);
    });
  }

  /** Lets go of the connection at once, if there still is one: another instance has its own by now. */
  abandon(): void {
    this.stopping = true;
    this.wakeUp?.();
    this.connection?.destroy(new Error("another instance leads"));
  }

  /**
   * Writes. At QoS 1 `onReceipt` is called with the PUBACK's reason code (MQTT 5, 3.4.2.1), or never if the
   * connection is lost first: then `onDown` says so. At QoS 0 there is no receipt.
   */
  publish(
    { topic, payload, expiryMs, qos, traceparent, retain, response }: Publication,
    onReceipt: (code: number) => void,
  ): void {
    const { connection } = this;
    if (!connection) return;
    const expiryS = Math.max(1, Math.ceil(expiryMs / 1000));
    this.options.onWrite(topic, payload);
    connection.publish(
      {
        topic,
        payload,
        qos,
        expiryS,
        retain,
        ...(traceparent === null ? {} : { traceparent }),
        ...(response ? { responseTopic: response.topic, correlation: Buffer.from(response.correlation) } : {}),
      },
      (code) => {
        const wasFull = connection.unreceipted === this.window - 1;
        onReceipt(code);
        if (wasFull && this.isReady) this.listener?.onRoom();
      },
    );
  }

  private async keepConnected(): Promise<void> {
    let pauseMs = FIRST_PAUSE_MS;
    while (!this.stopping) {
      const startedAt = performance.now();
      this.trouble = await this.connectOnce();
      if (this.stopping) return;
      if (performance.now() - startedAt > LONGEST_PAUSE_MS) pauseMs = FIRST_PAUSE_MS;
      this.options.log.warn({ trouble: this.trouble, pauseMs }, "broker link is down, connecting again");
      await this.pause(pauseMs * (0.75 + Math.random() / 2));
      pauseMs = Math.min(pauseMs * 2, LONGEST_PAUSE_MS);
    }
  }

  /** Runs one connection to its end and returns why it ended. */
  private async connectOnce(): Promise<string> {
    const { access, clientId, log, mayConnect } = this.options;
    const may = await mayConnect().catch(() => null);
    if (may === null) return "the database must say first which instance leads";
    if (!may) return "another instance leads";
    let over: (why: string) => void = () => {};
    const ended = new Promise<string>((resolve) => {
      over = resolve;
    });
    let connection: BrokerConnection;
    try {
      connection = await BrokerConnection.connect(
        { access, clientId, sessionExpiryS: SESSION_EXPIRY_S, receiveMaximum: AT_ONCE, largestBytes: LARGEST_BYTES },
        {
          onMessage: (message, from) => this.receive(from, message),
          onClose: (why, which) => {
            this.afterClose(which);
            over(why);
          },
        },
      );
    } catch (error) {
      return error instanceof Error && error.message ? error.message : String(error);
    }
    if (this.stopping) connection.destroy(new Error("the service stops"));
    this.afterConnect(connection).catch((error: Error) => {
      if (connection.isOpen) log.error({ err: error }, "the broker refused the subscriptions");
      connection.destroy(error);
    });
    return ended;
  }

  private async afterConnect(connection: BrokerConnection): Promise<void> {
    this.connection = connection;
    // One for the marker.
    this.window = Math.max(1, Math.min(this.options.window, connection.receiveMaximum - 1));
    requireGranted([this.markerTopic], await connection.subscribe([this.markerTopic], { qos: 1 }));
    await this.subscriptions.takeOn(connection);
    if (connection !== this.connection) return;
    this.sendMarker(connection);
    this.markerTimer = setInterval(() => this.checkMarker(connection), MARKER_EVERY_MS);
  }

  private afterClose(connection: BrokerConnection): void {
    if (connection !== this.connection) return;
    if (this.markerTimer) clearInterval(this.markerTimer);
    this.marker = null;
    this.connection = null;
    this.subscriptions.lose();
    if (!this.up) return;
    this.up = false;
    this.downSince = performance.now();
    this.listener?.onDown();
  }

  private receive(connection: BrokerConnection, packet: IPublishPacket): void {
    const { topic, payload, qos, messageId, retain, properties } = packet;
    const bytes = typeof payload === "string" ? Buffer.from(payload) : payload;
    if (topic === this.markerTopic) void this.markerBack(bytes);
    else this.listener?.onMessage(topic, bytes, !retain, !this.up, correlationIn(properties?.correlationData));
    if (qos > 0) connection.acknowledge(messageId ?? 0);
  }

  /**
   * Below the client id of the service, which nobody else has: no device topic can be the same. The links of all shards share it:
   * each knows its own marker by its text.
   */
  static markerTopicOf(clientId: string): string {
    return `${clientId}/marker`;
  }

  private get markerTopic(): string {
    return this.options.markerTopic;
  }

  private sendMarker(connection: BrokerConnection): void {
    const text = `${Date.now()}-${Math.random()}`;
    this.marker = { sentAt: performance.now(), text };
    connection.publish({ topic: this.markerTopic, payload: Buffer.from(text), qos: 1, expiryS: 60 }, () => {});
  }

  private async markerBack(payload: Uint8Array): Promise<void> {
    if (!this.marker || Buffer.from(payload).toString() !== this.marker.text) return;
    this.roundTripMs = performance.now() - this.marker.sentAt;
    this.marker = null;
    if (this.up) return;
    const { connection } = this;
    const may = await this.options.mayConnect().catch(() => false);
    if (connection !== this.connection || this.up) return;
    if (!may) {
      connection?.destroy(new Error("it is unknown whether another instance leads by now"));
      return;
    }
    this.up = true;
    this.trouble = null;
    this.options.log.info({ roundTripMs: this.roundTripMs }, "broker link is up");
    this.listener?.onUp();
  }

  private checkMarker(connection: BrokerConnection): void {
    if (!this.marker) this.sendMarker(connection);
    else if (performance.now() - this.marker.sentAt > MARKER_WITHIN_MS)
      connection.destroy(new Error("no echo from the broker"));
  }

  private pause(ms: number): Promise<void> {
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, ms);
      this.wakeUp = () => {
        clearTimeout(timer);
        resolve();
      };
    });
  }
}

/** Ids of ours have 36 characters: nothing longer names one. */
function correlationIn(data: Buffer | undefined): string | null {
  return data && data.length <= 64 ? data.toString("utf8") : null;
}
