/**
 * Bytes of a typed line → lines, however they are cut into pieces. Ends are CR, LF, CR LF or CR NUL (RFC 854, NVT);
 * Telnet's negotiation is skipped, and a backspace takes back what stands before it.
 */
import { decodeText } from "../codec/utf8.ts";

/** A whole line without its end, or the news that one was too long or no text and was dropped. */
export type TypedLine = { readonly text: string } | { readonly dropped: "too-long" | "not-text" };

const NUL = 0;
const BACKSPACE = 8;
const LF = 10;
const CR = 13;
const DELETE = 127;

/** Telnet, RFC 854: "interpret as command" and what may follow it. */
const IAC = 255;
const SB = 250;
const SE = 240;
const FIRST_OPTION_VERB = 251;

type Skipping = "nothing" | "verb" | "option" | "sub" | "sub-verb";

export class LineSplitter {
  private readonly most: number;
  private bytes: number[] = [];
  private skipping: Skipping = "nothing";
  private tooLong = false;
  private afterCr = false;

  /** @param most longest line, bytes; a longer one is dropped whole */
  constructor(most = 4_096) {
    this.most = most;
  }

  /** What has been typed of a line that has not ended. For prompts, which end in none. */
  get rest(): string {
    return textOf(this.bytes) ?? "";
  }

  /** Forgets what has been typed of a line that has not ended. */
  clear(): void {
    this.bytes = [];
    this.tooLong = false;
  }

  push(piece: Uint8Array): TypedLine[] {
    const lines: TypedLine[] = [];
    for (const byte of piece) {
      const line = this.take(byte);
      if (line) lines.push(line);
    }
    return lines;
  }

  private take(byte: number): TypedLine | null {
    if (this.skipping !== "nothing") {
      this.skip(byte);
      return null;
    }
    const pairs = this.afterCr && (byte === LF || byte === NUL);
    this.afterCr = byte === CR;
    if (pairs) return null;
    if (byte === CR || byte === LF) return this.end();
    if (byte === IAC) this.skipping = "verb";
    else if (byte === BACKSPACE || byte === DELETE) this.takeBack();
    else if (byte !== NUL) this.add(byte);
    return null;
  }

  private skip(byte: number): void {
    if (this.skipping === "verb") {
      if (byte === SB) this.skipping = "sub";
      else this.skipping = byte >= FIRST_OPTION_VERB && byte !== IAC ? "option" : "nothing";
    } else if (this.skipping === "option") this.skipping = "nothing";
    else if (this.skipping === "sub") this.skipping = byte === IAC ? "sub-verb" : "sub";
    else this.skipping = byte === SE ? "nothing" : "sub";
  }

  private add(byte: number): void {
    if (this.bytes.length < this.most) this.bytes.push(byte);
    else this.tooLong = true;
  }

  /** A character may be several bytes: those that go on one begin with the bits 10 (RFC 3629). */
  private takeBack(): void {
    let byte = this.bytes.pop();
    while (byte !== undefined && (byte & 0xc0) === 0x80) byte = this.bytes.pop();
  }

  private end(): TypedLine {
    const { bytes, tooLong } = this;
    this.clear();
    if (tooLong) return { dropped: "too-long" };
    const text = textOf(bytes);
    return text === null ? { dropped: "not-text" } : { text };
  }
}

/** @returns null when it is not UTF-8; other control characters are left out */
function textOf(bytes: readonly number[]): string | null {
  try {
    return decodeText(Uint8Array.from(bytes)).replace(/(?!\t)\p{Cc}/gu, "");
  } catch {
    return null;
  }
}
