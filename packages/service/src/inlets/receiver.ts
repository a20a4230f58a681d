/**
 * An MQTT 5 client that only receives, and acknowledges an arrival once what it asked is durable. The library that the link
 * uses hands over such arrivals one at a time; here many are under way at once, and are acknowledged in the order in which
 * they came (MQTT 5, 4.6). The broker's limit is our receive maximum: it sends no more than that unacknowledged (3.3.4).
 */
import { randomUUID } from "node:crypto";
import { connect as connectTcp, type Socket } from "node:net";
import { connect as connectTls } from "node:tls";
import { generate, type IPublishPacket, type Packet, type Parser, parser } from "mqtt-packet";
import type { BrokerAccess } from "../config/broker-access.ts";

export interface Received {
  readonly topic: string;
  readonly payload: Uint8Array;
  readonly retained: boolean;
  /** The same when it comes again for want of an acknowledgement; null at QoS 0, where nothing comes again. */
  readonly repeatKey: string | null;
  /** It came before, and was not acknowledged, or its acknowledgement was lost. */
  readonly again: boolean;
  /** As its publisher gave it, unchecked. */
  readonly traceparent: unknown;
  /** Where its publisher wants to be answered (MQTT 5, 4.10). */
  readonly respondTo: { readonly topic: string; readonly correlation: Buffer | undefined } | null;
}

export interface ReceiverParts {
  readonly access: BrokerAccess;
  readonly clientId: string;
  readonly filters: readonly string[];
  /** Resolves once it may be acknowledged. Rejects when it should come again. */
  readonly take: (message: Received) => Promise<void>;
}

/** What the broker keeps for us while we are away, s. */
const KEPT_S = 300;
const KEEPALIVE_S = 15;
const AT_ONCE = 256;
const LARGEST_BYTES = 65_536;
/** Arrivals that are known again when the acknowledgement of them was lost with the connection. */
const MOST_REMEMBERED = 4 * AT_ONCE;
const CONNECT_WITHIN_MS = 5_000;
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
  private readonly parts: ReceiverParts;
  /** By the number that the broker gave it: what makes an arrival that comes again the same one. The oldest first. */
  private readonly repeatKeys = new Map<number, string>();
  private readonly answers = new Map<number, (reason: number) => void>();
  private socket: Socket | null = null;
  private underWay: UnderWay[] = [];
  private unacknowledgedByUs = 0;
  private lastHeardAt = 0;
  private nextId = 1;
  private timer: NodeJS.Timeout | null = null;
  private again: NodeJS.Timeout | null = null;
  /** Runs until the broker has taken the subscriptions. */
  private late: NodeJS.Timeout | null = null;
  private stopped = false;

  constructor(parts: ReceiverParts) {
    this.parts = parts;
  }

  start(): void {
    const { url, ca, cert, key } = this.parts.access;
    const { protocol, hostname, port } = new URL(url);
    const host = hostname.replace(/^\[|\]$/g, "");
    const secure = protocol === "mqtts:";
    const place = { host, port: Number(port || (secure ? 8_883 : 1_883)) };
    const pem = { ...(ca ? { ca } : {}), ...(cert ? { cert } : {}), ...(key ? { key } : {}) };
    const socket = secure ? connectTls({ ...place, ...pem, servername: host }) : connectTcp(place);
    this.socket = socket;
    this.underWay = [];
    let trouble = "the broker closed the connection";
    const read: Parser = parser({ protocolVersion: 5 });
    read.on("packet", (packet: Packet) => this.receive(packet, socket));
    read.on("error", (error: unknown) => socket.destroy(error as Error));
    socket.setNoDelay(true);
    socket.once(secure ? "secureConnect" : "connect", () => socket.write(this.hello()));
    socket.on("data", (piece: Buffer) => {
      this.lastHeardAt = performance.now();
      read.parse(piece);
    });
    socket.on("error", (error) => {
      trouble = error.message;
    });
    socket.once("close", () => this.lost(trouble));
    this.late = setTimeout(() => socket.destroy(new Error("the broker does not answer")), CONNECT_WITHIN_MS);
    this.late.unref();
  }

  /** Takes leave: what the broker sends from now on waits there. */
  async stop(): Promise<void> {
    this.stopped = true;
    if (this.again) clearTimeout(this.again);
    const { socket } = this;
    if (!socket || socket.destroyed) return;
    const closed = new Promise<void>((resolve) => socket.once("close", () => resolve()));
    if (this.health.up) socket.end(generate({ cmd: "disconnect", reasonCode: 0 }, { protocolVersion: 5 }));
    else socket.destroy();
    setTimeout(() => socket.destroy(), AGAIN_MS).unref();
    await closed;
  }

  /**
   * Answers a publisher.
   *
   * @returns the PUBACK's reason code (MQTT 5, 3.4.2.1): 16 when nobody listens there
   */
  answer({ topic, correlation }: NonNullable<Received["respondTo"]>, payload: string): Promise<number> {
    const { socket } = this;
    if (!socket || !this.health.up || this.answers.size >= AT_ONCE) return Promise.resolve(LOST);
    this.nextId = (this.nextId % 65_535) + 1;
    const messageId = this.nextId;
    const properties = correlation === undefined ? {} : { correlationData: correlation };
    const packet = {
      cmd: "publish",
      qos: 1,
      dup: false,
      retain: false,
      topic,
      payload,
      messageId,
      properties,
    } as const;
    socket.write(generate(packet, { protocolVersion: 5 }));
    return new Promise((resolve) => {
      const settle = (reason: number): void => {
        clearTimeout(timer);
        this.answers.delete(messageId);
        resolve(reason);
      };
      const timer = setTimeout(() => settle(LOST), ANSWER_WITHIN_MS);
      timer.unref();
      this.answers.set(messageId, settle);
    });
  }

  private hello(): Buffer {
    const { clientId, access } = this.parts;
    const { username, password } = access;
    const credentials = {
      ...(username === undefined ? {} : { username }),
      ...(password === undefined ? {} : { password: Buffer.from(password) }),
    };
    const properties = {
      sessionExpiryInterval: KEPT_S,
      receiveMaximum: AT_ONCE,
      maximumPacketSize: LARGEST_BYTES,
    };
    const packet = {
      cmd: "connect",
      clientId,
      clean: false,
      keepalive: KEEPALIVE_S,
      properties,
      ...credentials,
    } as const;
    return generate({ ...packet, protocolId: "MQTT", protocolVersion: 5 }, { protocolVersion: 5 });
  }

  private receive(packet: Packet, socket: Socket): void {
    if (socket !== this.socket) return;
    if (packet.cmd === "publish") this.arrived(packet, socket);
    else if (packet.cmd === "puback") this.answers.get(packet.messageId ?? 0)?.(packet.reasonCode ?? 0);
    else if (packet.cmd === "connack") this.greeted(packet.reasonCode ?? 0, packet.sessionPresent, socket);
    else if (packet.cmd === "suback") this.subscribed(packet.granted as number[]);
    else if (packet.cmd === "disconnect") socket.destroy(new Error(`the broker sent reason ${packet.reasonCode}`));
  }

  private greeted(reason: number, isSession: boolean, socket: Socket): void {
    if (reason !== 0) {
      const why = reason === 0x86 || reason === 0x87 ? "its user name and password do not count" : `reason ${reason}`;
      socket.destroy(new Error(`the broker refuses the connection: ${why}`));
      return;
    }
    // A broker that has forgotten us gives out its numbers anew.
    if (!isSession) this.repeatKeys.clear();
    const subscriptions = this.parts.filters.map((topic) => ({ topic, qos: 1, rh: 2 }) as const);
    this.write(generate({ cmd: "subscribe", messageId: 1, subscriptions }, { protocolVersion: 5 }));
    this.timer = setInterval(() => this.checkAlive(socket), (KEEPALIVE_S * 1_000) / 2);
  }

  private subscribed(granted: readonly number[]): void {
    if (this.late) clearTimeout(this.late);
    const refused = this.parts.filters.filter((_, index) => (granted[index] ?? 0) >= 128);
    this.health =
      refused.length === 0
        ? { up: true, trouble: null }
        : { up: false, trouble: `The broker does not let it listen to ${refused.join(", ")}.` };
  }

  private arrived(
    { topic, payload, qos, dup, retain, messageId = 0, properties }: IPublishPacket,
    socket: Socket,
  ): void {
    const entry: UnderWay = { messageId, done: false };
    // Only what is marked as sent again may be one that we know: numbers are used anew (MQTT 5, 3.3.1.1 and 2.2.1).
    const known = dup ? this.repeatKeys.get(messageId) : undefined;
    const repeatKey = qos === 0 ? null : (known ?? randomUUID());
    if (repeatKey !== null) {
      this.remember(messageId, repeatKey);
      this.underWay.push(entry);
    }
    this.unacknowledgedByUs += 1;
    // QoS 0 knows no receive maximum: the socket is what holds a flood back.
    if (this.unacknowledgedByUs >= 2 * AT_ONCE) socket.pause();
    const respondTo = properties?.responseTopic
      ? { topic: properties.responseTopic, correlation: properties.correlationData }
      : null;
    const bytes = typeof payload === "string" ? Buffer.from(payload) : payload;
    const traceparent = properties?.userProperties?.traceparent;
    this.parts
      .take({ topic, payload: bytes, retained: retain, repeatKey, again: known !== undefined, traceparent, respondTo })
      .then(
        () => {
          entry.done = true;
          this.acknowledge(socket);
        },
        () => {
          // Not acknowledged: with a new connection it comes again.
          if (repeatKey !== null) setTimeout(() => socket.destroy(), AGAIN_MS).unref();
        },
      )
      .finally(() => {
        this.unacknowledgedByUs -= 1;
        if (this.unacknowledgedByUs < AT_ONCE) socket.resume();
      });
  }

  /** In the order of arrival, as far as they are durable. */
  private acknowledge(socket: Socket): void {
    if (socket !== this.socket || socket.destroyed) return;
    const open = this.underWay.findIndex(({ done }) => !done);
    const ready = this.underWay.splice(0, open < 0 ? this.underWay.length : open);
    socket.cork();
    for (const { messageId } of ready)
      socket.write(generate({ cmd: "puback", messageId, reasonCode: 0 }, { protocolVersion: 5 }));
    socket.uncork();
  }

  private remember(messageId: number, repeatKey: string): void {
    this.repeatKeys.delete(messageId);
    this.repeatKeys.set(messageId, repeatKey);
    const [oldest] = this.repeatKeys.keys();
    if (this.repeatKeys.size > MOST_REMEMBERED && oldest !== undefined) this.repeatKeys.delete(oldest);
  }

  private checkAlive(socket: Socket): void {
    if (performance.now() - this.lastHeardAt > KEEPALIVE_S * 1_500) socket.destroy(new Error("the broker is silent"));
    else this.write(generate({ cmd: "pingreq" }, { protocolVersion: 5 }));
  }

  private write(bytes: Buffer): void {
    if (this.socket && !this.socket.destroyed) this.socket.write(bytes);
  }

  private lost(trouble: string): void {
    if (this.timer) clearInterval(this.timer);
    if (this.late) clearTimeout(this.late);
    for (const settle of this.answers.values()) settle(LOST);
    this.health = { up: false, trouble: `Its connection to the broker is down: ${trouble}. It is tried again.` };
    if (!this.stopped) this.again = setTimeout(() => this.start(), AGAIN_MS).unref();
  }
}
