/**
 * Our own payloads for new devices, JSON (RFC 8259):
 * `do` {"id":"…","to":"on"}, with "for":ms where the device times itself · `ask` {"id":"…"} · `done` {"id":"…","ok":true,"code":1}, with "why" in
 * words where it says no, and "ok":null from a translator that has passed it on and got no answer · `is` {"to":"on","by":"command","id":"…"} ·
 * `here` {"up":true,"boot":"…"}. Unknown fields are left alone, so that a device may say more.
 */

import { isOfKind } from "../channel/kind.ts";
import { isValue, type Value } from "../channel/value.ts";
import type { Report } from "../delivery/command-event.ts";
import { type CommandId, isUuid } from "../id.ts";
import { asideOf } from "./aside.ts";
import type { Acknowledgement, ChannelBinding, ChannelCodec, Codec, Garbled, Presence } from "./codec.ts";
import { isGarbled } from "./codec.ts";
import { documentFrom } from "./fields.ts";
import { encodeText, printable } from "./utf8.ts";

const REPORTERS: readonly unknown[] = ["command", "hand", "timer", "boot"];

export const json: Codec<{ readonly form: "json" }> = {
  name: "json",
  about: "JSON objects with ids, our own form for new devices",

  bind: (_settings, binding) => ({
    namesCommand: true,
    namesChannel: { do: false, done: false, is: false },
    levels: PLAIN_LEVELS,
    bitOf: null,
    aside: asideOf({}, binding),
    encode(id, to, forMs) {
      const is = turned(to, binding);
      const value = typeof is === "number" ? is : `"${is}"`;
      return encodeText(`{"id":"${id}","to":${value}${forMs === null ? "" : `,"for":${forMs}`}}`);
    },
    encodeAsk: (id) => encodeText(`{"id":"${id}"}`),
    decodeDone,
    decodeIs: (payload) => decodeIs(payload, binding),
  }),

  firmware: (_settings, binding) => ({
    bitOf: null,
    isAsked(payload) {
      const body = objectFrom(payload);
      return !isGarbled(body) && body.to === undefined;
    },
    hear(payload) {
      const body = objectFrom(payload);
      if (isGarbled(body) || typeof body.id !== "string" || !isValue(body.to)) return null;
      return { id: body.id, to: turned(body.to, binding), forMs: typeof body.for === "number" ? body.for : null };
    },
    answer: (id, ok, code, why) => encodeText(JSON.stringify({ id, ok, code, why })),
    report: (value, by, id) =>
      encodeText(JSON.stringify({ to: turned(value, binding), by: by ?? undefined, id: id ?? undefined })),
  }),

  decodeHere(_settings, payload): Presence | Garbled {
    const body = objectFrom(payload);
    if (isGarbled(body)) return body;
    const { up, boot } = body;
    if (typeof up !== "boolean") return { garbled: '"up" is not true or false' };
    if (boot !== undefined && (typeof boot !== "string" || boot.length > 64)) {
      return { garbled: '"boot" is not a text of at most 64 characters' };
    }
    return { up, boot: boot === undefined ? null : printable(boot, 128) };
  },

  encodeHere: (_settings, { up, boot }) => encodeText(JSON.stringify(up && boot !== null ? { up, boot } : { up })),
};

/** Our own form writes levels as they are. */
const PLAIN_LEVELS: ChannelCodec["levels"] = {
  levelWritten: (level) => level,
  colourWritten: (colour) => colour,
  spanAround: (level, tolerance) => [level - tolerance, level + tolerance],
};

const MOST_WORDS = 120;

/** What a device says is shown to people: no control characters, which could forge a line. */
function plainWords(text: string): string {
  return printable(text.replace(/[\p{Cc}\p{Cf}\u2028\u2029]+/gu, " ").trim(), 2 * MOST_WORDS);
}

function decodeDone(payload: Uint8Array): Acknowledgement | Garbled {
  const body = objectFrom(payload);
  if (isGarbled(body)) return body;
  const { id, ok, code, why } = body;
  if (typeof id !== "string" || !isUuid(id)) return { garbled: '"id" is not the id of a command' };
  if (typeof ok !== "boolean" && ok !== null)
    return ok === undefined
      ? { garbled: '"ok" is not true, false or null' }
      : { garbled: '"ok" is not true, false or null', unreadable: true };
  if (code !== undefined && !Number.isSafeInteger(code)) return { garbled: '"code" is not a whole number' };
  if (why !== undefined && (typeof why !== "string" || why.length > MOST_WORDS)) {
    return { garbled: `"why" is not a text of at most ${MOST_WORDS} characters` };
  }
  const answer = { id: id as CommandId, ok, code: (code as number | undefined) ?? null };
  return why === undefined ? answer : { ...answer, why: plainWords(why) };
}

function decodeIs(payload: Uint8Array, binding: ChannelBinding): Omit<Report, "live"> | Garbled {
  const body = objectFrom(payload);
  if (isGarbled(body)) return body;
  const { to, by, id, ok } = body;
  // One message with a result and a state: where the result is not a yes, the state proves nothing.
  if (ok !== undefined && ok !== true) return { garbled: '"ok" is not true, so "to" proves nothing' };
  if (!isValue(to)) return { garbled: '"to" is not "on", "off", "pulse", a colour or a number' };
  if (by !== undefined && !REPORTERS.includes(by)) {
    return { garbled: '"by" is not one of command, hand, timer, boot' };
  }
  if (id !== undefined && (typeof id !== "string" || !isUuid(id))) {
    return { garbled: '"id" is not the id of a command' };
  }
  const value = turned(to, binding);
  if (!isOfKind(value, binding.kind)) return { garbled: `${JSON.stringify(to)} is no value of a ${binding.kind.name}` };
  return { value, by: (by as Report["by"]) ?? null, id: (id as CommandId) ?? null };
}

/** Wired the other way round: made is open, and full is none. */
function turned(value: Value, { reversed, kind }: ChannelBinding): Value {
  if (!reversed) return value;
  if (value === "on" || value === "off") return value === "on" ? "off" : "on";
  return typeof value === "number" && kind.range ? kind.range.least + kind.range.most - value : value;
}

function objectFrom(payload: Uint8Array): Record<string, unknown> | Garbled {
  const read = documentFrom(payload);
  if (isGarbled(read)) return read;
  const { document: parsed } = read;
  if (typeof parsed !== "object" || parsed === null || Array.isArray(parsed)) return { garbled: "not a JSON object" };
  return parsed as Record<string, unknown>;
}
