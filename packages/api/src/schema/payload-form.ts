/** Joi schemas of how a profile says what its payloads look like; the forms themselves are the core's codecs. */
import {
  type BytesSettings,
  byteParts,
  type FieldsSettings,
  holesOf,
  isPointer,
  type PayloadForm,
  type TextSettings,
} from "@bold-relay/core";
import Joi from "joi";
import { formOf } from "./forms.ts";

const scalar = Joi.alternatives(Joi.string().min(1).max(64), Joi.number(), Joi.boolean());

/** What all forms with settings share: see `Meaning` of the core. */
const meaning = {
  words: Joi.object({ on: scalar, off: scalar, pulse: scalar, stop: scalar }),
  range: Joi.array()
    .ordered(Joi.number().required(), Joi.number().required())
    .custom((range: [number, number], helpers) => (range[0] === range[1] ? helpers.error("range.empty") : range))
    .messages({ "range.empty": "{{#label}} holds the same number twice" }),
  decimals: Joi.number().integer().min(0).max(6),
  colours: Joi.valid("hash", "hex", "parts"),
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

const told = holes("value", "red", "green", "blue", "index", "channel", "id", "for");

const text = Joi.object<TextSettings>({
  form: Joi.valid("text").required(),
  ...meaning,
  do: told,
  doFor: told,
  ask: holes("index", "channel", "id"),
  is: holes("value", "red", "green", "blue", "index", "channel", "id"),
  done: Joi.object({
    pattern: holes("result", "index", "channel", "id"),
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

const fields = Joi.object<FieldsSettings>({
  form: Joi.valid("fields").required(),
  ...meaning,
  do: template.required(),
  doFor: template,
  ask: template,
  is: Joi.object({
    value: pointer,
    red: pointer,
    green: pointer,
    blue: pointer,
    index: pointer,
    channel: pointer,
    id: pointer,
    by: pointer,
    causes: Joi.object({
      command: Joi.array().items(scalar),
      hand: Joi.array().items(scalar),
      timer: Joi.array().items(scalar),
      boot: Joi.array().items(scalar),
    }),
  }).and("red", "green", "blue"),
  done: Joi.object({
    result: pointer,
    ok: Joi.array().items(scalar).min(1).max(20),
    no: Joi.array().items(scalar).max(20),
    index: pointer,
    channel: pointer,
    id: pointer,
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

const byte = Joi.number().integer().min(0).max(255);

const bytes = Joi.object<BytesSettings>({
  form: Joi.valid("bytes").required(),
  ...meaning,
  words: Joi.object({ on: byte, off: byte, pulse: byte, stop: byte }),
  do: bytePattern("value", "value16", "index", "sum").required(),
  ask: bytePattern("index", "sum"),
  is: bytePattern("value", "value16", "index", "sum"),
  done: Joi.object({
    pattern: bytePattern("result", "index", "sum").required(),
    ok: Joi.array().items(byte).min(1).max(20),
  }),
  here: Joi.object({ up: bytePattern().required(), down: bytePattern().required() }),
});

const withSettings: Readonly<Record<string, Joi.ObjectSchema>> = { text, fields, bytes };

/** A name where the form needs no settings, else an object with `form` in it. */
export const payloadForm = formOf(
  "payload",
  [Joi.valid("json", "word"), ...Object.values(withSettings)],
  (found: PayloadForm, helpers) => {
    if (found === "json" || found === "word") return found;
    const schema = typeof found === "object" && found !== null ? withSettings[found.form] : undefined;
    if (!schema) return helpers.error("form.unknown");
    const { error } = schema.validate(found, { abortEarly: false, convert: false });
    return error ? helpers.error("form.settings", { why: error.details.map((one) => one.message).join("; ") }) : found;
  },
).messages({
  "form.unknown": `{{#label}} is “json”, “word”, or an object with “form”: ${Object.keys(withSettings).join(", ")}`,
  "form.settings": "{{#label}}: {{#why}}",
});
