/**
 * Frames of the radio line: CBOR (RFC 8949) with a checksum behind it, in SLIP frames (RFC 1055). Pure: bytes in, frames
 * out, however they are cut into pieces; a damaged frame is dropped and counted, and the next one is read.
 */
import { decode, encode } from "cborg";

const END = 0xc0;
const ESC = 0xdb;
const ESC_END = 0xdc;
const ESC_ESC = 0xdd;

/** Longest frame, bytes before it is escaped. A radio node has little room. */
const MOST_FRAME_BYTES = 256;

/** CRC-16/CCITT-FALSE (polynomial 0x1021, start 0xffff), high byte first. */
export function checksum(bytes: Uint8Array): number {
  let sum = 0xffff;
  for (const byte of bytes) {
    sum ^= byte << 8;
    for (let bit = 0; bit < 8; bit += 1) sum = (sum & 0x8000 ? (sum << 1) ^ 0x1021 : sum << 1) & 0xffff;
  }
  return sum;
}

/** @throws Error when it does not fit in a frame */
export function encodeFrame(content: object): Uint8Array {
  const body = encode(content);
  const sum = checksum(body);
  if (body.length + 2 > MOST_FRAME_BYTES) throw new Error(`a frame holds at most ${MOST_FRAME_BYTES - 2} bytes`);
  // An END in front too: what noise came before is a frame of its own, and dropped.
  const bytes = [END];
  for (const byte of [...body, sum >> 8, sum & 0xff]) {
    if (byte === END) bytes.push(ESC, ESC_END);
    else if (byte === ESC) bytes.push(ESC, ESC_ESC);
    else bytes.push(byte);
  }
  return Uint8Array.from([...bytes, END]);
}

export class FrameReader {
  /** Frames that were damaged so far. */
  damaged = 0;
  private bytes: number[] = [];
  private escaped = false;
  private broken = false;

  push(piece: Uint8Array): Record<string, unknown>[] {
    const frames: Record<string, unknown>[] = [];
    for (const byte of piece) {
      if (byte === END) {
        const frame = this.end();
        if (frame) frames.push(frame);
      } else this.take(byte);
    }
    return frames;
  }

  private take(byte: number): void {
    if (this.escaped) {
      this.escaped = false;
      if (byte === ESC_END) this.bytes.push(END);
      else if (byte === ESC_ESC) this.bytes.push(ESC);
      else this.broken = true;
    } else if (byte === ESC) this.escaped = true;
    else if (this.bytes.length < MOST_FRAME_BYTES) this.bytes.push(byte);
    else this.broken = true;
  }

  private end(): Record<string, unknown> | null {
    const bytes = Uint8Array.from(this.bytes);
    const broken = this.broken || this.escaped;
    this.bytes = [];
    this.broken = false;
    this.escaped = false;
    if (bytes.length === 0 && !broken) return null;
    const frame = broken ? null : contentOf(bytes);
    if (!frame) this.damaged += 1;
    return frame;
  }
}

function contentOf(bytes: Uint8Array): Record<string, unknown> | null {
  const body = bytes.subarray(0, -2);
  const [high = 0, low = 0] = bytes.subarray(-2);
  if (bytes.length < 3 || checksum(body) !== ((high << 8) | low)) return null;
  try {
    const content: unknown = decode(body);
    return typeof content === "object" && content !== null && !Array.isArray(content)
      ? (content as Record<string, unknown>)
      : null;
  } catch {
    return null;
  }
}
