/**
 * Our own payloads for new devices, JSON (RFC 8259):
 * `do` {"id":"…","to":"on"}, with "for":ms where the device times itself · `done` {"id":"…","ok":true,"code":1} · `is` {"to":"on","by":"command","id":"…"} ·
 * `here` {"up":true,"boot":"…"}. Unknown fields are left alone, so that a device may say more.
 */
import { isValue } from "../channel/value.ts";
import type { Report } from "../delivery/transition.ts";
import { type CommandId, isUuid } from "../id.ts";
import { type Codec, type Garbled, isGarbled, MAX_PAYLOAD_BYTES } from "./codec.ts";
import { decodeText, encodeText } from "./text.ts";

const REPORTERS: readonly unknown[] = ["command", "hand", "timer", "boot"];

export const json: Codec = {
  name: "json",
  about: "JSON objects with ids, our own form for new devices",

  namesCommand: true,

  encode(id, to, forMs) {
    const value = typeof to === "number" ? to : `"${to}"`;
    return encodeText(`{"id":"${id}","to":${value}${forMs === null ? "" : `,"for":${forMs}`}}`);
  },

  decodeDone(payload) {
    const body = objectFrom(payload);
    if (isGarbled(body)) return body;
    const { id, ok, code } = body;
    if (typeof id !== "string" || !isUuid(id)) return { garbled: '"id" is not the id of a command' };
    if (typeof ok !== "boolean") return { garbled: '"ok" is not true or false' };
    if (code !== undefined && !Number.isSafeInteger(code)) return { garbled: '"code" is not a whole number' };
    return { id: id as CommandId, ok, code: (code as number | undefined) ?? null };
  },

  decodeIs(payload) {
    const body = objectFrom(payload);
    if (isGarbled(body)) return body;
    const { to, by, id } = body;
    if (!isValue(to)) return { garbled: '"to" is not "on", "off", "pulse" or a number' };
    if (by !== undefined && !REPORTERS.includes(by)) {
      return { garbled: '"by" is not one of command, hand, timer, boot' };
    }
    if (id !== undefined && (typeof id !== "string" || !isUuid(id))) {
      return { garbled: '"id" is not the id of a command' };
    }
    return { value: to, by: (by as Report["by"]) ?? null, id: (id as CommandId) ?? null };
  },

  decodeHere(payload) {
    const body = objectFrom(payload);
    if (isGarbled(body)) return body;
    const { up, boot } = body;
    if (typeof up !== "boolean") return { garbled: '"up" is not true or false' };
    if (boot !== undefined && (typeof boot !== "string" || boot.length > 64)) {
      return { garbled: '"boot" is not a text of at most 64 characters' };
    }
    return { up, boot: (boot as string) ?? null };
  },
};

function objectFrom(payload: Uint8Array): Record<string, unknown> | Garbled {
  if (payload.length === 0) return { garbled: "empty payload" };
  if (payload.length > MAX_PAYLOAD_BYTES) return { garbled: `longer than ${MAX_PAYLOAD_BYTES} bytes` };
  let parsed: unknown;
  try {
    parsed = JSON.parse(decodeText(payload));
  } catch {
    return { garbled: "not JSON in UTF-8" };
  }
  if (typeof parsed !== "object" || parsed === null || Array.isArray(parsed)) return { garbled: "not a JSON object" };
  return parsed as Record<string, unknown>;
}
