/** Payloads of any form as a way to ask: read as a device would read its commands, by the same codecs. */
import { setpointAsk } from "../ask/setpoint-ask.ts";
import { kindOf } from "../channel/index.ts";
import { bindFirmware } from "../codec/index.ts";
import { encodeText } from "../codec/utf8.ts";
import type { Arrival, PayloadReading } from "./model.ts";

/** The payload of an arrival, as it came. */
export function payloadOf({ text, hex }: Arrival): Uint8Array {
  if (hex === null) return encodeText(text ?? "");
  return Uint8Array.from(hex.match(/../g) ?? [], (pair) => Number.parseInt(pair, 16));
}

/**
 * What a payload asks for.
 *
 * @returns null when it is no command of this form
 * @example a dimmer whose form is text with range 0-255, and “128” → { to: "50", action: "level", value: "50" }
 */
export function readPayload(
  { kind, form, index = 1, reversed = false }: PayloadReading,
  payload: Uint8Array,
): { to: string; action: string; value: string } | null {
  const heard = bindFirmware(form, { slug: "", index, kind: kindOf(kind), reversed }).hear(payload);
  if (!heard) return null;
  const { action, value = "" } = setpointAsk(heard.to);
  return { to: String(heard.to), action, value: String(value) };
}
