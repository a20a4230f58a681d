/**
 * Text with holes, as most simple firmware speaks it: "ON", "R3=1", "set 3 200". What is told and what is reported
 * each have a pattern; answers are told apart by their words or by a result code.
 */

import { colourParts } from "../channel/colour.ts";
import { isColour, type Value } from "../channel/value.ts";
import type { CommandId } from "../id.ts";
import { isUuid } from "../id.ts";
import { type Acknowledgement, type Codec, type Garbled, MAX_PAYLOAD_BYTES, type Seat } from "./codec.ts";
import {
  type Meaning,
  readColourParts,
  readNumber,
  readValue,
  type Scalar,
  sameScalar,
  stepOf,
  writeValue,
} from "./meaning.ts";
import { type Filling, fill, type Hole, holesOf, read } from "./template.ts";
import { decodeText, encodeText } from "./utf8.ts";

export interface TextSettings extends Meaning {
  readonly form: "text";
  /** Holes {value}, {red}, {green}, {blue}, {index}, {channel}, {id}, {for}. Default "{value}". */
  readonly do?: string;
  /** What is told where the device times itself and a time was asked for. Default: `do`. */
  readonly doFor?: string;
  /** What asks what it is. Holes {index}, {channel}, {id}. Default: an empty payload. */
  readonly ask?: string;
  /** Holes {value}, {red}, {green}, {blue}, {index}, {channel}, {id}. Default "{value}". */
  readonly is?: string;
  readonly done?: {
    /** Holes {result}, {index}, {channel}, {id}. Default "{result}". */
    readonly pattern?: string;
    /** Results that say yes; any other whole number says no. Default ok, done, yes, 1. */
    readonly ok?: readonly Scalar[];
    /** Results that say no. Default no, error, refused. */
    readonly no?: readonly Scalar[];
  };
  /** Default up and down. */
  readonly here?: { readonly up: Scalar; readonly down: Scalar };
}

const YES: readonly Scalar[] = ["ok", "done", "yes", 1];
const NO: readonly Scalar[] = ["no", "error", "refused"];
const HERE = { up: "up", down: "down" } as const;

export const text: Codec<TextSettings> = {
  name: "text",
  about: "text with holes: words, numbers and single characters, one channel or many to a topic",

  bind(settings, seat) {
    const { do: told = "{value}", doFor = told, ask = "", is = "{value}" } = settings;
    const { pattern = "{result}" } = settings.done ?? {};
    return {
      namesCommand: holesOf(pattern).includes("id"),
      namesChannel: { do: namesChannel(told), done: namesChannel(pattern), is: namesChannel(is) },
      step: stepOf(settings, seat),
      encode: (id, to, forMs) =>
        encodeText(fill(forMs === null ? told : doFor, { ...fillingOf(to, settings, seat), id, for: forMs ?? "" })),
      encodeAsk: (id) => encodeText(fill(ask, { index: seat.index, channel: seat.slug, id })),
      decodeDone: (payload) => readWith(payload, pattern, seat, (found) => answerFrom(found, settings)),
      decodeIs: (payload) =>
        readWith(payload, is, seat, (found) => {
          const value = valueIn(found, settings, seat);
          if (value === null) return { garbled: `“${found.value ?? "its parts"}” is no value of a ${seat.kind.name}` };
          return { value, by: null, id: idFrom(found.id) };
        }),
    };
  },

  firmware(settings, seat) {
    const { do: told = "{value}", doFor = told, ask = "", is = "{value}", done = {} } = settings;
    return {
      isAsked(payload) {
        const plain = payload.length === 0 ? "" : textFrom(payload);
        const found = typeof plain === "string" ? read(ask, plain) : null;
        return found !== null && isOfSeat(found.index, found.channel, seat);
      },
      hear(payload) {
        const plain = textFrom(payload);
        if (typeof plain !== "string") return null;
        const found = read(told, plain) ?? read(doFor, plain);
        if (!found || !isOfSeat(found.index, found.channel, seat)) return null;
        const to = valueIn(found, settings, seat);
        const forMs = found.for === undefined ? null : readNumber(found.for);
        return to === null ? null : { id: found.id ?? null, to, forMs };
      },
      answer(id, ok, code) {
        if (ok === null) return null;
        const { pattern = "{result}", ok: yes = YES, no = NO } = done;
        if (!ok && no.length === 0 && !pattern.includes("{result}")) return null;
        const result = ok ? yes[0] : (no[0] ?? code);
        return encodeText(fill(pattern, { result: result ?? "", index: seat.index, channel: seat.slug, id: id ?? "" }));
      },
      report: (value, _by, id) => encodeText(fill(is, { ...fillingOf(value, settings, seat), id: id ?? "" })),
    };
  },

  decodeHere({ here = HERE }, payload) {
    const plain = textFrom(payload);
    if (typeof plain !== "string") return plain;
    if (sameScalar(plain, here.up)) return { up: true, boot: null };
    if (sameScalar(plain, here.down)) return { up: false, boot: null };
    return { garbled: `neither “${here.up}” nor “${here.down}”` };
  },

  encodeHere: ({ here = HERE }, { up }) => encodeText(String(up ? here.up : here.down)),
};

/** @returns the payload as text without the spaces around it, or why it is none */
export function textFrom(payload: Uint8Array): string | Garbled {
  if (payload.length === 0) return { garbled: "empty payload" };
  if (payload.length > MAX_PAYLOAD_BYTES) return { garbled: `longer than ${MAX_PAYLOAD_BYTES} bytes` };
  try {
    return decodeText(payload).trim();
  } catch {
    return { garbled: "not UTF-8" };
  }
}

/** What stands in the holes of a text, as a value. */
function valueIn(found: Partial<Record<Hole, string>>, meaning: Meaning, seat: Seat): Value | null {
  if (found.red !== undefined) return readColourParts([found.red, found.green, found.blue]);
  return readValue(found.value, meaning, seat);
}

/** What the holes of a command hold for this value and channel. */
export function fillingOf(to: Value, meaning: Meaning, seat: Seat): Filling {
  const place = { index: seat.index, channel: seat.slug, value: writeValue(to, meaning, seat) };
  if (!isColour(to)) return place;
  const [red, green, blue] = colourParts(to);
  return { ...place, red, green, blue };
}

/** Whether a report or an answer that names a channel names this one. */
export function isOfSeat(index: unknown, slug: unknown, seat: Seat): boolean {
  if (index !== undefined && (typeof index !== "string" || readNumber(index) !== seat.index) && index !== seat.index)
    return false;
  return slug === undefined || sameScalar(slug, seat.slug);
}

/** Yes, no, or a result code that says which. */
export function resultOf(
  result: unknown,
  ok: readonly Scalar[],
  no: readonly Scalar[],
): Omit<Acknowledgement, "id"> | null {
  const number = typeof result === "string" || typeof result === "number" ? readNumber(result) : null;
  const code = number !== null && Number.isSafeInteger(number) ? number : null;
  if (ok.some((one) => sameScalar(result, one))) return { ok: true, code };
  if (code !== null || no.some((one) => sameScalar(result, one))) return { ok: false, code };
  return null;
}

/** A device may say more than ids that we gave: such a text is no id. */
export function idFrom(raw: unknown): CommandId | null {
  return typeof raw === "string" && isUuid(raw) ? (raw as CommandId) : null;
}

function answerFrom(found: Partial<Record<Hole, string>>, { done = {} }: TextSettings): Acknowledgement | Garbled {
  const result = resultOf(found.result ?? "", done.ok ?? YES, done.no ?? NO);
  if (found.result === undefined) return { id: idFrom(found.id), ok: true, code: null };
  return result
    ? { id: idFrom(found.id), ...result }
    : { garbled: `“${found.result}” is neither a yes, a no nor a result code` };
}

function readWith<Decoded extends object>(
  payload: Uint8Array,
  pattern: string,
  seat: Seat,
  take: (found: Partial<Record<Hole, string>>) => Decoded | Garbled,
): Decoded | Garbled | null {
  const plain = textFrom(payload);
  if (typeof plain !== "string") return plain;
  const found = read(pattern, plain);
  if (!found) return { garbled: `not of the form “${pattern}”` };
  return isOfSeat(found.index, found.channel, seat) ? take(found) : null;
}

function namesChannel(pattern: string): boolean {
  return /\{(?:index|channel)\}/.test(pattern);
}
