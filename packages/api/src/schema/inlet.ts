/** Joi schemas of inlets: what all kinds share, and what only one has. */
import { INLET_KINDS, type InletDescription, type InletKind, kindNames, ROLES } from "@bold-relay/core";
import Joi from "joi";
import type { LinkBody, PastBody, PhraseBody, RehearsalBody, TrialBody } from "../inlet-view.ts";
import { formOf } from "./forms.ts";
import { inletSettings, menu } from "./inlet-settings.ts";
import { payloadForm } from "./payload-form.ts";
import { pointer, routeChannel, routeTopic } from "./route-parts.ts";
import { plainLines, plainText } from "./text.ts";

const strict: Joi.ValidationOptions = { abortEarly: false, convert: false, errors: { wrap: { label: "“”" } } };

const slug = Joi.string()
  .pattern(/^[a-z0-9](?:[a-z0-9-]{0,38}[a-z0-9])?$/)
  .messages({
    "string.pattern.base": "{{#label}} may hold small letters, digits and hyphens, 1 to 40, no hyphen at either end",
  });
const words = plainText.trim().min(1).max(120);
const scalar = Joi.alternatives(Joi.string().max(200), Joi.number(), Joi.boolean());
const digits = Joi.string()
  .pattern(/^[0-9*#]{1,12}$/)
  .messages({ "string.pattern.base": "{{#label}} is 1 to 12 of 0-9, * and #" });

/** One of several forms, told apart by a member that only one of them has: what is wrong with it is said of that one. */
function oneOf(name: string, forms: Readonly<Record<string, Joi.ObjectSchema>>): Joi.AnySchema {
  return formOf(name, Object.values(forms), (found: unknown, helpers) => {
    const member = Object.keys(forms).find((one) => typeof found === "object" && found !== null && one in found);
    const form = member === undefined ? undefined : forms[member];
    if (!form) return helpers.error("form.none", { names: Object.keys(forms).join(", ") });
    const { error } = form.validate(found, strict);
    return error ? helpers.error("form.wrong", { why: error.details.map((one) => one.message).join("; ") }) : found;
  }).messages({ "form.none": "{{#label}} holds one of {{#names}}", "form.wrong": "{{#label}}: {{#why}}" });
}

const when = oneOf("when", {
  any: Joi.object({ any: Joi.valid(true).required() }),
  phrase: Joi.object({ phrase: Joi.valid(true).required() }),
  words: Joi.object({ words: words.required() }),
  topic: Joi.object({
    topic: routeTopic.required(),
    payload: Joi.object({
      kind: Joi.valid(...kindNames).required(),
      form: payloadForm.required(),
      index: Joi.number().integer().min(0).max(65_535),
      reversed: Joi.boolean(),
    }),
  }),
  fields: Joi.object({
    fields: Joi.object()
      .pattern(pointer, scalar)
      .min(1)
      .max(20)
      .messages({ "object.unknown": "{{#label}} is no JSON Pointer, like /type" })
      .required(),
  }),
  digits: Joi.object({ digits: digits.required() }),
  channel: Joi.object({
    channel: routeChannel.required(),
    becomes: Joi.valid("on", "off"),
    pressed: Joi.valid("once", "twice", "long"),
  })
    .xor("becomes", "pressed")
    .messages({
      "object.xor": "{{#label}} has either becomes or pressed",
      "object.missing": "{{#label}} needs becomes or pressed",
    }),
});

const mapping = oneOf("mapping", {
  table: Joi.object({
    table: Joi.object()
      .pattern(plainText.max(80), Joi.alternatives(plainText.max(80), Joi.number()))
      .min(1)
      .max(500)
      .required(),
  }),
  scale: Joi.object({
    scale: Joi.object({
      from: Joi.array().items(Joi.number()).length(2).required(),
      to: Joi.array().items(Joi.number()).length(2).required(),
    })
      .custom((found: { from: number[] }, helpers) =>
        found.from[0] === found.from[1] ? helpers.error("scale.empty") : found,
      )
      .messages({ "scale.empty": "{{#label}} begins and ends at the same number" })
      .required(),
  }),
  steps: Joi.object({
    steps: Joi.object({
      below: Joi.array()
        .items(Joi.array().ordered(Joi.number().required(), Joi.string().max(80).required()))
        .min(1)
        .max(50)
        .required(),
      otherwise: Joi.string().max(80).required(),
    }).required(),
  }),
});

const deed = oneOf("do", {
  phrase: Joi.object({ phrase: plainText.min(1).max(300).required() }),
  ignore: Joi.object({ ignore: Joi.valid(true).required() }),
  target: Joi.object({
    target: plainText.min(1).max(200).required(),
    action: plainText.min(1).max(60).required(),
    value: Joi.alternatives(Joi.string().max(1_000), Joi.number()),
    forMs: Joi.number().integer().min(200).max(86_400_000),
    map: Joi.object().pattern(/^[a-zA-Z]\w{0,30}$/, mapping),
  }),
});

const route = Joi.object({
  name: words,
  when: when.required(),
  only: Joi.object({
    senders: Joi.array().items(plainText.max(80)).min(1).max(1_000),
    role: Joi.valid(...ROLES),
    channel: Joi.object({
      address: plainText.max(200).required(),
      is: Joi.alternatives(Joi.string().max(40), Joi.number()).required(),
    }),
  }).min(1),
  do: deed.required(),
  reply: plainLines.max(500),
});

const reply = plainLines.min(1).max(1_000);

const description = {
  slug: slug.required(),
  name: words.max(80).required(),
  site: slug.allow(null).required(),
  paused: Joi.boolean(),
  quietAfterHours: Joi.number().min(0.01).max(8_760),
  perMinute: Joi.number().integer().min(1).max(6_000_000),
  senders: Joi.array().items(plainText.min(1).max(160)).max(10_000),
  roles: Joi.object()
    .pattern(plainText.max(160), Joi.valid(...ROLES))
    .max(10_000),
  synonyms: Joi.object().pattern(plainText.max(80), plainText.min(1).max(200)).max(2_000),
  replies: Joi.object({
    greeting: reply,
    help: reply,
    result: reply,
    waiting: reply,
    which: reply,
    unknown: reply,
    refused: reply,
    unknownSender: reply,
  }),
  routes: Joi.array().items(route).max(100_000),
};

const byKind = Object.fromEntries(
  INLET_KINDS.map((kind) => [
    kind,
    Joi.object<InletDescription>({ ...description, kind: Joi.valid(kind).required(), settings: inletSettings[kind] })
      .required()
      .label("inlet")
      .shared(menu),
  ]),
) as Record<InletKind, Joi.ObjectSchema<InletDescription>>;

/** One for each kind. */
export const inletFileSchemas: readonly Joi.ObjectSchema<InletDescription>[] = Object.values(byKind);

/** An inlet as it is described in a file or a form. */
export const inletSchema = Joi.object<InletDescription>({ kind: Joi.valid(...INLET_KINDS).required() })
  .unknown()
  .custom((found: InletDescription, helpers) => {
    const { error } = byKind[found.kind].validate(found, strict);
    return error
      ? helpers.message(
          {
            custom: error.details
              .slice(0, 10)
              .map((one) => one.message.replaceAll("{", "\\{"))
              .join("; "),
          },
          // With their places, for whoever shows each where it is.
          { details: error.details },
        )
      : found;
  })
  .required()
  .label("inlet")
  .prefs(strict);

/** The body of `POST /phrases`. */
export const phraseSchema = Joi.object<PhraseBody>({
  text: Joi.string().min(1).max(2_000).required(),
  rehearse: Joi.boolean(),
})
  .required()
  .label("body")
  .prefs(strict);

/** The body of `DELETE /inlets/:slug/links/:id`. */
export const linkSchema = Joi.object<LinkBody>({
  phrase: plainText.min(1).max(300).required(),
  hours: Joi.number().min(0.1).max(8_760),
})
  .required()
  .label("body")
  .prefs(strict);

const arrivalText = Joi.string().allow("").max(2_000);

const arrival = Joi.object({
  text: arrivalText,
  hex: Joi.string().hex().max(8_192),
  fields: Joi.any(),
  topic: Joi.string().min(1).max(500),
  digits,
  channel: Joi.string().min(1).max(130),
  sender: Joi.string().max(160),
  room: Joi.string().max(160),
})
  .min(1)
  .required();

/** The body of `POST /inlets/:slug/rehearse`. */
export const rehearsalSchema = Joi.object<RehearsalBody>({ inlet: Joi.object().unknown(), arrival })
  .required()
  .label("body")
  .prefs(strict);

/** The body of `POST /inlets/:slug/past`. */
export const pastSchema = Joi.object<PastBody>({
  inlet: Joi.object().unknown().required(),
  most: Joi.number().integer().min(1).max(200),
})
  .required()
  .label("body")
  .prefs(strict);

/** The body of `POST /inlets/:slug/try`. */
export const trialSchema = Joi.object<TrialBody>({ arrival, key: Joi.string().min(1).max(200) })
  .required()
  .label("body")
  .prefs(strict);
