/** Joi schemas of how a profile says what its payloads look like; the forms themselves are the core's codecs. */
import {
  type ApartSettings,
  type BytesSettings,
  byteParts,
  COLOUR_ORDERS,
  type CodecName,
  codecNames,
  type FieldsSettings,
  holesOf,
  isPointer,
  type PayloadForm,
  type TextSettings,
  WORD_VALUES,
  type Words,
} from "@bold-relay/core";
import Joi from "joi";
import { formOf } from "./forms.ts";

const scalar = Joi.alternatives(Joi.string().min(1).max(64), Joi.number(), Joi.boolean());

/** What all forms with settings share: see `Meaning` of the core. */
const words = Joi.alternatives(scalar, Joi.array().items(scalar).min(1).max(20).unique());
const wordList = Joi.object<Words>(Object.fromEntries(WORD_VALUES.map((value) => [value, words])));

/** A channel's own words, in place of its profile's. */
export const channelWordsSchema = wordList;

const meaning = {
  // For all channels, or channel by channel in the order of their numbers.
  words: Joi.alternatives(wordList, Joi.array().items(wordList).min(1).max(512)),
  turned: Joi.boolean(),
  colourOrder: Joi.valid(...COLOUR_ORDERS),
  range: Joi.array()
    .ordered(Joi.number().required(), Joi.number().required())
    .custom((range: [number, number], helpers) => (range[0] === range[1] ? helpers.error("range.empty") : range))
    .messages({ "range.empty": "{{#label}} holds the same number twice" }),
  decimals: Joi.number().integer().min(0).max(6),
  scale: Joi.number().invalid(0),
  offset: Joi.number(),
  mireds: Joi.boolean(),
  bits: Joi.boolean(),
  signedBits: Joi.valid(8, 16, 32),
};

/** How values stand in texts. */
const asText = {
  ...meaning,
  base: Joi.valid(10, 16),
  digits: Joi.number().integer().min(1).max(16),
  comma: Joi.boolean(),
  colours: Joi.valid("hash", "hex", "parts", "hsv"),
  hsvRange: Joi.array().ordered(Joi.number().integer().min(1).required(), Joi.number().integer().min(1).required()),
  times: Joi.valid("ms", "s", "min"),
};

/** Text with holes of these names, none next to another: nobody could tell where one ends. */
function holes(...names: string[]) {
  return Joi.string()
    .min(1)
    .max(200)
    .custom((pattern: string, helpers) => {
      const unknown = holesOf(pattern).find((hole) => !names.includes(hole));
      if (unknown !== undefined) return helpers.error("hole.unknown", { unknown, names: names.join(", ") });
      return /\}\{/.test(pattern) ? helpers.error("hole.touching") : pattern;
    })
    .messages({
      "hole.unknown": "{{#label}} has a hole {{#unknown}}, and may have {{#names}}",
      "hole.touching": "{{#label}} has two holes with nothing between them",
    });
}

const PLACE = ["index", "channel", "node", "id"] as const;
const COLOUR = ["red", "green", "blue", "hue", "saturation", "brightness"] as const;
const written = holes("value", "list", ...COLOUR, ...PLACE, "number", "for", "ramp");

const text = Joi.object<TextSettings>({
  form: Joi.valid("text").required(),
  ...asText,
  charset: Joi.valid("utf-8", "latin1"),
  anyOrder: Joi.string().min(1).max(4),
  listSeparator: Joi.string().min(0).max(4).allow(""),
  listLength: Joi.number().integer().min(1).max(32),
  do: written.allow(""),
  doFor: written.allow(""),
  ask: holes(...PLACE),
  is: holes("value", "list", ...COLOUR, ...PLACE, "number", "*"),
  done: Joi.object({
    pattern: holes("result", ...PLACE, "number", "*"),
    ok: Joi.array().items(scalar).min(1).max(20),
    no: Joi.array().items(scalar).max(20),
  }),
  here: Joi.object({ up: scalar.required(), down: scalar.required() }),
});

/** RFC 6901, with {index} and {channel} in it. */
const pointer = Joi.string()
  .max(200)
  .custom((found: string, helpers) => (isPointer(found) ? found : helpers.error("pointer.form")))
  .messages({ "pointer.form": "{{#label}} is no JSON Pointer, like /relays/0/on" });

/** Any JSON of a sensible size: its texts may hold holes. */
const template = Joi.any()
  .custom((found: unknown, helpers) => (JSON.stringify(found).length > 2_000 ? helpers.error("template.long") : found))
  .messages({ "template.long": "{{#label}} is longer than 2000 characters" });

/** By pointer what must stand there. */
const match = Joi.object()
  .pattern(Joi.string().max(200), scalar)
  .min(1)
  .max(10)
  .custom((found: object, helpers) => (Object.keys(found).every(isPointer) ? found : helpers.error("pointer.names")))
  .messages({ "pointer.names": "{{#label}} has a name that is no JSON Pointer, like /dev" });
const place = { index: pointer, channel: pointer, node: pointer, id: pointer, number: pointer, match };

const fields = Joi.object<FieldsSettings>({
  form: Joi.valid("fields").required(),
  ...asText,
  do: template,
  doFor: template,
  ask: template,
  is: Joi.object({
    value: pointer,
    red: pointer,
    green: pointer,
    blue: pointer,
    hue: pointer,
    saturation: pointer,
    brightness: pointer,
    ...place,
    by: pointer,
    causes: Joi.object({
      command: Joi.array().items(scalar),
      hand: Joi.array().items(scalar),
      timer: Joi.array().items(scalar),
      boot: Joi.array().items(scalar),
    }),
  })
    .and("red", "green", "blue")
    .and("hue", "saturation", "brightness"),
  done: Joi.object({
    result: pointer,
    ok: Joi.array().items(scalar).min(1).max(20),
    no: Joi.array().items(scalar).max(20),
    ...place,
  }),
  here: Joi.object({ value: pointer, up: scalar.required(), down: scalar.required(), boot: pointer }),
});

/** "A0 {index} {value} {sum}" */
function bytePattern(...names: string[]) {
  return Joi.string()
    .max(200)
    .custom((pattern: string, helpers) => {
      const parts = byteParts(pattern);
      const known = parts.every((part) => !part.startsWith("{") || names.includes(part.slice(1, -1)));
      const whole = parts.join("").length === pattern.replaceAll(" ", "").length;
      return known && whole && parts.length > 0 ? pattern : helpers.error("bytes.form", { names: names.join(", ") });
    })
    .messages({ "bytes.form": "{{#label}} holds bytes like A0 and the holes {{#names}}, nothing else" });
}

const VALUES = ["value", "value16", "value16le", "value32", "value32le", "bcd"] as const;
const byte = Joi.number().integer().min(0).max(255);

const someBytes = Joi.alternatives(byte, Joi.array().items(byte).min(1).max(20).unique());
const byteWords = Joi.object(Object.fromEntries(WORD_VALUES.map((value) => [value, someBytes])));

const bytes = Joi.object<BytesSettings>({
  form: Joi.valid("bytes").required(),
  ...meaning,
  words: Joi.alternatives(byteWords, Joi.array().items(byteWords).min(1).max(512)),
  do: bytePattern(...VALUES, "index", "node", "sum"),
  ask: bytePattern("index", "node", "sum"),
  is: bytePattern(...VALUES, "index", "node", "sum", "*"),
  done: Joi.object({
    pattern: bytePattern("result", "index", "node", "sum", "*").required(),
    ok: Joi.array().items(byte).min(1).max(20),
  }),
  here: Joi.object({ up: bytePattern().required(), down: bytePattern().required() }),
});

/** The settings of each codec; null: its name is enough. One that is missing does not compile. */
const settingsOf: Readonly<Record<CodecName, Joi.ObjectSchema | null>> = {
  json: null,
  word: null,
  text,
  fields,
  bytes,
};
const NAMES = codecNames.filter((name) => settingsOf[name] === null);
const withSettings = new Map(
  Object.entries(settingsOf).flatMap(([name, schema]): [string, Joi.ObjectSchema][] =>
    schema ? [[name, schema]] : [],
  ),
);

/** Forms that are not put together of others. */
const plain = [Joi.valid(...NAMES), ...withSettings.values()];
const apart = Joi.object<ApartSettings>({
  form: Joi.valid("apart").required(),
  do: Joi.alternatives(...plain).required(),
  done: Joi.alternatives(...plain),
  is: Joi.alternatives(...plain),
  here: Joi.alternatives(...plain),
});
const ROLES = ["do", "done", "is", "here"] as const;

/** A name where the form needs no settings, else an object with `form` in it. */
export const payloadForm = formOf("payload", [...plain, apart], (found: PayloadForm, helpers) => {
  const why = typeof found === "object" && found?.form === "apart" ? apartMistake(found) : plainMistake(found);
  if (why === null) return found;
  return why === "" ? helpers.error("form.unknown") : helpers.error("form.settings", { why });
}).messages({
  "form.unknown": `{{#label}} is ${NAMES.map((name) => `“${name}”`).join(", ")}, or an object with “form”: ${[...withSettings.keys(), "apart"].join(", ")}`,
  "form.settings": "{{#label}}: {{#why}}",
});

/** @returns null when nothing is wrong, "" when there is no such form */
function plainMistake(found: unknown): string | null {
  if (NAMES.some((name) => name === found)) return null;
  const settings = typeof found === "object" && found !== null ? (found as { form?: unknown }) : null;
  const schema = typeof settings?.form === "string" ? withSettings.get(settings.form) : undefined;
  if (!schema) return "";
  const { error } = schema.validate(found, { abortEarly: false, convert: false });
  return error ? error.details.map((one) => one.message).join("; ") : resultMistake(found as PayloadForm);
}

function apartMistake(found: ApartSettings): string | null {
  const unknown = Object.keys(found).find((key) => key !== "form" && !ROLES.some((role) => role === key));
  if (unknown !== undefined) return `"${unknown}" is not allowed; it may have ${ROLES.join(", ")}`;
  if (found.do === undefined) return '"do" is required';
  for (const role of ROLES) {
    const part = found[role];
    const why = part === undefined ? null : plainMistake(part);
    if (why !== null) return `"${role}" ${why === "" ? "is no form of payload" : `: ${why}`}`;
  }
  return null;
}

/** A result that says yes and no at once. */
function resultMistake(form: PayloadForm): string | null {
  if (typeof form === "string" || form.form === "bytes" || form.form === "apart") return null;
  const { ok = [], no = [] } = form.done ?? {};
  const both = ok.find((one) => no.some((other) => String(one).trim() === String(other).trim()));
  return both === undefined ? null : `"done" has ${JSON.stringify(both)} both as a yes and as a no`;
}
