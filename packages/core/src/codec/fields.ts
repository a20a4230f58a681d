/**
 * JSON of the device's own (RFC 8259): what is told is a template, what comes back is found by JSON Pointers (RFC 6901).
 * A text in the template that is nothing but a hole becomes what stands in it, in its own type. Long because both sides of the form stand
 * together: what one writes the other reads.
 */

import type { Value } from "../channel/value.ts";
import { asideOf } from "./aside.ts";
import type { ChannelBinding, DecodedReport } from "./codec.ts";
import { type Acknowledgement, type Codec, type Garbled, isGarbled, type Presence } from "./codec.ts";
import type { FieldsSettings, Template } from "./fields-settings.ts";
import { colourFromHsv } from "./hsv.ts";
import { beside, bitOf, levelsOf, readColourParts, readNumber, readValue } from "./meaning.ts";
import { lookUp, NOTHING } from "./pointer.ts";
import { type Filling, fill, type Hole, read as readText } from "./template.ts";
import { commandFilling, fillingOf, idFrom, isOfChannel, msOf, numberIn, placeOf, resultOf, textFrom } from "./text.ts";
import { encodeText, printable } from "./utf8.ts";
import type { Scalar } from "./word-values.ts";
import { isOneOf, isOthersWord, sameScalar, wordsNameChannel } from "./words.ts";

const YES: readonly Scalar[] = [true, "ok", "done", "yes", 1];
const NO: readonly Scalar[] = [false, "no", "error", "refused"];
const HERE = { value: "/up", up: true, down: false, boot: "/boot" } as const;
const CAUSES = ["command", "hand", "timer", "boot"] as const;

export const fields: Codec<FieldsSettings> = {
  name: "fields",
  about: "JSON of the device's own: a template out, JSON Pointers in",

  bind(settings, binding) {
    const { do: told = {}, doFor = told, ask = {}, is = { value: "/value" }, done = {} } = settings;
    return {
      namesCommand: done.id !== undefined || done.number !== undefined,
      namesChannel: {
        do: settings.bits === true || hasPlace(told) || wordsNameChannel(settings),
        done: namesPlace(done),
        is: settings.bits === true || namesPlace(is) || wordsNameChannel(settings),
      },
      levels: levelsOf(settings, binding, settings.colours === "hsv" || is.hue !== undefined),
      bitOf: bitOf(settings, binding),
      aside: asideOf(settings, binding),
      encode: (id, to, forMs, others) => {
        const filling = commandFilling(id, to, forMs, settings, beside(binding, others));
        return encodeText(JSON.stringify(filled(forMs === null ? told : doFor, filling)));
      },
      encodeAsk: (id) => encodeText(JSON.stringify(filled(ask, { ...placeOf(binding), id }))),
      decodeDone: (payload) => answerFrom(payload, done, binding),
      decodeIs: (payload) => {
        const report = reportFrom(payload, is, settings, binding);
        // Where a report carries a result too, one that is not a yes takes its state part with it.
        return report !== null && !isGarbled(report) && saysNo(payload, settings, binding)
          ? { garbled: `its result at ${done.result} is not a yes, so its state proves nothing` }
          : report;
      },
    };
  },

  firmware(settings, binding) {
    const { do: told = {}, doFor = told, ask = {}, is = { value: "/value" }, done = {} } = settings;
    const place = placeOf(binding);
    return {
      bitOf: bitOf(settings, binding),
      isAsked(payload) {
        const read = documentFrom(payload);
        if (isGarbled(read)) return false;
        const found = unfilled(ask, read.document);
        // A command may say all that a question does, and more.
        const order = unfilled(told, read.document) ?? unfilled(doFor, read.document);
        const isCommand = [order?.value, order?.red, order?.hue].some((part) => part !== undefined);
        return found !== null && !isCommand && isOfChannel(found, binding);
      },
      hear(payload) {
        const read = documentFrom(payload);
        if (isGarbled(read)) return null;
        const found = unfilled(told, read.document) ?? unfilled(doFor, read.document);
        if (!found || !isOfChannel(found, binding)) return null;
        const to = coloursFound(found, settings) ?? readValue(found.value, settings, binding);
        const forMs = typeof found.for === "number" ? msOf(found.for, settings.times) : null;
        const id = found.id ?? found.number;
        return to === null ? null : { id: id === undefined ? null : String(id), to, forMs };
      },
      answer(id, ok, code) {
        if (ok === null) return null;
        const body = {};
        if (done.result !== undefined) put(body, done.result, ok ? (done.ok ?? YES)[0] : ((done.no ?? NO)[0] ?? code));
        putNames(body, done, place, id);
        return encodeText(JSON.stringify(body));
      },
      report(value, by, id, others) {
        const filling = fillingOf(value, settings, beside(binding, others));
        const body = {};
        for (const hole of COLOUR_PARTS) if (is[hole] !== undefined) put(body, is[hole], filling[hole]);
        if (is.red === undefined && is.hue === undefined) put(body, fill(is.value ?? "/value", place), filling.value);
        putNames(body, is, place, id);
        if (is.by !== undefined && by !== null) put(body, is.by, is.causes?.[by]?.[0] ?? by);
        return encodeText(JSON.stringify(body));
      },
    };
  },

  decodeHere({ here = HERE }, payload): Presence | Garbled {
    const wanted = `neither ${JSON.stringify(here.up)} nor ${JSON.stringify(here.down)}`;
    if (here.value === undefined) {
      const plain = textFrom(payload);
      if (typeof plain !== "string") return plain;
      if (isOneOf(plain, [here.up], [here.down])) return { up: true, boot: null };
      return isOneOf(plain, [here.down], [here.up]) ? { up: false, boot: null } : { garbled: wanted };
    }
    const read = documentFrom(payload);
    if (isGarbled(read)) return read;
    const raw = lookUp(read.document, here.value);
    const told = here.boot === undefined ? NOTHING : lookUp(read.document, here.boot);
    const boot = typeof told === "string" || typeof told === "number" ? printable(String(told), 64) : null;
    if (isOneOf(raw, [here.up], [here.down])) return { up: true, boot };
    return isOneOf(raw, [here.down], [here.up]) ? { up: false, boot } : { garbled: `${wanted} at ${here.value}` };
  },

  encodeHere({ here = HERE }, { up, boot }) {
    if (here.value === undefined) return encodeText(String(up ? here.up : here.down));
    const body: Record<string, unknown> = {};
    put(body, here.value, up ? here.up : here.down);
    if (up && boot !== null && here.boot !== undefined) put(body, here.boot, boot);
    return encodeText(JSON.stringify(body));
  },
};

/** @returns the JSON document, or why there is none */
export function documentFrom(payload: Uint8Array): { readonly document: unknown } | Garbled {
  const plain = textFrom(payload);
  if (typeof plain !== "string") return plain;
  try {
    return { document: JSON.parse(plain) };
  } catch {
    return { garbled: "not JSON in UTF-8", unattributed: true };
  }
}

function reportFrom(
  payload: Uint8Array,
  is: NonNullable<FieldsSettings["is"]>,
  settings: FieldsSettings,
  binding: ChannelBinding,
): DecodedReport | Garbled | null {
  const read = documentFrom(payload);
  if (isGarbled(read)) return read;
  const at = finder(read.document, binding);
  if (!isAbout(at, is, binding)) return null;
  const isColour = is.red !== undefined || is.hue !== undefined;
  const raw = isColour ? null : at(is.value ?? "/value");
  // One of several channels that share the topic: this message says nothing of it.
  if (raw === undefined && /\{/.test(is.value ?? "")) return null;
  const value = isColour
    ? coloursFound(Object.fromEntries(COLOUR_PARTS.map((part) => [part, at(is[part])])), settings)
    : readValue(raw, settings, binding);
  if (value === null && isOthersWord(raw, settings, binding)) return null;
  if (value === null) {
    return {
      garbled: `${JSON.stringify(raw) ?? "nothing"} at ${is.value ?? is.red ?? is.hue} is no value of a ${binding.kind.name}`,
    };
  }
  const told = at(is.by);
  const by = CAUSES.find((cause) => (is.causes?.[cause] ?? [cause]).some((one) => sameScalar(told, one))) ?? null;
  return { value, by, id: idFrom(at(is.id)), ...numberIn(at(is.number)) };
}

function answerFrom(
  payload: Uint8Array,
  done: NonNullable<FieldsSettings["done"]>,
  binding: ChannelBinding,
): Acknowledgement | Garbled | null {
  const read = documentFrom(payload);
  if (isGarbled(read)) return read;
  const at = finder(read.document, binding);
  if (!isAbout(at, done, binding)) return null;
  const named = { id: idFrom(at(done.id)), ...numberIn(at(done.number)) };
  if (done.result === undefined) return { ...named, ok: true, code: null };
  const raw = at(done.result);
  if (raw === undefined) return { garbled: `there is no result at ${done.result}` };
  const result = resultOf(raw, done.ok ?? YES, done.no ?? NO);
  return result
    ? { ...named, ...result }
    : { garbled: `${JSON.stringify(raw)} at ${done.result} is neither a yes nor a no`, unreadable: true };
}

const COLOUR_PARTS = ["red", "green", "blue", "hue", "saturation", "brightness"] as const;

/** A colour that comes in three numbers; null: it is none, or comes otherwise. */
function coloursFound(found: Partial<Record<Hole, unknown>>, settings: FieldsSettings): Value | null {
  if (found.red !== undefined) return readColourParts([found.red, found.green, found.blue]);
  if (found.hue === undefined) return null;
  const parts = [found.hue, found.saturation, found.brightness];
  const numbers = parts.map((part) => (typeof part === "string" || typeof part === "number" ? readNumber(part) : null));
  return colourFromHsv(numbers, settings);
}

type PlacePointers = Pick<NonNullable<FieldsSettings["done"]>, "index" | "channel" | "node" | "match">;

/** Whether a message is about this channel: what it names is its, and what must stand in it does. */
function isAbout(
  at: (pointer: string | undefined) => unknown,
  places: PlacePointers,
  binding: ChannelBinding,
): boolean {
  const { index, channel, node, match = {} } = places;
  if (!isOfChannel({ index: at(index), channel: at(channel), node: at(node) }, binding)) return false;
  return Object.entries(match).every(([pointer, value]) =>
    sameScalar(at(pointer), constantOf(value, placeOf(binding))),
  );
}

/** What must stand somewhere; a text may hold {index}, {channel} and {node}. */
function constantOf(value: Scalar, place: ReturnType<typeof placeOf>): Scalar {
  return typeof value === "string" ? fill(value, place) : value;
}

/** Whether a report carries a result, at a place of its own, that is not a yes. */
function saysNo(payload: Uint8Array, settings: FieldsSettings, binding: ChannelBinding): boolean {
  const { done, is = { value: "/value" } } = settings;
  const { result } = done ?? {};
  if (done === undefined || result === undefined || [is.value, is.red, is.green, is.blue].includes(result))
    return false;
  const read = documentFrom(payload);
  if (isGarbled(read)) return false;
  const raw = finder(read.document, binding)(result);
  return raw !== undefined && resultOf(raw, done.ok ?? YES, done.no ?? NO)?.ok !== true;
}

/** Looks up pointers of this channel; undefined where there is no pointer, or nothing there. */
function finder(
  document: unknown,
  { index, slug, node = "" }: ChannelBinding,
): (pointer: string | undefined) => unknown {
  return (pointer) => {
    if (pointer === undefined) return undefined;
    const found = lookUp(document, fill(pointer, { index, channel: slug, node }));
    return found === NOTHING ? undefined : found;
  };
}

function filled(template: Template, filling: Filling): unknown {
  if (typeof template === "string") {
    const only = /^\{([a-z]+)\}$/.exec(template)?.[1] as Hole | undefined;
    return only === undefined ? fill(template, filling) : filling[only];
  }
  if (Array.isArray(template)) return template.map((one) => filled(one, filling));
  if (typeof template !== "object" || template === null) return template;
  return Object.fromEntries(
    Object.entries(template).map(([name, one]) => [fill(name, filling), filled(one as Template, filling)]),
  );
}

/** What stands in the holes of a template, in a document that was made from it; null: it was not. */
function unfilled(template: Template, document: unknown): Partial<Record<Hole, unknown>> | null {
  if (typeof template === "string") {
    const only = /^\{([a-z]+)\}$/.exec(template)?.[1];
    if (only !== undefined) return { [only]: document };
    return typeof document === "string" ? readText(template, document) : null;
  }
  if (typeof template !== "object" || template === null) return template === document ? {} : null;
  if (typeof document !== "object" || document === null) return null;
  const all: Partial<Record<Hole, unknown>> = {};
  for (const [name, one] of Object.entries(template)) {
    const found = unfilled(one as Template, (document as Record<string, unknown>)[name]);
    if (found === null) return null;
    Object.assign(all, found);
  }
  return all;
}

/** What tells whose message it is: the channel, the command, and what must stand in it. */
function putNames(
  body: Record<string, unknown>,
  names: PlacePointers & { readonly id?: string; readonly number?: string },
  place: ReturnType<typeof placeOf>,
  id: string | null,
): void {
  for (const hole of ["index", "channel", "node"] as const)
    if (names[hole] !== undefined) put(body, names[hole], place[hole]);
  for (const [pointer, one] of Object.entries(names.match ?? {})) put(body, pointer, constantOf(one, place));
  if (id === null) return;
  if (names.id !== undefined) put(body, names.id, id);
  if (names.number !== undefined) put(body, names.number, Number(id));
}

function hasPlace(template: Template): boolean {
  return /\{(?:index|channel|node)\}/.test(JSON.stringify(template));
}

function namesPlace(pointers: {
  readonly index?: string;
  readonly channel?: string;
  readonly node?: string;
  readonly match?: Readonly<Record<string, Scalar>>;
  readonly value?: string;
}): boolean {
  const { index, channel, node, match = {}, value = "" } = pointers;
  return index !== undefined || channel !== undefined || node !== undefined || hasPlace(value) || hasPlace(match);
}

/** Puts a value where a pointer of plain names says. */
function put(body: Record<string, unknown>, pointer: string, value: unknown): void {
  const steps = pointer.split("/").slice(1);
  const last = steps.pop();
  if (last === undefined) return;
  let here = body;
  for (const step of steps) {
    here[step] ??= {};
    here = here[step] as Record<string, unknown>;
  }
  here[last] = value;
}
