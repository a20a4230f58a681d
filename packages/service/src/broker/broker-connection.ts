/**
 * One connection to the broker, from CONNECT to its end (MQTT 5). It never sends anything again by itself: on whatever was
 * not receipted when it ended, its owner decides. Incoming messages are acknowledged when their owner says so.
 *
 * Whatever is written in one turn of the event loop goes to the socket as one piece, at its end: system calls are a
 * good part of what a message costs.
 */
import type { Socket } from "node:net";
import { generate, type IPublishPacket, type ISubackPacket, type Packet } from "mqtt-packet";
import { FrameReader } from "./frame-reader.ts";
import { type Publish, pubackFrame, publishFrame } from "./frames.ts";
import { type ConnectionOptions, dial, goodbyeWords, hello, KEEPALIVE_S, refusalWords, VERSION } from "./handshake.ts";

export interface ConnectionListener {
  onMessage(message: IPublishPacket, connection: BrokerConnection): void;
  /** It is over, whoever ended it; called once, and not before it was open. */
  onClose(why: string, connection: BrokerConnection): void;
}

export interface Subscription {
  readonly qos: 0 | 1;
  /** What we write there ourselves is not handed back (No Local, 3.8.3.1). */
  readonly noLocal?: boolean;
  /** Retained messages are not sent. */
  readonly newsOnly?: boolean;
}

/** How long the broker may take to answer anything, ms. */
const ANSWER_WITHIN_MS = 5_000;
const MOST_IDS = 65_535;
/** Filters that go in one packet: it is answered as a whole, and in time. */
const MOST_FILTER_BYTES = 32_768;
/** Fixed header, packet id and properties. */
const PACKET_HEAD_BYTES = 16;
/** Length and options of each filter (3.8.3). */
const FILTER_HEAD_BYTES = 3;

/** Something that the broker answers, by packet id. */
interface Question {
  readonly answered: (packet: Packet) => void;
  readonly failed: (error: Error) => void;
}

export class BrokerConnection {
  private readonly socket: Socket;
  private readonly listener: ConnectionListener;
  private readonly receipts = new Map<number, (reason: number) => void>();
  private readonly questions = new Map<number, Question>();
  /** Published, and held back until the broker has receipted what it has. */
  private readonly waiting: { readonly message: Publish; readonly onReceipt: (reason: number) => void }[] = [];
  private out: Buffer[] = [];
  private lastId = 0;
  private lastHeardAt = performance.now();
  private pulse: NodeJS.Timeout | null = null;
  private open = false;
  private closed = false;
  private why = "the broker closed the connection";
  /** Whether the broker still knew us. */
  isKnown = false;
  /** How many publishes the broker takes before it has receipted one of them (3.2.2.3.3). */
  receiveMaximum = MOST_IDS;
  /** The largest packet that the broker takes, bytes (3.2.2.3.6). */
  private maximumPacket = Number.POSITIVE_INFINITY;

  /** Resolves once the broker has let us in. Rejects with the reason when it does not. */
  static connect(options: ConnectionOptions, listener: ConnectionListener): Promise<BrokerConnection> {
    return new Promise((resolve, reject) => {
      const connection: BrokerConnection = new BrokerConnection(options, listener, () => resolve(connection), reject);
    });
  }

  private constructor(
    options: ConnectionOptions,
    listener: ConnectionListener,
    opened: () => void,
    failed: (error: Error) => void,
  ) {
    this.listener = listener;
    const { socket, ready } = dial(options.access);
    this.socket = socket;
    const reader = new FrameReader(options.largestBytes);
    const take = (packet: Packet): void => {
      if (this.closed || this.socket.destroyed) return;
      if (this.open) return this.receive(packet);
      clearTimeout(late);
      const refusal = this.greeted(packet);
      if (refusal !== null) return this.destroy(new Error(refusal));
      this.open = true;
      this.pulse = setInterval(() => this.checkAlive(), (KEEPALIVE_S * 1_000) / 2);
      opened();
    };
    const late = setTimeout(() => this.destroy(new Error("the broker does not answer")), ANSWER_WITHIN_MS);
    socket.setNoDelay(true);
    socket.once(ready, () => socket.write(hello(options)));
    socket.on("data", (piece: Buffer) => {
      this.lastHeardAt = performance.now();
      let packets: Packet[];
      try {
        packets = reader.push(piece);
      } catch (error) {
        return this.destroy(error as Error);
      }
      for (const packet of packets) take(packet);
    });
    socket.on("error", (error) => {
      this.why = error.message;
    });
    socket.once("close", () => {
      clearTimeout(late);
      const wasOpen = this.open;
      this.over();
      if (wasOpen) listener.onClose(this.why, this);
      else failed(new Error(this.why));
    });
  }

  get isOpen(): boolean {
    return this.open && !this.closed;
  }

  /** Publishes that the broker has not receipted so far. */
  get unreceipted(): number {
    return this.receipts.size + this.waiting.length;
  }

  /**
   * @param onReceipt at QoS 1 the reason code of the PUBACK (3.4.2.1): 0 taken, 16 nobody listens, from 128 refused. Never
   *   called when the connection ends first.
   */
  publish(message: Publish, onReceipt: (reason: number) => void): void {
    if (!this.isOpen) return;
    if (message.qos === 1 && this.receipts.size >= this.receiveMaximum)
      return void this.waiting.push({ message, onReceipt });
    const messageId = message.qos === 0 ? 0 : this.newId();
    if (messageId !== 0) this.receipts.set(messageId, onReceipt);
    this.write(publishFrame(message, messageId));
  }

  /** Tells the broker that a message was taken. */
  acknowledge(messageId: number): void {
    if (this.isOpen) this.write(pubackFrame(messageId));
  }

  /** @returns of each filter the QoS that was granted, or from 128 why not (3.9.3) */
  async subscribe(
    filters: readonly string[],
    { qos, noLocal = false, newsOnly = false }: Subscription,
  ): Promise<number[]> {
    const granted: number[] = [];
    for (const some of this.inPackets(filters)) {
      const subscriptions = some.map((topic) => ({ topic, qos, nl: noLocal, rh: newsOnly ? 2 : 0 }) as const);
      const answer = await this.ask((messageId) => generate({ cmd: "subscribe", messageId, subscriptions }, VERSION));
      granted.push(...((answer as ISubackPacket).granted as number[]));
    }
    return granted;
  }

  async unsubscribe(filters: readonly string[]): Promise<void> {
    for (const unsubscriptions of this.inPackets(filters))
      await this.ask((messageId) => generate({ cmd: "unsubscribe", messageId, unsubscriptions }, VERSION));
  }

  /** The broker closes the connection of whoever sends more at once than it takes (3.2.2.3.6), and a site may have topics by the thousand. */
  private *inPackets(filters: readonly string[]): Generator<string[]> {
    const most = Math.min(MOST_FILTER_BYTES, this.maximumPacket - PACKET_HEAD_BYTES);
    let [some, bytes]: [string[], number] = [[], 0];
    for (const filter of filters) {
      const more = Buffer.byteLength(filter) + FILTER_HEAD_BYTES;
      if (some.length > 0 && bytes + more > most) {
        yield some;
        [some, bytes] = [[], 0];
      }
      some.push(filter);
      bytes += more;
    }
    if (some.length > 0) yield some;
  }

  /** Takes leave; resolves once the connection is over. */
  async close(): Promise<void> {
    if (this.socket.destroyed) return;
    const gone = new Promise<void>((resolve) => this.socket.once("close", () => resolve()));
    this.flush();
    if (this.open) this.socket.end(generate({ cmd: "disconnect", reasonCode: 0 }, VERSION));
    else this.socket.destroy();
    const patience = setTimeout(() => this.socket.destroy(), 1_000);
    await gone;
    clearTimeout(patience);
  }

  /** Lets go at once. */
  destroy(error: Error): void {
    if (this.closed) return;
    this.why = error.message;
    this.socket.destroy();
  }

  /** Nothing more is read until `resume`: what is held back waits in the broker. */
  pause(): void {
    this.socket.pause();
  }

  resume(): void {
    this.socket.resume();
  }

  private receive(packet: Packet): void {
    if (packet.cmd === "publish") return this.listener.onMessage(packet, this);
    const id = packet.messageId ?? 0;
    if (packet.cmd === "puback") {
      const onReceipt = this.receipts.get(id);
      this.receipts.delete(id);
      const next = this.waiting.shift();
      if (next) this.publish(next.message, next.onReceipt);
      onReceipt?.(packet.reasonCode ?? 0);
    } else if (packet.cmd === "suback" || packet.cmd === "unsuback") {
      const question = this.questions.get(id);
      this.questions.delete(id);
      question?.answered(packet);
    } else if (packet.cmd === "disconnect") this.destroy(new Error(goodbyeWords(packet.reasonCode ?? 0)));
  }

  /** @returns why we are not let in; null: we are */
  private greeted(packet: Packet): string | null {
    if (packet.cmd !== "connack") return "the broker began with something else than a CONNACK";
    const reason = packet.reasonCode ?? 0;
    if (reason !== 0) return refusalWords(reason);
    this.isKnown = packet.sessionPresent;
    this.receiveMaximum = packet.properties?.receiveMaximum ?? MOST_IDS;
    this.maximumPacket = packet.properties?.maximumPacketSize ?? Number.POSITIVE_INFINITY;
    return null;
  }

  private async ask(frame: (messageId: number) => Buffer): Promise<Packet> {
    const messageId = this.newId();
    const late = setTimeout(() => this.destroy(new Error("the broker does not answer")), ANSWER_WITHIN_MS);
    try {
      return await new Promise<Packet>((answered, failed) => {
        if (!this.isOpen) return failed(new Error(this.why));
        this.questions.set(messageId, { answered, failed });
        this.write(frame(messageId));
      });
    } finally {
      clearTimeout(late);
    }
  }

  /** The next that nothing waits for. */
  private newId(): number {
    do this.lastId = (this.lastId % MOST_IDS) + 1;
    while (this.receipts.has(this.lastId) || this.questions.has(this.lastId));
    return this.lastId;
  }

  private write(frame: Buffer): void {
    if (this.out.push(frame) === 1) setImmediate(() => this.flush());
  }

  private flush(): void {
    const { out, socket } = this;
    if (out.length === 0) return;
    this.out = [];
    if (socket.writable) socket.write(out.length === 1 ? (out[0] as Buffer) : Buffer.concat(out));
  }

  private checkAlive(): void {
    if (performance.now() - this.lastHeardAt > KEEPALIVE_S * 1_500) this.destroy(new Error("the broker is silent"));
    else this.write(generate({ cmd: "pingreq" }, VERSION));
  }

  private over(): void {
    this.closed = true;
    if (this.pulse) clearInterval(this.pulse);
    this.receipts.clear();
    this.waiting.length = 0;
    for (const { failed } of this.questions.values()) failed(new Error(this.why));
    this.questions.clear();
  }
}
