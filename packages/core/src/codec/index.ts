/** Every form of payload, by name. A new form is its file, its line here and its settings in `payload-form.ts`: what is forgotten does not compile. */
import { joinCodecs, joinFirmware } from "./apart.ts";
import { bytes } from "./bytes.ts";
import type { ChannelBinding, ChannelCodec, Codec, Firmware, Garbled, Presence } from "./codec.ts";
import { fields } from "./fields.ts";
import { json } from "./json.ts";
import type { ApartSettings, PayloadForm, SettingsByForm } from "./payload-form.ts";
import { text } from "./text.ts";
import { word } from "./word.ts";

export const codecs: { readonly [Name in keyof SettingsByForm]: Codec<SettingsByForm[Name]> } = {
  json,
  word,
  text,
  fields,
  bytes,
};

export type CodecName = keyof typeof codecs;
export const codecNames = Object.keys(codecs) as CodecName[];

/** The codec of a profile, for one channel. */
export function bindCodec(form: PayloadForm, binding: ChannelBinding): ChannelCodec {
  if (isApart(form)) {
    const { do: told, done = told, is = told } = form;
    return joinCodecs(bindCodec(told, binding), bindCodec(done, binding), bindCodec(is, binding));
  }
  const { codec, settings } = codecOf(form);
  return codec.bind(settings, binding);
}

/** The device's side of it, for one channel. */
export function bindFirmware(form: PayloadForm, binding: ChannelBinding): Firmware {
  if (isApart(form)) {
    const { do: told, done = told, is = told } = form;
    return joinFirmware(bindFirmware(told, binding), bindFirmware(done, binding), bindFirmware(is, binding));
  }
  const { codec, settings } = codecOf(form);
  return codec.firmware(settings, binding);
}

/** The device's word on its link; never throws. */
export function decodePresence(form: PayloadForm, payload: Uint8Array): Presence | Garbled {
  if (isApart(form)) return decodePresence(form.here ?? form.is ?? form.do, payload);
  const { codec, settings } = codecOf(form);
  return codec.decodeHere(settings, payload);
}

/** What a device of this form says of its link. */
export function encodePresence(form: PayloadForm, presence: Presence): Uint8Array {
  if (isApart(form)) return encodePresence(form.here ?? form.is ?? form.do, presence);
  const { codec, settings } = codecOf(form);
  return codec.encodeHere(settings, presence);
}

function isApart(form: PayloadForm): form is ApartSettings {
  return typeof form === "object" && form.form === "apart";
}

function codecOf(form: Exclude<PayloadForm, ApartSettings>): { codec: Codec<object>; settings: object } {
  const settings = typeof form === "string" ? { form } : form;
  return { codec: codecs[settings.form] as unknown as Codec<object>, settings };
}
