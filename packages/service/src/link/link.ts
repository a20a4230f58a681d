/**
 * The broker connection: one fixed client id, MQTT 5, connected anew for as long as the service runs.
 *
 * Each connection is a new client of the library with an empty store, so that nothing but the lanes
 * ever sends a command again. After connecting, a marker is sent to ourselves and waited for: the
 * broker keeps order, so once it is back, everything that was queued for us while we were away has
 * been read, and what comes from then on is news. Only then is the link up.
 */
import { connectAsync, type IClientPublishOptions, type IPublishPacket, type MqttClient } from "mqtt";
import type { BrokerAccess } from "../config/broker-access.ts";
import type { Log } from "../log.ts";

export interface LinkOptions {
  readonly access: BrokerAccess;
  readonly clientId: string;
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

export interface LinkListener {
  /** Writes reach the broker from now on. */
  onUp(): void;
  onDown(): void;
  /** A message on a subscribed topic; `live` is false for a retained one. */
  onMessage(topic: string, payload: Uint8Array, live: boolean): void;
  /** Room for another publish after the window was full. */
  onRoom(): void;
}

export interface LinkTopics {
  /** Listened to for as long as the link stands; what we write there ourselves is not handed back (No Local). */
  readonly filters: readonly string[];
  /** Looked at once, on connecting, for retained messages that lie there. */
  readonly glance: readonly string[];
}

export interface Publication {
  readonly topic: string;
  readonly payload: Uint8Array;
  /** How long the broker may keep it for a subscriber, ms; rounded up to whole seconds, at least 1 (MQTT 5, 3.3.2.3.3). */
  readonly expiryMs: number;
  readonly qos: 0 | 1;
  /** Goes along as a user property (W3C Trace Context for MQTT). */
  readonly traceparent: string;
}

const KEEPALIVE_S = 15;
/** How long the broker keeps what is meant for us while we are away, s. */
const SESSION_EXPIRY_S = 300;
const MARKER_EVERY_MS = 5_000;
const MARKER_WITHIN_MS = 10_000;
const FIRST_PAUSE_MS = 100;
const LONGEST_PAUSE_MS = 5_000;

export class Link {
  private readonly options: LinkOptions;
  private readonly listener: LinkListener;
  private client: MqttClient | null = null;
  private topics: LinkTopics = { filters: [], glance: [] };
  /** Filters that the broker's session may still have, and that are not wanted any more. */
  private readonly stale = new Set<string>();
  private pending = 0;
  /** PUBACK reason codes other than 0, by packet id: the library hands its callback the publish, not the receipt. */
  private readonly receipts = new Map<number, number>();
  private window: number;
  private up = false;
  private stopping = false;
  private wakeUp: (() => void) | null = null;
  private marker: { sentAt: number; text: string } | null = null;
  private markerTimer: NodeJS.Timeout | null = null;
  private corked = false;
  /** Last round trip through the broker, ms. */
  roundTripMs: number | null = null;
  /** Why the link is down, in words; null while it is up. */
  trouble: string | null = "not connected so far";

  constructor(options: LinkOptions, listener: LinkListener) {
    this.options = options;
    this.listener = listener;
    this.window = options.window;
  }

  get isUp(): boolean {
    return this.up;
  }

  /** Whether a write would go out now. */
  get isReady(): boolean {
    return this.up && this.pending < this.window;
  }

  /** Connects, and keeps connecting until `stop`. Returns at once. */
  start(topics: LinkTopics): void {
    this.topics = topics;
    void this.keepConnected();
  }

  async stop(): Promise<void> {
    this.stopping = true;
    this.wakeUp?.();
    if (this.client) await this.client.endAsync(false).catch((error: Error) => this.options.log.debug({ err: error }));
  }

  /**
   * Listens to other topics from now on.
   *
   * @param again which filters are asked for anew although they stand, so that what lies retained on them comes again
   */
  listen(topics: LinkTopics, again: (filter: string) => boolean): void {
    const before = this.topics.filters;
    this.topics = topics;
    const gone = before.filter((filter) => !topics.filters.includes(filter));
    const { client } = this;
    // A link that is not up takes them on when it connects; the broker's session still has the old ones then.
    if (!client || !this.up) {
      for (const filter of gone) this.stale.add(filter);
      return;
    }
    const wanted = topics.filters.filter((filter) => !before.includes(filter) || again(filter));
    const trouble = (error: Error) => {
      this.options.log.warn({ err: error }, "the broker did not take on the changed topics, connecting again");
      client.stream.destroy(error);
    };
    if (gone.length > 0) client.unsubscribeAsync(gone).catch(trouble);
    if (wanted.length > 0) this.subscribe(client, wanted).catch(trouble);
  }

  /** Lets go of the connection at once, if there still is one: another instance has its own by now. */
  async abandon(): Promise<void> {
    this.stopping = true;
    this.wakeUp?.();
    if (this.client) await this.client.endAsync(true).catch((error: Error) => this.options.log.debug({ err: error }));
  }

  /**
   * Writes. At QoS 1 `onReceipt` is called with the PUBACK's reason code (MQTT 5, 3.4.2.1), or never if the
   * connection is lost first: then `onDown` says so. At QoS 0 there is no receipt.
   */
  publish({ topic, payload, expiryMs, qos, traceparent }: Publication, onReceipt: (code: number) => void): void {
    const { client } = this;
    if (!client) return;
    const messageExpiryInterval = Math.max(1, Math.ceil(expiryMs / 1000));
    const properties = { messageExpiryInterval, userProperties: { traceparent } };
    const options: IClientPublishOptions = { qos, retain: false, properties };
    this.pending += 1;
    this.gatherWrites(client);
    this.options.onWrite(topic, payload);
    client.publish(topic, Buffer.from(payload), options, (error, packet) => {
      if (client !== this.client) return;
      const wasFull = !this.isReady;
      this.pending -= 1;
      const code = qos === 0 ? null : this.reasonCode(error, packet);
      if (code !== null) onReceipt(code);
      if (wasFull && this.isReady) this.listener.onRoom();
    });
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
    if (may === null) return "the journal must say first who holds the lanes";
    if (!may) return "another instance holds the lanes";
    let client: MqttClient;
    try {
      client = await connectAsync(
        access.url,
        {
          ...access,
          clientId,
          protocolVersion: 5,
          clean: false,
          properties: { sessionExpiryInterval: SESSION_EXPIRY_S },
          keepalive: KEEPALIVE_S,
          connectTimeout: 5_000,
          reconnectPeriod: 0,
          resubscribe: false,
          queueQoSZero: false,
        },
        false,
      );
    } catch (error) {
      return error instanceof Error && error.message ? error.message : String(error);
    }
    return new Promise((resolve) => {
      let reason = "the broker closed the connection";
      client.on("error", (error) => {
        reason = error.message;
      });
      client.on("disconnect", (packet) => {
        reason =
          packet.reasonCode === 142
            ? "another client took over this client id"
            : `the broker sent reason ${packet.reasonCode}`;
      });
      client.once("close", () => {
        this.afterClose(client);
        resolve(reason);
      });
      client.on("packetreceive", (packet) => {
        this.gatherWrites(client);
        if (packet.cmd === "puback" && packet.reasonCode && packet.messageId)
          this.receipts.set(packet.messageId, packet.reasonCode);
      });
      client.on("message", (topic, payload, packet) => this.receive(topic, payload, packet));
      this.afterConnect(client).catch((error: Error) => {
        reason = error.message;
        log.error({ err: error }, "the broker refused the subscriptions");
        client.end(true);
      });
    });
  }

  private async afterConnect(client: MqttClient): Promise<void> {
    // Without this the library leaves Nagle's algorithm on, and every round trip takes 20 ms longer.
    (client.stream as { setNoDelay?: (on: boolean) => void }).setNoDelay?.(true);
    this.client = client;
    this.pending = 0;
    this.receipts.clear();
    const { filters, glance } = this.topics;
    // Nobody else listens while we do (MQTT 5, 3.4.2.1): so a glance at the command topics ends before the first write.
    const seen = glance.filter((filter) => !filters.includes(filter));
    if (seen.length > 0) {
      await client.subscribeAsync(seen, { qos: 0, nl: true });
      await client.unsubscribeAsync(seen);
    }
    const own = await client.subscribeAsync([this.markerTopic], { qos: 1 });
    requireGranted(own);
    const stale = [...this.stale].filter((filter) => !filters.includes(filter));
    if (stale.length > 0) await client.unsubscribeAsync(stale);
    this.stale.clear();
    if (filters.length > 0) await this.subscribe(client, filters);
    this.sendMarker(client);
    this.markerTimer = setInterval(() => this.checkMarker(client), MARKER_EVERY_MS);
  }

  /** @throws Error when the broker does not permit one of them */
  private async subscribe(client: MqttClient, filters: readonly string[]): Promise<void> {
    requireGranted(await client.subscribeAsync([...filters], { qos: 1, nl: true }));
  }

  private afterClose(client: MqttClient): void {
    client.removeAllListeners("message");
    client.end(true);
    if (this.markerTimer) clearInterval(this.markerTimer);
    this.marker = null;
    this.client = null;
    if (!this.up) return;
    this.up = false;
    this.listener.onDown();
  }

  private receive(topic: string, payload: Uint8Array, packet: IPublishPacket): void {
    if (topic === this.markerTopic) void this.markerBack(payload);
    else this.listener.onMessage(topic, payload, !packet.retain);
  }

  /** Below the client id, which nobody else has: no device topic can be the same. */
  private get markerTopic(): string {
    return `${this.options.clientId}/marker`;
  }

  /**
   * Whatever is written in this turn of the event loop goes to the socket at once, at its end. The library
   * would write each acknowledgement by itself, and the system calls were a sixth of a request's cost.
   */
  private gatherWrites(client: MqttClient): void {
    if (this.corked) return;
    this.corked = true;
    const { stream } = client;
    stream.cork();
    setImmediate(() => {
      this.corked = false;
      stream.uncork();
    });
  }

  private sendMarker(client: MqttClient): void {
    const text = `${Date.now()}-${Math.random()}`;
    this.marker = { sentAt: performance.now(), text };
    client.publish(this.markerTopic, text, { qos: 1, properties: { messageExpiryInterval: 60 } });
  }

  private async markerBack(payload: Uint8Array): Promise<void> {
    if (!this.marker || Buffer.from(payload).toString() !== this.marker.text) return;
    this.roundTripMs = performance.now() - this.marker.sentAt;
    this.marker = null;
    if (this.up) return;
    const { client } = this;
    const may = await this.options.mayConnect().catch(() => false);
    if (client !== this.client || this.up) return;
    if (!may) {
      client?.stream.destroy(new Error("nobody could say whether another instance holds the lanes by now"));
      return;
    }
    this.up = true;
    this.trouble = null;
    this.options.log.info({ roundTripMs: this.roundTripMs }, "broker link is up");
    this.listener.onUp();
  }

  private checkMarker(client: MqttClient): void {
    if (!this.marker) this.sendMarker(client);
    else if (performance.now() - this.marker.sentAt > MARKER_WITHIN_MS)
      client.stream.destroy(new Error("no echo from the broker"));
  }

  /** null: the connection ended before there was a receipt. */
  private reasonCode(error: Error | undefined | null, packet: { messageId?: number } | undefined): number | null {
    if (error) return "code" in error && typeof error.code === "number" && error.code >= 128 ? error.code : null;
    const id = packet?.messageId ?? 0;
    const code = this.receipts.get(id) ?? 0;
    this.receipts.delete(id);
    return code;
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

function requireGranted(granted: readonly { readonly topic: string; readonly qos: number }[]): void {
  const denied = granted.filter((grant) => grant.qos >= 128).map((grant) => grant.topic);
  if (denied.length > 0) throw new Error(`no permission to subscribe to ${denied.join(", ")}`);
}
