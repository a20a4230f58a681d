/**
 * JSON of the device's own (RFC 8259): what is told is a template, what comes back is found by JSON Pointers (RFC 6901).
 * A text in the template that is nothing but a hole becomes what stands in it, in its own type.
 */

import type { Report } from "../delivery/command-event.ts";
import type { ChannelBinding } from "./codec.ts";
import { type Acknowledgement, type Codec, type Garbled, isGarbled, type Presence } from "./codec.ts";
import type { FieldsSettings, Template } from "./fields-settings.ts";
import { levelsOf, readColourParts, readValue } from "./meaning.ts";
import { lookUp, NOTHING } from "./pointer.ts";
import { type Filling, fill, type Hole, read as readText } from "./template.ts";
import { fillingOf, idFrom, isOfChannel, resultOf, textFrom } from "./text.ts";
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
    const { do: told, doFor = told, ask = {}, is = { value: "/value" }, done = {} } = settings;
    return {
      namesCommand: done.id !== undefined,
      namesChannel: {
        do: hasPlace(told) || wordsNameChannel(settings),
        done: namesPlace(done),
        is: namesPlace(is) || wordsNameChannel(settings),
      },
      levels: levelsOf(settings, binding),
      encode: (id, to, forMs) => {
        const filling = { ...fillingOf(to, settings, binding), id, for: forMs ?? "" };
        return encodeText(JSON.stringify(filled(forMs === null ? told : doFor, filling)));
      },
      encodeAsk: (id) => encodeText(JSON.stringify(filled(ask, { index: binding.index, channel: binding.slug, id }))),
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
    const { do: told, doFor = told, ask = {}, is = { value: "/value" }, done = {} } = settings;
    const place = { index: binding.index, channel: binding.slug };
    return {
      isAsked(payload) {
        const read = documentFrom(payload);
        if (isGarbled(read)) return false;
        const found = unfilled(ask, read.document);
        // A command may say all that a question does, and more.
        const order = unfilled(told, read.document) ?? unfilled(doFor, read.document);
        const isCommand = order?.value !== undefined || order?.red !== undefined;
        return found !== null && !isCommand && isOfChannel(found.index, found.channel, binding);
      },
      hear(payload) {
        const read = documentFrom(payload);
        if (isGarbled(read)) return null;
        const found = unfilled(told, read.document) ?? unfilled(doFor, read.document);
        if (!found || !isOfChannel(found.index, found.channel, binding)) return null;
        const to =
          found.red === undefined
            ? readValue(found.value, settings, binding)
            : readColourParts([found.red, found.green, found.blue]);
        const forMs = typeof found.for === "number" ? found.for : null;
        return to === null ? null : { id: typeof found.id === "string" ? found.id : null, to, forMs };
      },
      answer(id, ok, code) {
        if (ok === null) return null;
        const body = {};
        if (done.result !== undefined) put(body, done.result, ok ? (done.ok ?? YES)[0] : ((done.no ?? NO)[0] ?? code));
        putPlace(body, done, place);
        if (done.id !== undefined && id !== null) put(body, done.id, id);
        return encodeText(JSON.stringify(body));
      },
      report(value, by, id) {
        const filling = fillingOf(value, settings, binding);
        const body = {};
        for (const hole of ["red", "green", "blue"] as const)
          if (is[hole] !== undefined) put(body, is[hole], filling[hole]);
        if (is.red === undefined) put(body, fill(is.value ?? "/value", place), filling.value);
        putPlace(body, is, place);
        if (is.by !== undefined && by !== null) put(body, is.by, is.causes?.[by]?.[0] ?? by);
        if (is.id !== undefined && id !== null) put(body, is.id, id);
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
): Omit<Report, "live"> | Garbled | null {
  const read = documentFrom(payload);
  if (isGarbled(read)) return read;
  const at = finder(read.document, binding);
  if (!isOfChannel(at(is.index), at(is.channel), binding)) return null;
  const raw = is.red === undefined ? at(is.value ?? "/value") : null;
  // One of several channels that share the topic: this message says nothing of it.
  if (raw === undefined && /\{/.test(is.value ?? "")) return null;
  const value =
    raw === null ? readColourParts([at(is.red), at(is.green), at(is.blue)]) : readValue(raw, settings, binding);
  if (value === null && isOthersWord(raw, settings, binding)) return null;
  if (value === null) {
    return {
      garbled: `${JSON.stringify(raw) ?? "nothing"} at ${is.value ?? is.red} is no value of a ${binding.kind.name}`,
    };
  }
  const told = at(is.by);
  const by = CAUSES.find((cause) => (is.causes?.[cause] ?? [cause]).some((one) => sameScalar(told, one))) ?? null;
  return { value, by, id: idFrom(at(is.id)) };
}

function answerFrom(
  payload: Uint8Array,
  done: NonNullable<FieldsSettings["done"]>,
  binding: ChannelBinding,
): Acknowledgement | Garbled | null {
  const read = documentFrom(payload);
  if (isGarbled(read)) return read;
  const at = finder(read.document, binding);
  if (!isOfChannel(at(done.index), at(done.channel), binding)) return null;
  const id = idFrom(at(done.id));
  if (done.result === undefined) return { id, ok: true, code: null };
  const raw = at(done.result);
  if (raw === undefined) return { garbled: `there is no result at ${done.result}` };
  const result = resultOf(raw, done.ok ?? YES, done.no ?? NO);
  return result
    ? { id, ...result }
    : { garbled: `${JSON.stringify(raw)} at ${done.result} is neither a yes nor a no`, unreadable: true };
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
function finder(document: unknown, { index, slug }: ChannelBinding): (pointer: string | undefined) => unknown {
  return (pointer) => {
    if (pointer === undefined) return undefined;
    const found = lookUp(document, fill(pointer, { index, channel: slug }));
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

function putPlace(
  body: Record<string, unknown>,
  pointers: { readonly index?: string; readonly channel?: string },
  { index, channel }: { readonly index: number; readonly channel: string },
): void {
  if (pointers.index !== undefined) put(body, pointers.index, index);
  if (pointers.channel !== undefined) put(body, pointers.channel, channel);
}

function hasPlace(template: Template): boolean {
  return /\{(?:index|channel)\}/.test(JSON.stringify(template));
}

function namesPlace(pointers: {
  readonly index?: string;
  readonly channel?: string;
  readonly value?: string;
}): boolean {
  return pointers.index !== undefined || pointers.channel !== undefined || hasPlace(pointers.value ?? "");
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
