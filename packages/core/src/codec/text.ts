/**
 * Text with holes, as most simple firmware speaks it: "ON", "R3=1", "set 3 200". What is told and what is reported
 * each have a pattern; answers are told apart by their words or by a result code. What stands around the holes must match.
 */

import { colourParts } from "../channel/colour.ts";
import { isColour, type Value } from "../channel/value.ts";
import type { CommandId } from "../id.ts";
import { isUuid, shortNumber } from "../id.ts";
import { asideOf } from "./aside.ts";
import { bitFor } from "./bits.ts";
import { type Acknowledgement, type ChannelBinding, type Codec, type Garbled, MAX_PAYLOAD_BYTES } from "./codec.ts";
import { colourFromHsv, hsvOf } from "./hsv.ts";
import { listText } from "./list.ts";
import {
  beside,
  bitOf,
  levelsOf,
  type Meaning,
  readColourParts,
  readNumber,
  readValue,
  writeValue,
} from "./meaning.ts";
import { type Filling, fill, type Hole, holesOf, read, readInAnyOrder } from "./template.ts";
import type { TextForm } from "./text-form.ts";
import { decodeLatin1, decodeText, encodeLatin1, encodeText } from "./utf8.ts";
import type { Scalar } from "./word-values.ts";
import { isOneOf, isOthersWord, sameScalar, wordsNameChannel } from "./words.ts";

export interface TextSettings extends Meaning, TextForm {
  readonly form: "text";
  /**
   * Holes {value}, {list}, {red}, {green}, {blue}, {hue}, {saturation}, {brightness}, {index}, {channel}, {node}, {id}, {number}, {for}, {ramp}.
   * Default "{value}".
   */
  readonly do?: string;
  /** What is told where the device times itself and a time was asked for. Default: `do`. */
  readonly doFor?: string;
  /** What asks what it is. Holes {index}, {channel}, {node}, {id}. Default: an empty payload. */
  readonly ask?: string;
  /** Holes as in `do`, {list} and {*}. Default "{value}". */
  readonly is?: string;
  readonly done?: {
    /** Holes {result}, {index}, {channel}, {node}, {id}, {number}, {*}. Default "{result}". */
    readonly pattern?: string;
    /** Results that say yes; any other whole number says no. Default ok, done, yes, 1. */
    readonly ok?: readonly Scalar[];
    /** Results that say no. Default no, error, refused. */
    readonly no?: readonly Scalar[];
  };
  /** Default up and down. */
  readonly here?: { readonly up: Scalar; readonly down: Scalar };
}

export const YES: readonly Scalar[] = ["ok", "done", "yes", 1];
export const NO: readonly Scalar[] = ["no", "error", "refused"];
const HERE = { up: "up", down: "down" } as const;

export const text: Codec<TextSettings> = {
  name: "text",
  about: "text with holes: words, numbers and single characters, one channel or many to a topic",

  bind(settings, binding) {
    const { do: told = "{value}", doFor = told, ask = "", is = "{value}" } = settings;
    const { pattern = "{result}" } = settings.done ?? {};
    return {
      namesCommand: holesOf(pattern).some((hole) => hole === "id" || hole === "number"),
      namesChannel: {
        do: settings.bits === true || namesChannel(told) || wordsNameChannel(settings),
        done: namesChannel(pattern),
        is: settings.bits === true || namesChannel(is) || wordsNameChannel(settings),
      },
      levels: levelsOf(settings, binding, settings.colours === "hsv" || told.includes("{hue}")),
      bitOf: bitOf(settings, binding, tellsAll(settings)),
      aside: asideOf(settings, binding),
      encode: (id, to, forMs, others) => {
        const list = listFor(to, others, settings, binding);
        const filling = { ...commandFilling(id, to, forMs, settings, beside(binding, others)), list };
        return written(settings, forMs === null ? told : doFor, filling);
      },
      encodeAsk: (id) => written(settings, ask, { ...placeOf(binding), id }),
      decodeDone: (payload) => readWith(payload, pattern, settings, binding, (found) => answerFrom(found, settings)),
      decodeIs: (payload) =>
        readWith(payload, is, settings, binding, (found) => {
          const value = valueIn(found, settings, binding);
          if (value === null && isOthersWord(found.value, settings, binding)) return null;
          if (value === null)
            return { garbled: `“${found.value ?? found.list ?? "its parts"}” is no value of a ${binding.kind.name}` };
          return { value, by: null, id: idFrom(found.id), ...numberIn(found.number) };
        }),
    };
  },

  firmware(settings, binding) {
    const { do: told = "{value}", doFor = told, ask = "", is = "{value}", done = {} } = settings;
    return {
      bitOf: bitOf(settings, binding, tellsAll(settings)),
      isAsked(payload) {
        const plain = payload.length === 0 ? "" : textFrom(payload, settings);
        const found = typeof plain === "string" ? read(ask, plain) : null;
        return found !== null && isOfChannel(found, binding);
      },
      hear(payload) {
        const plain = textFrom(payload, settings);
        if (typeof plain !== "string") return null;
        const found = readForm(told, settings, plain) ?? readForm(doFor, settings, plain);
        if (!found || !isOfChannel(found, binding)) return null;
        const to = valueIn(found, settings, binding);
        const time = found.for === undefined ? null : readNumber(found.for);
        const forMs = time === null ? null : msOf(time, settings.times);
        return to === null ? null : { id: found.id ?? found.number ?? null, to, forMs };
      },
      answer(id, ok, code) {
        if (ok === null) return null;
        const { pattern = "{result}", ok: yes = YES, no = NO } = done;
        if (!ok && no.length === 0 && !pattern.includes("{result}")) return null;
        const result = ok ? yes[0] : (no[0] ?? code);
        const filling = { result: result ?? "", ...placeOf(binding), id: id ?? "", number: id ?? "" };
        return written(settings, pattern, filling);
      },
      report(value, _by, id, others) {
        const filling = fillingOf(value, settings, beside(binding, others));
        const list = tellsAll(settings)
          ? listFor(value, others, settings, binding)
          : listOf(filling.value ?? "", settings, binding);
        return written(settings, is, { ...filling, list, id: id ?? "", number: id ?? "", "*": "0" });
      },
    };
  },

  decodeHere({ here = HERE, ...form }, payload) {
    const plain = textFrom(payload, form);
    if (typeof plain !== "string") return plain;
    if (isOneOf(plain, [here.up], [here.down])) return { up: true, boot: null };
    if (isOneOf(plain, [here.down], [here.up])) return { up: false, boot: null };
    return { garbled: `neither “${here.up}” nor “${here.down}”` };
  },

  encodeHere: ({ here = HERE }, { up }) => encodeText(String(up ? here.up : here.down)),
};

/** @returns the payload as text without the spaces around it, or why it is none */
export function textFrom(payload: Uint8Array, { charset }: Pick<TextForm, "charset"> = {}): string | Garbled {
  if (payload.length === 0) return { garbled: "empty payload", unattributed: true };
  if (payload.length > MAX_PAYLOAD_BYTES)
    return { garbled: `longer than ${MAX_PAYLOAD_BYTES} bytes`, unattributed: true };
  if (charset === "latin1") return decodeLatin1(payload).trim();
  try {
    return decodeText(payload).trim();
  } catch {
    return { garbled: "not UTF-8", unattributed: true };
  }
}

function written({ charset }: TextForm, template: string, filling: Filling): Uint8Array {
  const plain = fill(template, filling);
  return charset === "latin1" ? encodeLatin1(plain) : encodeText(plain);
}

function readForm(pattern: string, { anyOrder }: TextForm, plain: string): Partial<Record<Hole, string>> | null {
  return anyOrder === undefined ? read(pattern, plain) : readInAnyOrder(pattern, anyOrder, plain);
}

/** What stands in the holes of a text, as a value. */
function valueIn(found: Partial<Record<Hole, string>>, settings: TextSettings, binding: ChannelBinding): Value | null {
  if (found.red !== undefined) return readColourParts([found.red, found.green, found.blue]);
  if (found.hue !== undefined)
    return colourFromHsv(
      [found.hue, found.saturation, found.brightness].map((part) => readNumber(part ?? "")),
      settings,
    );
  if (found.list === undefined) return readValue(found.value, settings, binding);
  const { listSeparator = "," } = settings;
  return readValue(found.list.split(listSeparator)[binding.place ?? 0]?.trim(), settings, binding);
}

/** Whether a command tells all outputs of the board. */
function tellsAll({ bits = false, do: told = "{value}" }: TextSettings): boolean {
  return bits || told.includes("{list}");
}

/** All outputs side by side, this one as it shall be. */
function listFor(to: Value, others = 0, settings: TextSettings, binding: ChannelBinding): string {
  if (!tellsAll(settings) || (to !== "on" && to !== "off")) return "";
  return listText(others + bitFor(to, settings, binding), settings, binding);
}

/** A list as a device writes it whose other channels are off. */
function listOf(value: Scalar, settings: TextSettings, binding: ChannelBinding): string {
  const { place = 0 } = binding;
  const others = Array.from({ length: place }, () => writeValue(binding.kind.rest, settings, binding));
  return [...others, value].join(settings.listSeparator ?? ",");
}

/** What names a channel in a payload. */
export function placeOf({ index, slug, node = "" }: ChannelBinding) {
  return { index, channel: slug, node } as const;
}

/** What the holes of a command hold. */
export function commandFilling(
  id: CommandId,
  to: Value,
  forMs: number | null,
  settings: Meaning & Pick<TextForm, "times">,
  binding: ChannelBinding,
): Filling {
  const time = forMs === null ? "" : inUnit(forMs, settings.times);
  return { ...fillingOf(to, settings, binding), id, number: shortNumber(id), for: time };
}

const UNIT_MS = { ms: 1, s: 1_000, min: 60_000 } as const;

/** A time in the device's unit as ms. */
export function msOf(time: number, unit: TextForm["times"] = "ms"): number {
  return time * UNIT_MS[unit];
}

/** A time in the device's unit: never shorter than asked. */
function inUnit(ms: number, unit: TextForm["times"] = "ms"): number {
  return Math.ceil(ms / UNIT_MS[unit]);
}

/** What the holes of a command hold for this value and channel. */
export function fillingOf(to: Value, meaning: Meaning & Pick<TextForm, "times">, binding: ChannelBinding): Filling {
  const ramp = inUnit(binding.calibration?.rampMs ?? 0, meaning.times);
  const place = { ...placeOf(binding), ramp, value: writeValue(to, meaning, binding) };
  if (!isColour(to)) return place;
  const [red, green, blue] = colourParts(to);
  const [hue, saturation, brightness] = hsvOf(to, meaning);
  return { ...place, red, green, blue, hue, saturation, brightness };
}

/** What a message says of the channel that it is about; left out: nothing. */
export interface NamedPlace {
  readonly index?: unknown;
  readonly channel?: unknown;
  readonly node?: unknown;
}

/** Whether a report or an answer that names a channel, or the board, names this one. */
export function isOfChannel({ index, channel, node }: NamedPlace, binding: ChannelBinding): boolean {
  if (node !== undefined && !sameScalar(node, binding.node ?? "")) return false;
  const isNumber = (typeof index === "string" && readNumber(index) === binding.index) || index === binding.index;
  if (index !== undefined && !isNumber) return false;
  return channel === undefined || sameScalar(channel, binding.slug);
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

/** The short number of a command, where a message has one. */
export function numberIn(raw: unknown): { readonly number: number } | Record<string, never> {
  const number = typeof raw === "string" || typeof raw === "number" ? readNumber(raw) : null;
  return number === null ? {} : { number };
}

/** A device may say more than ids that we gave: such a text is no id. */
export function idFrom(raw: unknown): CommandId | null {
  return typeof raw === "string" && isUuid(raw) ? (raw as CommandId) : null;
}

function answerFrom(found: Partial<Record<Hole, string>>, { done = {} }: TextSettings): Acknowledgement | Garbled {
  const result = resultOf(found.result ?? "", done.ok ?? YES, done.no ?? NO);
  const named = { id: idFrom(found.id), ...numberIn(found.number) };
  if (found.result === undefined) return { ...named, ok: true, code: null };
  return result ? { ...named, ...result } : { garbled: `“${found.result}” is neither a yes, a no nor a result code` };
}

function readWith<Decoded extends object | null>(
  payload: Uint8Array,
  pattern: string,
  settings: TextSettings,
  binding: ChannelBinding,
  take: (found: Partial<Record<Hole, string>>) => Decoded | Garbled | null,
): Decoded | Garbled | null {
  const plain = textFrom(payload, settings);
  if (typeof plain !== "string") return plain;
  const found = readForm(pattern, settings, plain);
  if (!found) return { garbled: `not of the form “${pattern}”`, unattributed: true };
  return isOfChannel(found, binding) ? take(found) : null;
}

function namesChannel(pattern: string): boolean {
  return /\{(?:index|channel|node|list)\}/.test(pattern);
}
