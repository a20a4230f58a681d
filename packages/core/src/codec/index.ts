/** Every form of payload, by name. A new form is its file plus its line here. */
import { type BytesSettings, bytes } from "./bytes.ts";
import type { ChannelCodec, Codec, Firmware, Garbled, Presence, Seat } from "./codec.ts";
import { type FieldsSettings, fields } from "./fields.ts";
import { json } from "./json.ts";
import { type TextSettings, text } from "./text.ts";
import { word } from "./word.ts";

export const codecs = { json, word, text, fields, bytes };

export type CodecName = keyof typeof codecs;
export const codecNames = Object.keys(codecs) as CodecName[];

/** How a profile says what its payloads look like: a form that needs no settings by its name, or a form with them. */
export type PayloadForm = "json" | "word" | TextSettings | FieldsSettings | BytesSettings;

/** The codec of a profile, for one channel. */
export function bindCodec(form: PayloadForm, seat: Seat): ChannelCodec {
  const { codec, settings } = codecOf(form);
  return codec.bind(settings, seat);
}

/** The device's side of it, for one channel. */
export function bindFirmware(form: PayloadForm, seat: Seat): Firmware {
  const { codec, settings } = codecOf(form);
  return codec.firmware(settings, seat);
}

/** The device's word on its link; never throws. */
export function decodePresence(form: PayloadForm, payload: Uint8Array): Presence | Garbled {
  const { codec, settings } = codecOf(form);
  return codec.decodeHere(settings, payload);
}

/** What a device of this form says of its link. */
export function encodePresence(form: PayloadForm, presence: Presence): Uint8Array {
  const { codec, settings } = codecOf(form);
  return codec.encodeHere(settings, presence);
}

function codecOf(form: PayloadForm): { codec: Codec<object>; settings: object } {
  const settings = typeof form === "string" ? { form } : form;
  return { codec: codecs[settings.form] as Codec<object>, settings };
}
