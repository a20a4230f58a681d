/**
 * Raw bytes, as relay boards on serial lines speak them: "A0 {index} {value} {sum}". Fixed bytes in hexadecimal, holes
 * of one byte each: {value} or, of two or four bytes, {value16}, {value32} with the high byte first and {value16le}, {value32le} with the low
 * byte first; {bcd} is a byte of two decimal digits; {*} is any byte; {sum} the low byte of the sum of all before it.
 */
import type { Value } from "../channel/value.ts";
import { asideOf } from "./aside.ts";
import type { Acknowledgement, ChannelBinding, Codec, Garbled } from "./codec.ts";
import { beside, bitOf, levelsOf, type Meaning, readValue, writeValue } from "./meaning.ts";
import type { Scalar } from "./word-values.ts";
import { isOthersWord, type WordSettings, wordsNameChannel } from "./words.ts";

export interface BytesSettings extends Meaning {
  readonly form: "bytes";
  /**
   * Holes {value} and its wider forms, {index}, {node}, {sum}. The device's words for on and off are numbers from 0 to 255. Left out for what is
   * only looked at.
   */
  readonly do?: string;
  /** What asks what it is. Holes {index}, {sum}. Default: an empty payload. */
  readonly ask?: string;
  /** Holes as in `do`, and {*}. Default: `do`. */
  readonly is?: string;
  readonly done?: {
    /** Holes {result}, {index}, {sum}. */
    readonly pattern: string;
    /** Results that say yes; any other says no. Default 1. */
    readonly ok?: readonly number[];
  };
  /** Whole payloads in hexadecimal. Default 01 and 00. */
  readonly here?: { readonly up: string; readonly down: string };
}

type Found = Partial<Record<"value" | "index" | "node" | "result", number>>;

const ANY_VALUE = "{value}";

const WORDS = { on: 1, off: 0 } as const;
const HERE = { up: "01", down: "00" } as const;

export const bytes: Codec<BytesSettings> = {
  name: "bytes",
  about: "raw bytes: fixed ones, the channel's number, the value, a check sum",

  bind(settings, binding) {
    const { do: told = ANY_VALUE, ask = "", is = told, done = { pattern: "{result}" } } = settings;
    const meaning: Meaning = { ...settings, words: withDefaults(settings.words) };
    return {
      namesCommand: false,
      namesChannel: {
        do: settings.bits === true || namesChannel(told) || wordsNameChannel(settings),
        done: namesChannel(done.pattern),
        is: settings.bits === true || namesChannel(is) || wordsNameChannel(settings),
      },
      levels: levelsOf(meaning, binding),
      bitOf: bitOf(meaning, binding),
      aside: asideOf(meaning, binding),
      encode: (_id, to, _forMs, others) =>
        write(told, { ...placeIn(binding), value: byteOf(to, meaning, beside(binding, others)) }),
      encodeAsk: () => write(ask, placeIn(binding)),
      decodeDone: (payload): Acknowledgement | Garbled | null => {
        const found = readBytes(done.pattern, payload);
        if ("garbled" in found) return found;
        if (!isOfBinding(found, binding)) return null;
        if (found.result === undefined) return { id: null, ok: true, code: null };
        return { id: null, ok: (done.ok ?? [1]).includes(found.result), code: found.result };
      },
      decodeIs: (payload) => {
        const found = readBytes(is, payload);
        if ("garbled" in found) return found;
        if (!isOfBinding(found, binding)) return null;
        const value = valueIn(found, meaning, binding);
        if (value === null && isOthersWord(found.value, meaning, binding)) return null;
        return value === null
          ? { garbled: `${found.value} is no value of a ${binding.kind.name}` }
          : { value, by: null, id: null };
      },
    };
  },

  firmware(settings, binding) {
    const { do: told = ANY_VALUE, ask = "", is = told, done = { pattern: "{result}" } } = settings;
    const meaning: Meaning = { ...settings, words: withDefaults(settings.words) };
    return {
      bitOf: bitOf(meaning, binding),
      isAsked(payload) {
        const found = readBytes(ask, payload);
        return !("garbled" in found) && isOfBinding(found, binding);
      },
      hear(payload) {
        const found = readBytes(told, payload);
        if ("garbled" in found || !isOfBinding(found, binding)) return null;
        const to = valueIn(found, meaning, binding);
        return to === null ? null : { id: null, to, forMs: null };
      },
      answer: (_id, ok, code) => write(done.pattern, { ...placeIn(binding), result: ok ? (done.ok?.[0] ?? 1) : code }),
      report: (value, _by, _id, others) =>
        write(is, { ...placeIn(binding), value: byteOf(value, meaning, beside(binding, others)) }),
    };
  },

  decodeHere({ here = HERE }, payload) {
    const hex = hexOf(payload);
    if (hex === plainHex(here.up)) return { up: true, boot: null };
    if (hex === plainHex(here.down)) return { up: false, boot: null };
    return { garbled: `neither ${here.up} nor ${here.down}` };
  },

  encodeHere: ({ here = HERE }, { up }) => write(up ? here.up : here.down, {}),
};

/** The byte for on and off, where a device's maker chose no other. */
function withDefaults(words: WordSettings = {}): WordSettings {
  return Array.isArray(words) ? words.map((one) => ({ ...WORDS, ...one })) : { ...WORDS, ...words };
}

function namesChannel(pattern: string): boolean {
  return /\{(?:index|node)\}/.test(pattern);
}

function placeIn({ index, node }: ChannelBinding): Found {
  return typeof node === "number" ? { index, node } : { index };
}

function isOfBinding({ index, node }: Found, binding: ChannelBinding): boolean {
  return (index === undefined || index === binding.index) && (node === undefined || node === binding.node);
}

/** Bytes know no sign: of so many bits the upper half is below zero. */
function valueIn({ value }: Found, meaning: Meaning, binding: ChannelBinding): Value | null {
  const span = 2 ** (meaning.signedBits ?? 0);
  const isBelow = meaning.signedBits !== undefined && value !== undefined && value >= span / 2;
  return readValue(isBelow ? value - span : value, { ...meaning, ...PLAIN }, binding);
}

/** What is for text alone: a byte has no digits. */
const PLAIN = { base: undefined, digits: undefined, comma: undefined, signedBits: undefined } as const;

/** "A0 {index}" → ["A0", "{index}"] */
export function byteParts(pattern: string): string[] {
  return pattern.match(/\{(?:[a-z0-9]+|\*)\}|[0-9a-f]{2}/gi) ?? [];
}

function byteOf(to: Value, meaning: Meaning, binding: ChannelBinding): number {
  const raw: Scalar = writeValue(to, { ...meaning, ...PLAIN }, binding);
  return typeof raw === "number" ? raw : 0;
}

/** A hole of bytes: what it stands for, how many it takes, and how they hold a number. */
interface ByteHole {
  readonly of: keyof Found;
  readonly width: number;
  readonly lowFirst?: true;
  readonly bcd?: true;
}

const HOLES: Readonly<Record<string, ByteHole>> = {
  "{value}": { of: "value", width: 1 },
  "{value16}": { of: "value", width: 2 },
  "{value32}": { of: "value", width: 4 },
  "{value16le}": { of: "value", width: 2, lowFirst: true },
  "{value32le}": { of: "value", width: 4, lowFirst: true },
  "{bcd}": { of: "value", width: 1, bcd: true },
  "{index}": { of: "index", width: 1 },
  "{node}": { of: "node", width: 1 },
  "{result}": { of: "result", width: 1 },
};

function write(pattern: string, filling: Found): Uint8Array {
  const out: number[] = [];
  for (const part of byteParts(pattern)) {
    const hole = HOLES[part];
    if (hole) out.push(...bytesOf(filling[hole.of] ?? 0, hole));
    else if (part === "{sum}") out.push(sumOf(out));
    else out.push(part === "{*}" ? 0 : Number.parseInt(part, 16));
  }
  return Uint8Array.from(out);
}

function bytesOf(number: number, { width, lowFirst, bcd }: ByteHole): number[] {
  if (bcd) return [Math.floor(number / 10) * 16 + (number % 10)];
  const unsigned = number < 0 ? number + 2 ** (8 * width) : number;
  const bytes = Array.from({ length: width }, (_, at) => Math.floor(unsigned / 2 ** (8 * at)) & 0xff);
  return lowFirst ? bytes : bytes.reverse();
}

/** @returns null when it holds no number so */
function numberFrom(bytes: readonly number[], { lowFirst, bcd }: ByteHole): number | null {
  const [byte = 0] = bytes;
  if (bcd) return byte >> 4 > 9 || (byte & 15) > 9 ? null : (byte >> 4) * 10 + (byte & 15);
  const high = lowFirst ? [...bytes].reverse() : bytes;
  return high.reduce((number, one) => number * 256 + one, 0);
}

function readBytes(pattern: string, payload: Uint8Array): Found | Garbled {
  const parts = byteParts(pattern);
  const length = parts.reduce((sum, part) => sum + (HOLES[part]?.width ?? 1), 0);
  if (payload.length !== length) return { garbled: `${payload.length} bytes, not ${length}`, unattributed: true };
  const found: Found = {};
  let at = 0;
  for (const part of parts) {
    const hole = HOLES[part];
    const width = hole?.width ?? 1;
    if (hole) {
      const number = numberFrom([...payload.slice(at, at + width)], hole);
      if (number === null) return { garbled: `byte ${at + 1} is no decimal number`, unattributed: true };
      found[hole.of] = number;
    } else {
      const wrong = mismatch(part, payload, at);
      if (wrong !== null) return { garbled: wrong, unattributed: true };
    }
    at += width;
  }
  return found;
}

/** @returns what is wrong with a byte that no hole takes; null: nothing */
function mismatch(part: string, payload: Uint8Array, at: number): string | null {
  if (part === "{*}") return null;
  if (part === "{sum}") return payload[at] === sumOf([...payload.slice(0, at)]) ? null : "the check sum is wrong";
  return payload[at] === Number.parseInt(part, 16) ? null : `byte ${at + 1} is not ${part}`;
}

function sumOf(bytes: readonly number[]): number {
  return bytes.reduce((sum, byte) => sum + byte, 0) & 0xff;
}

function hexOf(payload: Uint8Array): string {
  return [...payload.slice(0, 64)].map((byte) => byte.toString(16).padStart(2, "0")).join("");
}

function plainHex(text: string): string {
  return text.replaceAll(" ", "").toLowerCase();
}
