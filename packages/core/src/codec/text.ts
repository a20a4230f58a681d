/**
 * Text with holes, as most simple firmware speaks it: "ON", "R3=1", "set 3 200". What is told and what is reported
 * each have a pattern; answers are told apart by their words or by a result code.
 */

import { colourParts } from "../channel/colour.ts";
import { isColour, type Value } from "../channel/value.ts";
import type { CommandId } from "../id.ts";
import { isUuid } from "../id.ts";
import { type Acknowledgement, type ChannelBinding, type Codec, type Garbled, MAX_PAYLOAD_BYTES } from "./codec.ts";
import { levelsOf, type Meaning, readColourParts, readNumber, readValue, writeValue } from "./meaning.ts";
import { type Filling, fill, type Hole, holesOf, read } from "./template.ts";
import { decodeText, encodeText } from "./utf8.ts";
import type { Scalar } from "./word-values.ts";
import { isOneOf, isOthersWord, sameScalar, wordsNameChannel } from "./words.ts";

export interface TextSettings extends Meaning {
  readonly form: "text";
  /** Holes {value}, {red}, {green}, {blue}, {index}, {channel}, {id}, {for}, {ramp}. Default "{value}". */
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

  bind(settings, binding) {
    const { do: told = "{value}", doFor = told, ask = "", is = "{value}" } = settings;
    const { pattern = "{result}" } = settings.done ?? {};
    return {
      namesCommand: holesOf(pattern).includes("id"),
      namesChannel: {
        do: namesChannel(told) || wordsNameChannel(settings),
        done: namesChannel(pattern),
        is: namesChannel(is) || wordsNameChannel(settings),
      },
      levels: levelsOf(settings, binding),
      encode: (id, to, forMs) =>
        encodeText(fill(forMs === null ? told : doFor, { ...fillingOf(to, settings, binding), id, for: forMs ?? "" })),
      encodeAsk: (id) => encodeText(fill(ask, { index: binding.index, channel: binding.slug, id })),
      decodeDone: (payload) => readWith(payload, pattern, binding, (found) => answerFrom(found, settings)),
      decodeIs: (payload) =>
        readWith(payload, is, binding, (found) => {
          const value = valueIn(found, settings, binding);
          if (value === null && isOthersWord(found.value, settings, binding)) return null;
          if (value === null)
            return { garbled: `“${found.value ?? "its parts"}” is no value of a ${binding.kind.name}` };
          return { value, by: null, id: idFrom(found.id) };
        }),
    };
  },

  firmware(settings, binding) {
    const { do: told = "{value}", doFor = told, ask = "", is = "{value}", done = {} } = settings;
    return {
      isAsked(payload) {
        const plain = payload.length === 0 ? "" : textFrom(payload);
        const found = typeof plain === "string" ? read(ask, plain) : null;
        return found !== null && isOfChannel(found.index, found.channel, binding);
      },
      hear(payload) {
        const plain = textFrom(payload);
        if (typeof plain !== "string") return null;
        const found = read(told, plain) ?? read(doFor, plain);
        if (!found || !isOfChannel(found.index, found.channel, binding)) return null;
        const to = valueIn(found, settings, binding);
        const forMs = found.for === undefined ? null : readNumber(found.for);
        return to === null ? null : { id: found.id ?? null, to, forMs };
      },
      answer(id, ok, code) {
        if (ok === null) return null;
        const { pattern = "{result}", ok: yes = YES, no = NO } = done;
        if (!ok && no.length === 0 && !pattern.includes("{result}")) return null;
        const result = ok ? yes[0] : (no[0] ?? code);
        return encodeText(
          fill(pattern, { result: result ?? "", index: binding.index, channel: binding.slug, id: id ?? "" }),
        );
      },
      report: (value, _by, id) => encodeText(fill(is, { ...fillingOf(value, settings, binding), id: id ?? "" })),
    };
  },

  decodeHere({ here = HERE }, payload) {
    const plain = textFrom(payload);
    if (typeof plain !== "string") return plain;
    if (isOneOf(plain, [here.up], [here.down])) return { up: true, boot: null };
    if (isOneOf(plain, [here.down], [here.up])) return { up: false, boot: null };
    return { garbled: `neither “${here.up}” nor “${here.down}”` };
  },

  encodeHere: ({ here = HERE }, { up }) => encodeText(String(up ? here.up : here.down)),
};

/** @returns the payload as text without the spaces around it, or why it is none */
export function textFrom(payload: Uint8Array): string | Garbled {
  if (payload.length === 0) return { garbled: "empty payload", unattributed: true };
  if (payload.length > MAX_PAYLOAD_BYTES)
    return { garbled: `longer than ${MAX_PAYLOAD_BYTES} bytes`, unattributed: true };
  try {
    return decodeText(payload).trim();
  } catch {
    return { garbled: "not UTF-8", unattributed: true };
  }
}

/** What stands in the holes of a text, as a value. */
function valueIn(found: Partial<Record<Hole, string>>, meaning: Meaning, binding: ChannelBinding): Value | null {
  if (found.red !== undefined) return readColourParts([found.red, found.green, found.blue]);
  return readValue(found.value, meaning, binding);
}

/** What the holes of a command hold for this value and channel. */
export function fillingOf(to: Value, meaning: Meaning, binding: ChannelBinding): Filling {
  const ramp = binding.calibration?.rampMs ?? 0;
  const place = { index: binding.index, channel: binding.slug, ramp, value: writeValue(to, meaning, binding) };
  if (!isColour(to)) return place;
  const [red, green, blue] = colourParts(to);
  return { ...place, red, green, blue };
}

/** Whether a report or an answer that names a channel names this one. */
export function isOfChannel(index: unknown, slug: unknown, binding: ChannelBinding): boolean {
  if (
    index !== undefined &&
    (typeof index !== "string" || readNumber(index) !== binding.index) &&
    index !== binding.index
  )
    return false;
  return slug === undefined || sameScalar(slug, binding.slug);
}

/** Yes, no, or a result code that says which. */
export function resultOf(
  result: unknown,
  ok: readonly Scalar[],
  no: readonly Scalar[],
): Omit<Acknowledgement, "id"> | null {
  const number = typeof result === "string" || typeof result === "number" ? readNumber(result) : null;
  const code = number !== null && Number.isSafeInteger(number) ? number : null;
  if (isOneOf(result, ok, no)) return { ok: true, code };
  if (code !== null || isOneOf(result, no, ok)) return { ok: false, code };
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

function readWith<Decoded extends object | null>(
  payload: Uint8Array,
  pattern: string,
  binding: ChannelBinding,
  take: (found: Partial<Record<Hole, string>>) => Decoded | Garbled | null,
): Decoded | Garbled | null {
  const plain = textFrom(payload);
  if (typeof plain !== "string") return plain;
  const found = read(pattern, plain);
  if (!found) return { garbled: `not of the form “${pattern}”`, unattributed: true };
  return isOfChannel(found.index, found.channel, binding) ? take(found) : null;
}

function namesChannel(pattern: string): boolean {
  return /\{(?:index|channel)\}/.test(pattern);
}
