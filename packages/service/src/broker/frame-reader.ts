/**
 * Cuts what the broker sends into packets (MQTT 5, 2.1). The two that come with every command, a plain PUBLISH and a PUBACK, are
 * read here, without a copy; all others, and those with properties, by the library.
 */
import { type IPublishPacket, type Packet, type Parser, parser } from "mqtt-packet";

const PUBLISH = 3;
const PUBACK = 4;
/** A packet says its length in as many bytes at most (1.5.5). */
const MOST_LENGTH_BYTES = 4;

export class FrameReader {
  private readonly library: Parser = parser({ protocolVersion: 5 });
  private readonly largestBytes: number;
  private rest: Buffer | null = null;
  private packets: Packet[] = [];
  private trouble: Error | null = null;

  /** @param largestBytes of a packet; the broker was told so */
  constructor(largestBytes: number) {
    this.largestBytes = largestBytes;
    this.library.on("packet", (packet: Packet) => this.packets.push(packet));
    this.library.on("error", (error: unknown) => {
      this.trouble = error instanceof Error ? error : new Error(String(error));
    });
  }

  /**
   * Takes the next bytes, wherever they were cut. What is handed on may share its bytes with them.
   *
   * @returns the packets that are whole by now
   * @throws Error when they are no MQTT: nothing after them can be read
   */
  push(piece: Buffer): Packet[] {
    const bytes = this.rest === null ? piece : Buffer.concat([this.rest, piece]);
    let at = 0;
    for (let end = this.endOf(bytes, at); end !== null; end = this.endOf(bytes, at)) {
      this.read(bytes, at, end);
      at = end;
    }
    this.rest = at === bytes.length ? null : bytes.subarray(at);
    const { packets } = this;
    this.packets = [];
    return packets;
  }

  /** Where the packet that begins here ends; null: not all of it has come. */
  private endOf(bytes: Buffer, start: number): number | null {
    let length = 0;
    for (let index = 0; start + 1 + index < bytes.length; index += 1) {
      const digit = bytes[start + 1 + index] ?? 0;
      length += (digit & 0x7f) * 128 ** index;
      if (digit < 0x80) {
        const end = start + 2 + index + length;
        if (end - start > this.largestBytes) throw new Error(`the broker sent a packet of ${end - start} bytes`);
        return end <= bytes.length ? end : null;
      }
      if (index + 1 === MOST_LENGTH_BYTES) throw new Error("the broker sent a packet without a length");
    }
    return null;
  }

  private read(bytes: Buffer, start: number, end: number): void {
    const type = (bytes[start] ?? 0) >> 4;
    const packet =
      type === PUBLISH ? plainPublish(bytes, start, end) : type === PUBACK ? plainPuback(bytes, start, end) : null;
    if (packet) {
      this.packets.push(packet);
      return;
    }
    this.library.parse(bytes.subarray(start, end));
    if (this.trouble) throw this.trouble;
  }
}

/** Where the packet's own part begins, behind its length. */
function bodyAt(bytes: Buffer, start: number): number {
  let at = start + 1;
  while ((bytes[at] ?? 0) >= 0x80) at += 1;
  return at + 1;
}

/** A PUBACK (3.4) of a reason, or of none, which is 0. null: it says more. */
function plainPuback(bytes: Buffer, start: number, end: number): Packet | null {
  const at = bodyAt(bytes, start);
  if (end - at !== 2 && end - at !== 3) return null;
  return { cmd: "puback", messageId: bytes.readUInt16BE(at), reasonCode: end - at === 3 ? bytes.readUInt8(at + 2) : 0 };
}

/** A PUBLISH (3.3) without properties. null: it has some, or is none. */
function plainPublish(bytes: Buffer, start: number, end: number): IPublishPacket | null {
  const flags = bytes[start] ?? 0;
  const qos = (flags >> 1) & 3;
  const topicAt = bodyAt(bytes, start) + 2;
  if (qos > 1 || topicAt > end) return null;
  const topicEnd = topicAt + bytes.readUInt16BE(topicAt - 2);
  const propertiesAt = topicEnd + (qos === 0 ? 0 : 2);
  if (topicEnd === topicAt || propertiesAt >= end || bytes[propertiesAt] !== 0) return null;
  const packet: IPublishPacket = {
    cmd: "publish",
    topic: bytes.toString("utf8", topicAt, topicEnd),
    payload: bytes.subarray(propertiesAt + 1, end),
    qos: qos as 0 | 1,
    dup: (flags & 0x08) !== 0,
    retain: (flags & 0x01) !== 0,
  };
  if (qos === 1) packet.messageId = bytes.readUInt16BE(topicEnd);
  return packet;
}
