/** Joi schemas of what people say of matters that need attention. */
import { ALERT_KINDS } from "@bold-relay/core";
import Joi from "joi";
import type { CareBody } from "../attention-view.ts";
import { plainText } from "./text.ts";

const strict: Joi.ValidationOptions = { abortEarly: false, convert: false, errors: { wrap: { label: "“”" } } };

/** The body of `POST /attention`. */
export const careSchema = Joi.object<CareBody>({
  kind: Joi.valid(...ALERT_KINDS).required(),
  subject: plainText.min(1).max(300).required(),
  take: Joi.boolean(),
  note: plainText
    .allow("")
    .max(300)
    .pattern(/^[^\p{Cc}\u2028\u2029\u202a-\u202e\u2066-\u2069]*$/u)
    .messages({ "string.pattern.base": "{{#label}} holds a control character" }),
  muteHours: Joi.number().min(0).max(720),
  close: Joi.boolean(),
})
  .or("take", "note", "muteHours", "close")
  .required()
  .label("body")
  .prefs(strict);

/** The query of `GET /attention`. */
export const attentionQuerySchema = Joi.object<{ all?: boolean }>({ all: Joi.boolean() }).prefs({
  ...strict,
  convert: true,
});
