/**
 * Bare words and numbers, as many simple boards speak them: `do` on, off, pulse or 35 · `done` ok or no, or a
 * result code, 1 for done · `is` on, off or 35 · `here` up or down. Nothing names a command, so answers are told
 * apart by their turn. Case and spaces around do not matter.
 */
import { isValue, type Value } from "../channel/value.ts";
import { type Codec, type Garbled, MAX_PAYLOAD_BYTES } from "./codec.ts";
import { decodeText, encodeText } from "./text.ts";

const DONE_CODE = 1;
const YES: readonly string[] = ["ok", "done", "yes"];
const NO: readonly string[] = ["no", "error", "refused"];

export const word: Codec = {
  name: "word",
  about: "bare words and numbers, without ids",
  namesCommand: false,

  encode: (_id, to, forMs) => encodeText(forMs === null ? `${to}` : `${to} ${forMs}`),

  decodeDone(payload) {
    const text = wordFrom(payload);
    if (typeof text !== "string") return text;
    if (YES.includes(text)) return { id: null, ok: true, code: null };
    if (NO.includes(text)) return { id: null, ok: false, code: null };
    const code = numberFrom(text);
    if (code === null || !Number.isSafeInteger(code)) return { garbled: "neither ok, no nor a result code" };
    return { id: null, ok: code === DONE_CODE, code };
  },

  decodeIs(payload) {
    const text = wordFrom(payload);
    if (typeof text !== "string") return text;
    const value: Value | null = isValue(text) ? text : numberFrom(text);
    return value === null ? { garbled: "neither on, off, pulse nor a number" } : { value, by: null, id: null };
  },

  decodeHere(payload) {
    const text = wordFrom(payload);
    if (typeof text !== "string") return text;
    if (text !== "up" && text !== "down") return { garbled: "neither up nor down" };
    return { up: text === "up", boot: null };
  },
};

function wordFrom(payload: Uint8Array): string | Garbled {
  if (payload.length === 0) return { garbled: "empty payload" };
  if (payload.length > MAX_PAYLOAD_BYTES) return { garbled: `longer than ${MAX_PAYLOAD_BYTES} bytes` };
  try {
    return decodeText(payload).trim().toLowerCase();
  } catch {
    return { garbled: "not UTF-8" };
  }
}

/** Decimal numbers only: no hexadecimal, no exponent, nothing after it. */
function numberFrom(text: string): number | null {
  return /^-?\d{1,9}(?:\.\d{1,6})?$/.test(text) ? Number(text) + 0 : null;
}
