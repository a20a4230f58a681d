/**
 * Raw bytes, as relay boards on serial lines speak them: "A0 {index} {value} {sum}". Fixed bytes in hexadecimal, holes
 * of one byte each, {value16} of two (high byte first), {sum} the low byte of the sum of all before it.
 */
import type { Value } from "../channel/value.ts";
import type { Acknowledgement, ChannelBinding, Codec, Garbled } from "./codec.ts";
import { levelsOf, type Meaning, readValue, writeValue } from "./meaning.ts";
import type { Scalar } from "./word-values.ts";
import { isOthersWord, type WordSettings, wordsNameChannel } from "./words.ts";

export interface BytesSettings extends Meaning {
  readonly form: "bytes";
  /** Holes {value} or {value16}, {index}, {sum}. The device's words for on and off are numbers from 0 to 255. */
  readonly do: string;
  /** What asks what it is. Holes {index}, {sum}. Default: an empty payload. */
  readonly ask?: string;
  /** Holes {value} or {value16}, {index}, {sum}. Default: `do`. */
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

type Found = Partial<Record<"value" | "index" | "result", number>>;

const WORDS = { on: 1, off: 0 } as const;
const HERE = { up: "01", down: "00" } as const;

export const bytes: Codec<BytesSettings> = {
  name: "bytes",
  about: "raw bytes: fixed ones, the channel's number, the value, a check sum",

  bind(settings, binding) {
    const { do: told, ask = "", is = told, done = { pattern: "{result}" } } = settings;
    const meaning: Meaning = { ...settings, words: withDefaults(settings.words) };
    return {
      namesCommand: false,
      namesChannel: {
        do: told.includes("{index}") || wordsNameChannel(settings),
        done: done.pattern.includes("{index}"),
        is: is.includes("{index}") || wordsNameChannel(settings),
      },
      levels: levelsOf(meaning, binding),
      encode: (_id, to) => write(told, { index: binding.index, value: byteOf(to, meaning, binding) }),
      encodeAsk: () => write(ask, { index: binding.index }),
      decodeDone: (payload): Acknowledgement | Garbled | null => {
        const found = readBytes(done.pattern, payload);
        if ("garbled" in found) return found;
        if (found.index !== undefined && found.index !== binding.index) return null;
        if (found.result === undefined) return { id: null, ok: true, code: null };
        return { id: null, ok: (done.ok ?? [1]).includes(found.result), code: found.result };
      },
      decodeIs: (payload) => {
        const found = readBytes(is, payload);
        if ("garbled" in found) return found;
        if (found.index !== undefined && found.index !== binding.index) return null;
        const value = readValue(found.value, meaning, binding);
        if (value === null && isOthersWord(found.value, meaning, binding)) return null;
        return value === null
          ? { garbled: `${found.value} is no value of a ${binding.kind.name}` }
          : { value, by: null, id: null };
      },
    };
  },

  firmware(settings, binding) {
    const { do: told, ask = "", is = told, done = { pattern: "{result}" } } = settings;
    const meaning: Meaning = { ...settings, words: withDefaults(settings.words) };
    return {
      isAsked(payload) {
        const found = readBytes(ask, payload);
        return !("garbled" in found) && (found.index === undefined || found.index === binding.index);
      },
      hear(payload) {
        const found = readBytes(told, payload);
        if ("garbled" in found || (found.index !== undefined && found.index !== binding.index)) return null;
        const to = readValue(found.value, meaning, binding);
        return to === null ? null : { id: null, to, forMs: null };
      },
      answer: (_id, ok, code) => write(done.pattern, { index: binding.index, result: ok ? (done.ok?.[0] ?? 1) : code }),
      report: (value) => write(is, { index: binding.index, value: byteOf(value, meaning, binding) }),
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

/** "A0 {index}" → ["A0", "{index}"] */
export function byteParts(pattern: string): string[] {
  return pattern.match(/\{[a-z0-9]+\}|[0-9a-f]{2}/gi) ?? [];
}

function byteOf(to: Value, meaning: Meaning, binding: ChannelBinding): number {
  const raw: Scalar = writeValue(to, meaning, binding);
  return typeof raw === "number" ? raw : 0;
}

function write(pattern: string, filling: Found): Uint8Array {
  const out: number[] = [];
  for (const part of byteParts(pattern)) {
    const { index = 0, value = 0, result = 0 } = filling;
    if (part === "{index}") out.push(index & 0xff);
    else if (part === "{value}") out.push(value & 0xff);
    else if (part === "{value16}") out.push((value >> 8) & 0xff, value & 0xff);
    else if (part === "{result}") out.push(result & 0xff);
    else if (part === "{sum}") out.push(sumOf(out));
    else out.push(Number.parseInt(part, 16));
  }
  return Uint8Array.from(out);
}

function readBytes(pattern: string, payload: Uint8Array): Found | Garbled {
  const parts = byteParts(pattern);
  const length = parts.reduce((sum, part) => sum + widthOf(part), 0);
  if (payload.length !== length) return { garbled: `${payload.length} bytes, not ${length}`, unattributed: true };
  const found: Found = {};
  let at = 0;
  for (const part of parts) {
    const byte = payload[at] ?? 0;
    const hole = HOLE_OF[part];
    if (hole !== undefined) found[hole] = widthOf(part) === 2 ? byte * 256 + (payload[at + 1] ?? 0) : byte;
    else if (part === "{sum}" && byte !== sumOf([...payload.slice(0, at)]))
      return { garbled: "the check sum is wrong", unattributed: true };
    else if (part !== "{sum}" && byte !== Number.parseInt(part, 16))
      return { garbled: `byte ${at + 1} is not ${part}`, unattributed: true };
    at += widthOf(part);
  }
  return found;
}

const HOLE_OF: Readonly<Record<string, keyof Found>> = {
  "{value}": "value",
  "{value16}": "value",
  "{index}": "index",
  "{result}": "result",
};

function widthOf(part: string): number {
  return part === "{value16}" ? 2 : 1;
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
